//! Findings from a lab to their words.
//!
//! Runs in under a second.

mod traps;
