//! Reads logs of frame times, from anywhere, into passes; or says where and why not.
//!
//! A log is a table of numbers with a row a frame: how long each frame took, or the moment at which
//! it was shown. Which column holds what is told by its heading and its contents, or by the user; it
//! is never guessed where two readings are possible. What is no frame time is counted, told, and
//! never reaches the pass.
//!
//! ```text
//! file ─► decode ─► head ─► columns ─► plan ─► rows ─► series ─► pass
//! ```

mod beside;
mod columns;
mod decode;
mod error;
mod head;
mod number;
mod plan;
mod quick;
mod reading;
mod recording;
mod rows;
mod series;
mod words;

pub use beside::Other;
pub use error::LogError;
pub use plan::{Plan, Which, Wish};
pub use words::{As, TimeUnit};

use columns::columns;
use honest_lap_core::record::{Faults, Mark, Pass};
use rows::Job;
use std::fs::File;

/// A log that was read.
#[derive(Clone, Debug, PartialEq)]
pub struct Log {
    /// Its frames.
    pub pass: Pass,
    /// What it held that is no frame time.
    pub faults: Faults,
    /// Named places in it: comments, and the words of a column of marks.
    pub marks: Vec<Mark>,
    /// How it was read, in words: ``column 3 `frame_ms`, durations in milliseconds``.
    pub read_as: String,
    /// What it holds besides.
    pub other: Other,
}

/// Reads the log in `file`, as `wish` says where it says something.
///
/// The whole of a plain file is read in pieces, on two threads; a compressed one is unpacked into a
/// temporary file first.
pub fn read(file: &File, wish: &Wish) -> Result<Log, LogError> {
    let text = decode::decode(file)?;
    let head = head::read(&text)?;
    let plan = plan::plan(&head, wish)?;
    let read = rows::read(&text, &head, &plan)?;
    let (pass, faults, marks) = series::build(read, &plan)?;
    let read_as = plan.words(&head);
    let (kept, not_kept) = beside::sorted(&columns(&head), &plan.places());
    let job = Job::of(&text, &head, &plan)?;
    let other = beside::read(&job, (&kept, not_kept), &pass.shown)?;
    Ok(Log { pass, faults, marks, read_as, other })
}
