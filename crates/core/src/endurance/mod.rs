//! Endurance: a task repeated, a program that draws frames, or an idle wait, for a stated time.
//!
//! A lap keeps when each repetition began and how long it took; what that comes to is a copy,
//! kept beside it for comparisons.

mod amounts;
mod drain;
mod endured;
mod measures;
mod rate_profile;
mod wander;

pub use amounts::rate_unit;
pub use drain::{Drain, drain};
pub use endured::{Endured, Evidence, Stretches, Throttle};
pub use measures::{
    BATTERY_POWER, CHARGE, FIRST, HOURS, KEPT, RATE, SETTLED, STEADY, is_measure, is_minor,
    measures,
};
pub use rate_profile::{LEAST, RateProfile, rate_profile};
