//! What a lap gives to sums: its time, and what was read from it, where these count.

use super::readings::Readings;
use crate::record::{Outcome, TIME};
use crate::unit::Nanos;

/// What sums read of a lap.
#[derive(Clone, Copy, Debug)]
pub struct Yield<'l> {
    /// Whether it only warms up.
    pub warm_up: bool,
    /// Whether a person has set it aside.
    pub is_set_aside: bool,
    /// What came of it.
    pub outcome: Outcome,
    /// Time from start to reap; `None` if nothing was started.
    pub wall: Option<Nanos>,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// The step in which its time was read by hand.
    pub step: Option<Nanos>,
    /// What else was read from it.
    pub readings: Readings<'l>,
}

impl Yield<'_> {
    /// Returns the time of its work: of the parts that count, or of all of it.
    pub fn time(self) -> Option<Nanos> {
        self.parts.or(self.wall)
    }

    /// Returns the time that enters sums: that of a lap that was done, is no warm-up and was not
    /// set aside.
    pub fn counted(self) -> Option<Nanos> {
        self.time().filter(|_| self.outcome == Outcome::Done && self.stands())
    }

    /// Returns the value of the measure `name` that enters sums.
    pub fn value(self, name: &str) -> Option<f64> {
        self.yielded(name).filter(|_| self.stands())
    }

    /// Returns the value of the measure `name`, whether or not it enters sums.
    ///
    /// A lap of which one reading failed still yields the others; its time does not count, since
    /// less may have been done in it.
    pub fn yielded(self, name: &str) -> Option<f64> {
        if name == TIME {
            let time = self.time().filter(|_| self.outcome == Outcome::Done);
            return time.map(Nanos::seconds);
        }
        let yields = matches!(self.outcome, Outcome::Done | Outcome::ReadingFailed);
        self.readings.value(name).filter(|_| yields)
    }

    /// Returns whether anything of it enters a sum: its time, or what was read from it.
    pub fn counts(self) -> bool {
        let read = || self.readings.names().any(|name| self.value(name).is_some());
        self.counted().is_some() || read()
    }

    /// Returns the step in which the measure `name` was read, where that is known.
    pub fn step_of(self, name: &str) -> Option<f64> {
        if name == TIME {
            return self.step.map(Nanos::seconds);
        }
        self.readings.step(name)
    }

    fn stands(self) -> bool {
        !self.warm_up && !self.is_set_aside
    }
}
