//! What the recorder inside graphics programs and its reader agree on: one file and its layout.
//!
//! ```text
//! 0          header       made by the reader; what processes say that the recorder is loaded into
//! 4,096      processes    512 of 1 KiB: each process that presented says who it is, once
//! 528,384    records      32 bytes a present, of all processes, in the order in which they took their places
//! ```
//! The reader makes the file ahead of the first process, writes zeros behind its end ahead of need, and says how far they go:
//! a process maps the file when the recorder is loaded, and never needs anything of the system afterwards.
//! Numbers are in the machine's own byte order: both sides run on it. A record is complete once its
//! `written` holds its own place counted from 1; what a killed process left half done does not.
//!
//! ```
//! use honest_lap_present_abi::{Api, RECORD_BYTES, Record};
//! let by = Record::by(Api::Glx, 3);
//! let record = Record { begun_ns: 5, surface: 7, took_ns: 3, thread: 11, by, written: 1 };
//! assert_eq!((record.api(), record.process()), (Some(Api::Glx), 3));
//! assert_eq!(Record::from_bytes(&record.to_bytes()), record);
//! assert_eq!(record.to_bytes().len(), RECORD_BYTES);
//! ```
#![no_std]
#![warn(missing_docs)]

#[cfg(feature = "read")]
extern crate alloc;

mod layout;
#[cfg(feature = "read")]
mod read;

pub use layout::*;
#[cfg(feature = "read")]
pub use read::{HeaderRead, ProcessRead, empty_header};
