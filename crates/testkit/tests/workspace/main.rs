//! What holds for the workspace as a whole.

mod arrows;
mod circles;
mod dependencies;
mod homes;
mod words;
