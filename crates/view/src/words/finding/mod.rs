//! Findings in words: what each is called, what was seen, and what would resolve it.
//!
//! Every match is exhaustive: a new finding without words does not compile.

mod concerned;
mod kind;
mod name;
mod record;
mod resolve;
mod seen;

pub use concerned::rigs_of;
pub use kind::{Kind, impact_words, kinds};
pub use name::name;
pub use record::{changed_words, changes_words, picture_words, unlike_words, what_words};
pub use resolve::to_resolve;
pub use seen::{seen, seen_first};
