//! How a lap that is under way, or was just run, stands.

use honest_lap_core::frame::Live;

/// How a lap that is under way, or was just run, stands.
#[derive(Clone, Copy, Debug)]
pub enum Meanwhile<'a> {
    /// Its frames are noted: how its pass stands, once there is one.
    Frames(Option<&'a Live>),
    /// What it produced is being summed, outside its time.
    Summing {
        /// The file, as the study names it.
        file: &'a str,
        /// How many bytes of it have been read.
        done: u64,
        /// How many it has.
        of: u64,
    },
}
