//! Frames noted as a program presents them: the recorder is put into it, and what it writes is read.
//!
//! The recorder itself is the crate honest-lap-present; what it and this module agree on is
//! honest-lap-present-abi.

mod capture;
mod caught;
mod follow;
mod mark;
mod program;
mod recorder;
mod shared;
mod why;
mod witness;

pub(crate) use capture::{Capture, Tell};
pub use mark::{MarkError, MarkSignal, set_mark};
pub use recorder::RECORDS_NARROW;
