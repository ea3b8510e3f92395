//! What core works out, against published cases, made-up mistakes, and simulated labs of known truth.

mod clean;
mod frames;
mod reference;
mod simulated_labs;
mod traps;
mod truth;
