//! Many laps, in series.

use super::columns::Columns;
use super::facts::KnownLap;
use super::lap_details::{DetailsOfLap, LapDetails};
use super::lap_times::LapTimes;
use super::series::{Lap, LapSeries};
use crate::record::{LapHead, LapName, SessionName, Settings, Study};
use std::collections::HashMap;
use std::hash::{BuildHasher, RandomState};
use std::sync::Arc;

/// Laps in series, in the order in which these began.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Laps {
    series: Vec<LapSeries>,
}

impl Laps {
    /// Returns the series.
    pub fn series(&self) -> &[LapSeries] {
        &self.series
    }

    /// Returns how many laps they have.
    pub fn len(&self) -> usize {
        self.series.iter().map(LapSeries::len).sum()
    }

    /// Returns whether they have none.
    pub fn is_empty(&self) -> bool {
        self.series.is_empty()
    }

    /// Returns every lap, series by series.
    pub fn iter(&self) -> impl Iterator<Item = Lap<'_>> {
        self.series.iter().flat_map(LapSeries::laps)
    }

    /// Returns every lap, session by session, each in the order run.
    pub fn in_order(&self) -> Vec<Lap<'_>> {
        let mut places: HashMap<&SessionName, usize> = HashMap::new();
        for series in &self.series {
            let next = places.len();
            places.entry(&series.session).or_insert(next);
        }
        let mut all: Vec<Lap<'_>> = self.iter().collect();
        all.sort_by_cached_key(|lap| (places[lap.session()], lap.number));
        all
    }

    /// Returns the lap called `name`, if it is there.
    pub fn lap(&self, name: &LapName) -> Option<Lap<'_>> {
        let mut of = self.series.iter().filter(|series| series.session == name.session);
        of.find_map(|series| series.lap(name.number))
    }

    /// Returns them with all series of `others` behind theirs.
    pub fn with(mut self, others: Self) -> Self {
        self.series.extend(others.series);
        self
    }

    /// Returns those series that `change` makes of them.
    pub(super) fn filter_map(&self, change: impl Fn(&LapSeries) -> Option<LapSeries>) -> Self {
        Self { series: self.series.iter().filter_map(change).collect() }
    }

    /// Tells their variants as `study` does.
    pub fn told_by(&mut self, study: &Study) {
        study.tell(self.series.iter_mut().map(|one| (one.workload.as_str(), &mut one.settings)));
    }
}

/// Laps on their way into series.
#[derive(Debug, Default)]
pub struct Packing {
    series: Vec<(LapSeries, Columns)>,
    /// Where series lie whose keys have this hash.
    known: HashMap<u64, Vec<usize>>,
    hashes: RandomState,
}

impl Packing {
    /// Adds a lap behind the others.
    pub fn push(&mut self, lap: KnownLap) {
        self.columns_of(&lap).push(lap);
    }

    /// Adds a lap behind the others of which `details` are known besides its head, which reads nothing and has no parts.
    pub fn push_with(&mut self, head: &LapHead, details: DetailsOfLap<'_>) {
        self.columns_of(head).push_with(head, details);
    }

    /// Adds laps behind the others that are like `one` of them, and what differs between them.
    pub fn push_alike(&mut self, one: KnownLap, laps: &LapTimes) {
        self.columns_of(&one).push_alike(one, laps);
    }

    /// Adds laps behind the others that are like `one` of them but for their times and for `details`, which are of as many.
    pub fn push_detailed(&mut self, one: &LapHead, laps: &LapTimes, details: &LapDetails) {
        self.columns_of(one).push_detailed(one, laps, details);
    }

    /// Returns what was added, in series.
    pub fn packed(self) -> Laps {
        let settled = |(series, mut columns): (LapSeries, Columns)| {
            columns.settle();
            LapSeries { laps: Arc::new(columns), ..series }
        };
        Laps { series: self.series.into_iter().map(settled).collect() }
    }

    /// Returns the columns of the series that `lap` is of.
    fn columns_of(&mut self, lap: &LapHead) -> &mut Columns {
        let LapHead { workload, task, name, settings, .. } = lap;
        let key = (workload.as_str(), *task, &name.session, settings);
        let hash = self.hashes.hash_one(key);
        let same = |place: &&usize| key_of(&self.series[**place].0) == key;
        let found = self.known.get(&hash).and_then(|places| places.iter().find(same)).copied();
        let place = found.unwrap_or_else(|| {
            let (workload, task) = (workload.clone(), *task);
            let (session, settings) = (name.session.clone(), settings.clone());
            let series = LapSeries { workload, task, session, settings, laps: Arc::default() };
            self.series.push((series, Columns::default()));
            let place = self.series.len() - 1;
            self.known.entry(hash).or_default().push(place);
            place
        });
        &mut self.series[place].1
    }
}

fn key_of(series: &LapSeries) -> (&str, u32, &SessionName, &Settings) {
    (&series.workload, series.task, &series.session, &series.settings)
}

impl<L: Into<KnownLap>> FromIterator<L> for Laps {
    fn from_iter<I: IntoIterator<Item = L>>(laps: I) -> Self {
        let mut packing = Packing::default();
        laps.into_iter().for_each(|lap| packing.push(lap.into()));
        packing.packed()
    }
}

impl<L: Into<KnownLap>> From<Vec<L>> for Laps {
    fn from(laps: Vec<L>) -> Self {
        laps.into_iter().collect()
    }
}

impl<L: Clone + Into<KnownLap>> From<&[L]> for Laps {
    fn from(laps: &[L]) -> Self {
        laps.iter().cloned().collect()
    }
}

impl<L: Clone + Into<KnownLap>> From<&Vec<L>> for Laps {
    fn from(laps: &Vec<L>) -> Self {
        laps.as_slice().into()
    }
}

impl From<&Self> for Laps {
    /// Returns the same laps: they are not copied.
    fn from(laps: &Self) -> Self {
        laps.clone()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::{Known, LapFacts};
    use crate::record::Reading;
    use crate::unit::Nanos;

    fn lap(name: &str, task: u32, threads: &str) -> LapHead {
        let settings = Settings::new(vec![("threads".to_owned(), threads.to_owned())]);
        let name = LapName::parse(name).unwrap();
        let wall = Nanos(u64::from(name.number) * 1_000);
        LapHead { task, ..LapHead::done(name, "still", settings, wall) }
    }

    #[test]
    fn laps_of_one_form_and_variant_in_one_session_are_a_series() {
        let laps = [
            lap("heron-1.1", 1, "8"),
            lap("heron-1.2", 1, "4"),
            lap("heron-1.3", 1, "8"),
            lap("heron-1.4", 2, "8"),
            lap("heron-2.1", 1, "8"),
        ];
        let packed = Laps::from(&laps[..]);
        let told: Vec<(String, u32, Vec<u32>)> = packed
            .series()
            .iter()
            .map(|of| {
                let laps = of.laps().map(|lap| lap.number).collect();
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
        let back: Vec<LapHead> = packed.in_order().iter().map(Lap::head).collect();
        assert_eq!(back, laps, "in the order run");
        assert!(Laps::from(&[] as &[LapHead]).is_empty());
    }

    #[test]
    fn whatever_is_known_of_a_lap_comes_back() {
        let reading = Reading {
            name: "score".into(),
            unit: "points".into(),
            better: crate::record::Better::More,
            value: Some(812.0),
            step: Some(1.0),
            seen: "812".into(),
            reports_time: false,
        };
        let plain = |number: u32| lap(&format!("heron-1.{number}"), 1, "8");
        let mut laps: Vec<KnownLap> = vec![
            KnownLap::from(LapHead { warm_up: true, round: 7, ..plain(1) }),
            plain(2).into(),
            plain(3).into(),
            LapHead { wall: None, outcome: crate::record::Outcome::NotStarted, ..plain(4) }.into(),
            LapHead { parts: Some(Nanos(3)), step: Some(Nanos(2)), ..plain(5) }.into(),
            LapHead { readings: vec![reading.clone()], ..plain(6) }.into(),
            LapHead { set_aside: Some("a door slammed".into()), ..plain(7) }.into(),
            plain(8).into(),
            plain(9).into(),
        ];
        laps[7].facts = Arc::new(LapFacts { reason: Some("why".into()), ..LapFacts::default() });
        // Numbers alone keep nothing apart: 10 to 12 have scores and loads of their own.
        for number in 10..=12u32 {
            let value = Some(f64::from(number) / 7.0);
            let reading = Reading { value, seen: format!("{number}"), ..reading.clone() };
            let mut lap = KnownLap::from(LapHead { readings: vec![reading], ..plain(number) });
            lap.head.parts = Some(Nanos(u64::from(number)));
            let facts = Arc::make_mut(&mut lap.facts);
            facts.conditions.load_1min = Some(f64::from(number) / 3.0);
            laps.push(lap);
        }
        let packed = Laps::from(&laps[..]);
        assert_eq!(packed.iter().map(|lap| lap.known()).collect::<Vec<_>>(), laps);
        let runs: Vec<usize> = packed.series()[0].runs().map(|run| run.len()).collect();
        assert_eq!(runs, [1, 2, 1, 1, 1, 1, 1, 1, 3]);
        for lap in &laps {
            let found = packed.lap(&lap.name).unwrap();
            assert_eq!(found.known(), *lap);
            for measure in ["time", "score"] {
                assert_eq!(found.yields().value(measure), lap.value(measure));
            }
        }
        for measure in ["time", "score", "other"] {
            let values: Vec<f64> = laps.iter().filter_map(|lap| lap.value(measure)).collect();
            assert_eq!(packed.series()[0].values(measure), values);
        }
        assert!(packed.lap(&LapName::parse("heron-1.13").unwrap()).is_none());
        // However they come, they lie in the order run.
        laps.reverse();
        assert_eq!(Laps::from(&laps[..]), packed);
    }

    #[test]
    fn laps_that_come_packed_are_as_if_they_had_come_one_by_one() {
        let one = |number: u32| (number, 2 * number, Nanos(u64::from(number) * 7));
        let head = |(number, round, wall): (u32, u32, Nanos)| LapHead {
            round,
            wall: Some(wall),
            ..lap(&format!("heron-1.{number}"), 1, "8")
        };
        let all: Vec<LapHead> = (1..=100).map(one).map(head).collect();
        let mut packing = Packing::default();
        for part in [40..=100, 1..=39] {
            let mut laps = LapTimes::default();
            part.map(one).for_each(|(number, round, wall)| laps.push(number, round, wall));
            packing.push_alike(head(one(1)).into(), &laps);
        }
        assert_eq!(packing.packed(), Laps::from(&all[..]));
    }

    #[test]
    fn so_are_laps_of_which_each_has_its_own_numbers() {
        let facts = |number: u32| {
            let mut facts = LapFacts::default();
            facts.conditions.load_1min = Some(f64::from(number) / 3.0);
            // Now and then something else is known.
            facts.left_behind.extend(number.is_multiple_of(10).then(|| "renderd".to_owned()));
            facts
        };
        let known = |number: u32| {
            let head = LapHead { round: 1, ..lap(&format!("heron-1.{number}"), 1, "8") };
            KnownLap { head, facts: Arc::new(facts(number)) }
        };
        let all: Vec<KnownLap> = (1..=100).map(known).collect();
        let mut packing = Packing::default();
        for part in [41..=100, 1..=40] {
            let (mut times, mut details) = (LapTimes::default(), LapDetails::default());
            for number in part.clone() {
                times.push(number, 1, Nanos(u64::from(number) * 1_000));
                let facts = Arc::new(facts(number));
                details.push(Known { parts: None, readings: Vec::new(), facts });
            }
            assert_eq!(details.len(), times.len());
            packing.push_detailed(&known(*part.start()), &times, &details);
        }
        let packed = packing.packed();
        assert_eq!(packed, Laps::from(&all[..]));
        assert_eq!(packed.iter().map(|lap| lap.known()).collect::<Vec<_>>(), all);
    }
}
