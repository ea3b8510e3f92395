//! What holds for the workspace as a whole.

mod arrows;
mod circles;
mod dependencies;
mod documented;
mod homes;
mod words;
