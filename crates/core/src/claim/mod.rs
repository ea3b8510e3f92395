//! Claims: sentences that people publish, checked against the laps.
//!
//! A sentence goes through the grammar into a [`Claim`], the laps answer it, and whatever the answer
//! is, the nearest sentence that holds is written in the same grammar. The grammar is described in
//! `docs/claims.md`.

mod amounts;
mod bounded;
mod check;
mod grammar;
mod names;
mod nearest;
mod number;
mod phrase;
mod reader;
mod reply;
mod sentence;
mod words;

pub use check::{Stand, check};
pub use grammar::{parse, parse_all};
pub use names::{ClaimError, Names};
pub use reply::{Answer, Part, Reply, Said, Unsaid};
pub use sentence::{Bound, Caution, Claim, Saying, Scope, Side, Sort};
