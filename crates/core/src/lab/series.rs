//! Laps in series: those of one form of a task and one variant in one session. Whatever holds for all laps of a series is
//! looked up once for each, and not lap by lap.

use super::facts::KnownLap;
use crate::record::{LapHead, SessionName, Settings};
use std::borrow::Borrow;
use std::collections::HashMap;

/// A series of laps, in the order run.
#[derive(Clone, Debug)]
pub struct LapSeries<'l, L = KnownLap> {
    /// The workload.
    pub workload: &'l str,
    /// The form of its task.
    pub task: u32,
    /// The session.
    pub session: &'l SessionName,
    /// The variant.
    pub settings: &'l Settings,
    /// Its laps, counted or not.
    pub laps: Vec<&'l L>,
}

impl<'l, L: Borrow<LapHead>> LapSeries<'l, L> {
    /// Returns the series that `lap` is of, without any lap yet.
    fn begun_by(lap: &'l L) -> Self {
        let LapHead { workload, task, name, settings, .. } = lap.borrow();
        Self { workload, task: *task, session: &name.session, settings, laps: Vec::new() }
    }

    /// Returns the workload, rig and variant that it is of.
    pub(crate) fn cell(&self) -> (&'l str, &'l str, &'l Settings) {
        (self.workload, &self.session.rig, self.settings)
    }

    /// Returns whether any lap of it enters sums.
    pub(crate) fn counts(&self) -> bool {
        self.laps.iter().any(|&lap| lap.borrow().counts())
    }

    /// Returns the series as the heads of its laps.
    pub(crate) fn heads(&self) -> LapSeries<'l, LapHead> {
        let Self { workload, task, session, settings, .. } = *self;
        let laps = self.laps.iter().map(|&lap| lap.borrow()).collect();
        LapSeries { workload, task, session, settings, laps }
    }
}

/// Where the laps of each series lie among all.
pub(super) type Places = Vec<Vec<u32>>;

/// Returns where the laps of each series of `laps` lie, in the order in which they began.
pub(super) fn places<L: Borrow<LapHead>>(laps: &[L]) -> Places {
    let mut known: HashMap<_, usize> = HashMap::new();
    let mut all: Places = Vec::new();
    for (place, lap) in (0..).zip(laps) {
        let LapHead { workload, task, name, settings, .. } = lap.borrow();
        let series = *known.entry((workload, task, &name.session, settings)).or_insert_with(|| {
            all.push(Vec::new());
            all.len() - 1
        });
        all[series].push(place);
    }
    all
}

/// Returns `laps` in series, which lie at these places.
pub(super) fn at<'l, L: Borrow<LapHead>>(laps: &'l [L], places: &Places) -> Vec<LapSeries<'l, L>> {
    let series = |places: &Vec<u32>| {
        let laps: Vec<&L> = places.iter().map(|&place| &laps[place as usize]).collect();
        Some(LapSeries { laps: laps.clone(), ..LapSeries::begun_by(laps.first()?) })
    };
    places.iter().filter_map(series).collect()
}

/// Returns `laps` in series, in the order in which these began.
pub fn in_series<L: Borrow<LapHead>>(laps: &[L]) -> Vec<LapSeries<'_, L>> {
    at(laps, &places(laps))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::LapName;
    use crate::unit::Nanos;

    #[test]
    fn laps_of_one_form_and_variant_in_one_session_are_a_series() {
        let lap = |name: &str, task, threads: &str| {
            let settings = Settings::new(vec![("threads".to_owned(), threads.to_owned())]);
            let done = LapHead::done(LapName::parse(name).unwrap(), "still", settings, Nanos(5));
            LapHead { task, ..done }
        };
        let laps = [
            lap("heron-1.1", 1, "8"),
            lap("heron-1.2", 1, "4"),
            lap("heron-1.3", 1, "8"),
            lap("heron-1.4", 2, "8"),
            lap("heron-2.1", 1, "8"),
        ];
        let found = in_series(&laps);
        let told: Vec<(String, u32, Vec<u32>)> = found
            .iter()
            .map(|of| {
                let laps = of.laps.iter().map(|lap| lap.name.number).collect();
                (format!("{} {}", of.session, of.settings), of.task, laps)
            })
            .collect();
        let of = |what: &str, task, laps: &[u32]| (what.to_owned(), task, laps.to_vec());
        assert_eq!(
            told,
            [
                of("heron-1 threads=8", 1, &[1, 3]),
                of("heron-1 threads=4", 1, &[2]),
                of("heron-1 threads=8", 2, &[4]),
                of("heron-2 threads=8", 1, &[1]),
            ]
        );
        assert!(in_series::<LapHead>(&[]).is_empty());
    }
}
