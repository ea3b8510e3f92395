//! Records in, figures out: what `lap plot` draws, without a file.

mod frames;
mod worth;

pub use frames::{passes, tail};
pub use worth::worth;
