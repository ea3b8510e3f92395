//! The heart of Honest Lap: values in, values out.
//!
//! This crate knows what a lap, a workload, a rig and a session are, how to read quantities as
//! people write them, in which order laps are run, how laps are summed up, and what a
//! difference between two cells supports. It never reads a file, a clock, a process, a terminal
//! or a random seed of its own.
//!
//! A folder is a layer, and names nothing to its right:
//!
//! ```text
//! unit stat │ record │ frame capacity endurance entry │ kind │ lab │ estimate │ judge │ finding claim value │ plan │ analysis
//! ```
//!
//! ```
//! use honest_lap_core::judge::{Assumptions, Cell, Verdict, across_rigs};
//!
//! let heron = Cell::from_sessions(vec![vec![61.2, 60.8, 61.4]])?;
//! let wren = Cell::from_sessions(vec![vec![83.1, 82.7, 83.5]])?;
//! let said = across_rigs(&heron, &wren, &Assumptions::default());
//! assert_eq!(said.verdict, Verdict::Slower);
//! # Ok::<(), honest_lap_core::stat::StatError>(())
//! ```
#![warn(missing_docs)]

mod both;

pub mod analysis;
pub mod capacity;
pub mod claim;
pub mod endurance;
pub mod entry;
pub mod estimate;
pub mod finding;
pub mod frame;
pub mod judge;
pub mod kind;
pub mod lab;
pub mod plan;
pub mod record;
pub mod stat;
pub mod unit;
pub mod value;

pub use both::both;
