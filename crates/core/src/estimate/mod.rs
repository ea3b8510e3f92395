//! The model of variance: what a cell, or the difference of two, is estimated to be, and how surely.
//!
//! ```text
//! y = ln(value) = μ(rig, variant) + D(rig, session) + I(rig, session, variant) + ε(lap)
//! ```
//! D is the between-session variation that all laps of a day share, with the standard deviation τ; I is what a
//! variant has of its own on a day; ε differs from lap to lap. An [`Estimate`] is a contrast of the μ. Every interval
//! of the tool is `log ± t(confidence; degrees)·√variance`, and every verdict, rank and index is read off such intervals.

mod between;
mod contrast;
mod in_turn;
mod side;
mod spread;

pub use between::{
    ASSUMED_SD, BetweenSessions, INTERACTION, MOST_FURTHER, PRIOR_DEGREES, STATED_DEGREES, Unit,
};
pub use contrast::Estimate;
pub use in_turn::{in_turn, pairs_needed};
pub use side::{CONTRADICTS, ENOUGH_SESSIONS, Side, difference};
pub use spread::{LapSpread, MOST_LENT};
