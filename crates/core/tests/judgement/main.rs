//! What core works out, against published cases and simulated labs of known truth.
//!
//! Runs for about 8 s on two cores; `LAP_LABS` draws more labs.

mod clean;
mod frames;
mod grid;
mod mended;
mod reference;
mod singles;
mod truth;
mod typed;
mod zeros;
