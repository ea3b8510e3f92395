//! Frames: a pass's frame times in, named measures out.
//!
//! A pass is a series of frame times in whole nanoseconds, each above zero: how long each frame was
//! on the screen. What was missing or made no sense in a log never gets here. Rates are frames over
//! time, never means of instantaneous rates, which read 3 to 60 % high.

mod against;
mod busy;
mod cap;
mod cell;
mod curve;
mod cut;
mod display;
mod edge;
mod hitch;
mod live;
mod low;
mod measures;
mod pass;
mod played;
mod stream;
mod stretch;
mod sums;

pub use against::Against;
pub use busy::{Busy, HoldsRate, RATES, busy};
pub use cap::{Cap, cap};
pub use cell::{PassesSummed, passes_summed};
pub use curve::{Column, TailPoint, envelope, tail};
pub use cut::{Cut, Stretch};
pub use display::{Display, Paced, paced};
pub use edge::{CutError, Cutting, Edge};
pub use hitch::{Hitch, LEAST_HITCH, SURROUNDINGS, hitches};
pub use live::{Live, live};
pub use low::{
    LEAST_FRAMES_LOW_01, LEAST_FRAMES_LOW_1, Slowest, low_percentile, slowest, time_weighted,
};
pub use measures::{
    AVERAGE_RATE, HEADLINES, HITCHES_A_MINUTE, LOW_1, is_measure, measures, readings,
};
pub use pass::{Digest, Faults, Mark, Pass, PassAbout};
pub use played::{Played, played};
pub use stream::{
    Api, Choice, Ends, MarkKind, Present, PresentedPass, Stream, TimedMark, carriers, choose,
    presented_pass,
};
pub use stretch::{Looks, Proposal, proposals};
pub use sums::{Sums, average_rate, sums};
