//! Which laps of a cell count, and why the others do not.

use super::ask::Ask;
use super::verdict::Refusal;
use crate::lab::{LapSeries, Run};
use crate::record::Outcome;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// The laps of a cell, told apart.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Counts {
    /// Laps that enter sums.
    pub counted: usize,
    /// Warm-up laps that were done.
    pub warm_up: usize,
    /// Laps that were not done, by what came of them.
    pub not_done: BTreeMap<Outcome, usize>,
    /// Why the last of those that a person saw failing failed.
    pub failed_with: Option<String>,
    /// Why the last of the others failed, with what its program last said.
    pub failed_because: Option<String>,
    /// Laps that a person has set aside.
    pub set_aside: usize,
    /// Laps that were done and have no value of the measure.
    pub without: usize,
    /// What was seen in the last of them, where the value was looked for.
    pub missing: Option<String>,
    /// Laps run while the workload was defined otherwise.
    pub other_task: usize,
    /// Sessions with at least one counted lap.
    pub sessions: usize,
}

impl Counts {
    /// Returns the laps of `all` series told apart by what they give to `measure`; those not of `task`
    /// were run under another form.
    pub(super) fn of(all: &[&LapSeries], measure: &str, task: u32, ask: &Ask) -> Self {
        let mut counts = Self::default();
        let mut sessions = BTreeSet::new();
        for series in all {
            if series.task != task {
                counts.other_task += series.len();
                continue;
            }
            let before = counts.counted;
            series.runs().for_each(|run| counts.add(&run, measure, ask));
            if counts.counted > before {
                sessions.insert(ask.counted_as(&series.session));
            }
        }
        counts.sessions = sessions.len();
        counts
    }

    fn add(&mut self, run: &Run<'_>, measure: &str, ask: &Ask) {
        let (alike, laps) = (run.alike, run.len());
        match run.yields() {
            _ if alike.set_aside.is_some() => self.set_aside += laps,
            lap if lap.value(measure).is_some() => self.counted += laps,
            _ if alike.outcome != Outcome::Done => {
                *self.not_done.entry(alike.outcome).or_default() += laps;
                let place = match alike.outcome {
                    Outcome::Failed => &mut self.failed_with,
                    _ => &mut self.failed_because,
                };
                let reason = run.laps().filter_map(|lap| ask.reasons.get(&lap.name())).last();
                *place = reason.cloned().or(place.take());
            }
            _ if alike.warm_up => self.warm_up += laps,
            _ => {
                self.without += laps;
                let read = alike.read().iter().find(|reading| reading.name == measure);
                let seen = read.map(|reading| reading.seen.clone());
                self.missing = seen.or_else(|| self.missing.take());
            }
        }
    }

    /// Returns how many laps do not count, warm-ups included.
    pub fn not_counted(&self) -> usize {
        let not_done: usize = self.not_done.values().sum();
        self.warm_up + self.set_aside + self.without + self.other_task + not_done
    }

    /// Returns how many laps speak against the program.
    pub fn failed(&self) -> usize {
        self.not_done.iter().filter(|(outcome, _)| outcome.is_failure()).map(|(_, laps)| laps).sum()
    }

    /// Returns why a cell of these laps has nothing that could be compared.
    pub(super) fn refusal(&self) -> Refusal {
        match (self.counted, self.not_counted()) {
            (0, 0) => Refusal::NeverRun,
            (0, _) if self.failed() > 0 => Refusal::Failed,
            (0, _) => Refusal::NoLaps,
            _ => Refusal::NoRatio,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::Laps;
    use crate::record::{LapHead, LapName, Settings};
    use crate::unit::Nanos;

    #[test]
    fn every_lap_is_told_apart() {
        let lap = |name: &str, task, warm_up, outcome| {
            let name = LapName::parse(name).unwrap();
            let done = LapHead::done(name, "w", Settings::default(), Nanos(1));
            LapHead { task, warm_up, outcome, ..done }
        };
        let laps = [
            lap("heron-1.1", 2, true, Outcome::Done),
            lap("heron-1.2", 2, false, Outcome::Done),
            lap("heron-1.3", 2, false, Outcome::Signal),
            lap("heron-1.4", 2, true, Outcome::OverLimit),
            lap("heron-2.1", 2, false, Outcome::Done),
            lap("heron-2.2", 1, false, Outcome::Done),
        ];
        let laps = Laps::from(&laps[..]);
        let series: Vec<&LapSeries> = laps.series().iter().collect();
        let counts = Counts::of(&series, "time", 2, &Ask::default());
        assert_eq!((counts.counted, counts.sessions, counts.warm_up), (2, 2, 1));
        assert_eq!(counts.not_counted(), 4);
        assert_eq!(counts.not_done.values().sum::<usize>() + counts.other_task, 3);
    }
}
