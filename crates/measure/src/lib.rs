//! Makes laps happen: starts, times, watches and ends programs, and emits events.
//!
//! Prints nothing and decides nothing about what a result means. A lap that fails is data; only
//! what keeps laps from being run at all is an error.

mod endure;
mod error;
mod event;
mod fill;
mod frames;
mod keys;
mod lap;
mod last_words;
mod leftover;
mod meanwhile;
mod meter;
mod modes;
mod neighbours;
mod os;
mod picture;
mod place;
mod plain_file;
mod product;
mod reading;
mod readout;
mod rest;
mod run;
mod sampler;
mod spool;
pub mod starter;
mod stop;
mod version;
mod whole_file;

pub use error::MeasureError;
pub use event::{Event, LapStart, Sink, SinkError};
pub use frames::presented::{MarkError, MarkSignal, RECORDS_NARROW, set_mark};
pub use honest_lap_core::frame::MarkKind;
pub use keys::{Key, Keys};
pub use lap::LapResult;
pub use leftover::{UnderWay, end_left};
pub use meanwhile::Meanwhile;
pub use meter::{Silence, SilentMeter};
pub use os::{Machine, now, on_mains, read_rig, read_state, sensor_names};
pub use place::Place;
pub use plain_file::open_plain;
pub use product::sha256_of;
pub use run::{Ending, Plan, PlannedPart, run_laps};
pub use stop::Stop;
pub use version::read_versions;
pub use whole_file::{Part, write_whole};
