//! Plans: from the laps so far to what is to be run next.

mod campaign;
mod forecast;
mod readiness;
mod retest;
mod schedule;
mod spread;
mod tally;

pub use campaign::{Planner, looks};
pub use forecast::{Expected, Forecast};
pub use readiness::{MachineState, Obstacle, obstacles};
pub use retest::{Resolves, Retest, retests};
pub use schedule::{DoneLap, FAILURES_IN_A_ROW, Part, PlannedLap, Step, order, round};
