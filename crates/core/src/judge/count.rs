//! Which laps of a cell count, and why the others do not.

use crate::lap::{LapHead, Outcome};
use std::collections::{BTreeMap, BTreeSet};

/// The laps of a cell, told apart.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Counts {
    /// Laps that enter sums.
    pub counted: usize,
    /// Warm-up laps that were done.
    pub warm_up: usize,
    /// Laps that were not done, by what came of them.
    pub not_done: BTreeMap<Outcome, usize>,
    /// Laps driven while the workload was defined otherwise.
    pub other_task: usize,
    /// Sessions with at least one counted lap.
    pub sessions: usize,
}

impl Counts {
    /// Returns the laps of `laps` told apart; those not of `task` were driven under another form.
    pub(super) fn of(laps: &[&LapHead], task: u32) -> Self {
        let mut counts = Self::default();
        let mut sessions = BTreeSet::new();
        for lap in laps {
            match lap {
                lap if lap.task != task => counts.other_task += 1,
                lap if lap.outcome != Outcome::Done => {
                    *counts.not_done.entry(lap.outcome).or_default() += 1;
                }
                lap if lap.warm_up => counts.warm_up += 1,
                lap => {
                    counts.counted += 1;
                    sessions.insert(&lap.name.session);
                }
            }
        }
        counts.sessions = sessions.len();
        counts
    }

    /// Returns how many laps do not count, warm-ups included.
    pub fn not_counted(&self) -> usize {
        self.warm_up + self.other_task + self.not_done.values().sum::<usize>()
    }

    /// Returns why laps other than warm-ups do not count, most telling first.
    pub fn why_not(&self) -> Vec<String> {
        let mut reasons: Vec<String> =
            self.not_done.iter().map(|(outcome, n)| format!("{n} {}", outcome.phrase())).collect();
        if self.other_task > 0 {
            reasons.push(format!("{} under another definition", self.other_task));
        }
        reasons
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lap::LapName;
    use crate::time::Nanos;
    use crate::variant::Settings;

    #[test]
    fn every_lap_is_told_apart() {
        let lap = |name: &str, task, warm_up, outcome| LapHead {
            name: LapName::parse(name).unwrap(),
            workload: "w".into(),
            settings: Settings::default(),
            task,
            round: 1,
            warm_up,
            outcome,
            wall: Some(Nanos(1)),
        };
        let laps = [
            lap("heron-1.1", 2, true, Outcome::Done),
            lap("heron-1.2", 2, false, Outcome::Done),
            lap("heron-1.3", 2, false, Outcome::Signal),
            lap("heron-1.4", 2, true, Outcome::OverLimit),
            lap("heron-2.1", 2, false, Outcome::Done),
            lap("heron-2.2", 1, false, Outcome::Done),
        ];
        let counts = Counts::of(&laps.iter().collect::<Vec<_>>(), 2);
        assert_eq!((counts.counted, counts.sessions, counts.warm_up), (2, 2, 1));
        assert_eq!(counts.not_counted(), 4);
        assert_eq!(
            counts.why_not(),
            ["1 ended by a signal", "1 over its limit", "1 under another definition"]
        );
    }
}
