//! Frames: a pass's frame times in, named measures out.
//!
//! A pass is a series of frame times in whole nanoseconds, each above zero: how long each frame was
//! on the screen. What was missing or made no sense in a log never gets here. Rates are frames over
//! time, never means of instantaneous rates, which read 3 to 60 % high.

mod busy;
mod cap;
mod cell;
mod curve;
mod display;
mod edge;
mod hitch;
mod limiter;
mod live;
mod low;
mod measures;
mod pass;
mod played;
mod stream;
mod stretch;
mod sums;

pub use busy::{RATES, busy};
pub use cap::{cap, cap_of};
pub use cell::{PassesSummed, passes_summed};
pub use curve::{Column, TailPoint, envelope, tail};
pub use display::paced;
pub use edge::{CutError, Cutting, Edge};
pub use hitch::{Hitch, LEAST_HITCH, SURROUNDINGS, hitches};
pub use live::{Live, live};
pub use low::{
    LEAST_FRAMES_LOW_01, LEAST_FRAMES_LOW_1, Slowest, low_percentile, slowest, time_weighted,
};
pub use measures::{
    AVERAGE_RATE, HITCHES_A_MINUTE, LOW_1, UNCAPPED_RATE, is_measure, is_minor, measures, readings,
};
pub use played::played;
pub use stream::{
    Api, MarkKind, Present, PresentedPass, Stream, TimedMark, carriers, choose, presented_pass,
};
pub use stretch::{Looks, Proposal, proposals, proposals_of};
pub use sums::{average_rate, sums};
