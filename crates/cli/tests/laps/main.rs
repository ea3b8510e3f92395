//! Laps that are really run: awkward programs, kills, limits, loads, long runs.

mod awkward;
mod campaigns;
mod capacity;
mod clean;
mod control;
mod crash;
mod documented;
mod endurance;
mod memory;
mod real_programs;
mod swapping;
mod trouble;
