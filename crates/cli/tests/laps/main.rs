//! Laps that are really run: awkward programs, kills, limits, loads, long runs.
//!
//! Runs for about 135 s on two cores: thirty clean sessions, two hundred kills, a program compiled and a film encoded.

mod awkward;
mod campaigns;
mod capacity;
mod clean;
mod control;
mod crash;
mod documented;
mod endurance;
mod fighting;
mod limited;
mod limits;
mod memory;
mod real_programs;
mod swapping;
mod trouble;
