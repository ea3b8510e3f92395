//! Records in, figures out: what `lap plot` draws, without a file.

mod frames;

pub use frames::{passes, tail};
