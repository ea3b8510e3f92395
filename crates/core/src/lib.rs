//! The heart of Honest Lap: values in, values out.
//!
//! This crate knows what a lap, a workload, a rig and a session are, how to read quantities as
//! people write them, in which order laps are driven, how laps are summed up, and what a
//! difference between two cells supports. It never reads a file, a clock, a process, a terminal
//! or a random seed of its own.
//!
//! ```
//! use honest_lap_core::judge::{Assumptions, Cell, across_rigs};
//!
//! let heron = Cell::from_sessions(vec![vec![61.2, 60.8, 61.4]])?;
//! let wren = Cell::from_sessions(vec![vec![83.1, 82.7, 83.5]])?;
//! let said = across_rigs(&heron, &wren, &Assumptions::default());
//! assert_eq!(said.verdict.to_string(), "slower");
//! # Ok::<(), honest_lap_core::stat::StatError>(())
//! ```
#![warn(missing_docs)]

pub mod campaign;
pub mod capacity;
pub mod claim;
pub mod conditions;
pub mod doubt;
pub mod endurance;
pub mod energy;
pub mod entry;
pub mod estimate;
pub mod forecast;
pub mod frame;
pub mod judge;
pub mod lap;
pub mod limit;
pub mod measure;
pub mod peak;
pub mod plain;
pub mod random;
pub mod readiness;
pub mod remark;
pub mod retest;
pub mod rig;
pub mod samples;
pub mod schedule;
pub mod session;
pub mod stat;
pub mod stopwatch;
pub mod study;
pub mod template;
pub mod time;
pub mod unit;
pub mod value;
pub mod variant;
pub mod wide;
pub mod work;
pub mod workload;
