//! What the tests of findings are written with: a made-up study's laps and facts.

use super::by_fact::{ByFact, by_facts};
use super::evidence::{Evidence, run};
use super::raised::Raised;
use super::series::{Series, SeriesTest, series, tested};
use super::shared::shared;
use crate::endurance::{Endured, rate_profile};
use crate::judge::{Ask, Assumptions, WorkloadView, compare};
use crate::lab::{AllModes, KnownLap, LabSession, LapFacts, LapSeries, Laps};
use crate::record::{
    EnduranceRule, LapHead, LapName, RigFound, SessionName, Settings, Study, VersionLine,
};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

/// Returns an endurance lap of five minutes with a rate a second, which wobbles a little.
pub(super) fn endured(rate: impl Fn(usize) -> f64) -> Box<Endured> {
    let moments: Vec<f64> = (0..300).map(f64::from).collect();
    let wobble = |place: usize| 1.0 + 0.002 * ((place * 37 % 11) as f64 - 5.0);
    let rates: Vec<f64> = (0..300).map(|place| rate(place) * wobble(place)).collect();
    let (lasts, look_every) = (Nanos::from_seconds(300), Nanos::from_seconds(1));
    Box::new(Endured {
        version: Endured::VERSION,
        rule: EnduranceRule { lasts, look_every, on_battery: false, idle: false },
        unit: "still/s".into(),
        stretches: rates.len(),
        course: rate_profile(&moments, &rates),
        lasted: 300.0,
        throttle: None,
        drain: None,
        battery_w: None,
    })
}

/// A made-up study's laps and facts.
#[derive(Default)]
pub(super) struct Lab {
    pub(super) laps: Vec<KnownLap>,
    pub(super) views: Vec<WorkloadView>,
    pub(super) untimed: BTreeSet<String>,
    pub(super) versions: Vec<(SessionName, VersionLine)>,
    pub(super) sessions: Vec<LabSession>,
    pub(super) modes: AllModes,
    pub(super) study: Study,
    pub(super) assume: Assumptions,
}

impl Lab {
    /// Adds a session of laps of workload `still`, in milliseconds.
    pub(super) fn session(self, session: &str, ms: &[f64]) -> Self {
        self.driven(session, "still", ms)
    }

    /// Adds laps of `workload` to a session, in milliseconds.
    pub(super) fn driven(mut self, session: &str, workload: &str, ms: &[f64]) -> Self {
        let session = SessionName::parse(session).unwrap();
        let before = self.laps.iter().filter(|lap| lap.name.session == session).count() as u32;
        for (&ms, number) in ms.iter().zip(1..) {
            let name = LapName { session: session.clone(), number: before + number };
            let wall = Nanos((ms * 1e6) as u64);
            let lap = LapHead::done(name, workload, Settings::default(), wall);
            self.laps.push(LapHead { round: number, ..lap }.into());
        }
        self
    }

    /// Adds a day, so many days ago, on which `rig` ran workloads around these milliseconds.
    pub(super) fn day(self, session: &str, days_ago: u64, typical: &[(&str, f64)]) -> Self {
        const AROUND: [f64; 5] = [0.996, 1.004, 1.0, 0.998, 1.003];
        let mut lab = typical.iter().fold(self, |lab, (workload, ms)| {
            lab.driven(session, workload, &AROUND.map(|off| ms * off))
        });
        let name = SessionName::parse(session).unwrap();
        let age = Some(Nanos::from_seconds(days_ago * 86_400));
        let (found, parts) = (RigFound::default(), BTreeMap::new());
        lab.sessions.push(LabSession { name, found, age, day: None, parts, remark: None });
        lab
    }

    /// Returns the lab with its laps compared.
    pub(super) fn judged(mut self) -> Self {
        let ask = Ask { margin: 0.02, ..Ask::default() };
        self.views = compare(&self.laps, &ask);
        self
    }

    /// Returns the facts of the lap called `name`.
    pub(super) fn facts(&mut self, name: &str) -> &mut LapFacts {
        let name = LapName::parse(name).unwrap();
        let lap = self.laps.iter_mut().find(|lap| lap.name == name).unwrap();
        Arc::make_mut(&mut lap.facts)
    }

    pub(super) fn found(&self, find: fn(&Evidence<'_>) -> Vec<Raised>) -> Vec<Raised> {
        self.with(find)
    }

    pub(super) fn found_in_series(&self, find: fn(&[Series<'_>]) -> Vec<Raised>) -> Vec<Raised> {
        self.with(|evidence| find(&series(evidence.series, &self.untimed)))
    }

    /// Returns what the tests of one kind say, which are all that share their rate.
    pub(super) fn found_by(&self, test: &SeriesTest) -> Vec<Raised> {
        self.with(|evidence| shared(tested(&series(evidence.series, &self.untimed), &[test])))
    }

    pub(super) fn found_in_facts(
        &self,
        find: for<'s> fn(&[&'s LapSeries]) -> ByFact<'s>,
    ) -> Vec<Raised> {
        self.with(|evidence| by_facts(evidence.series, &[find(evidence.series)]))
    }

    fn with(&self, find: impl Fn(&Evidence<'_>) -> Vec<Raised>) -> Vec<Raised> {
        let laps = Laps::from(&self.laps[..]);
        let series: Vec<&LapSeries> = laps.series().iter().collect();
        find(&Evidence {
            series: &series,
            run: &run(&series),
            versions: &self.versions,
            views: &self.views,
            untimed: &self.untimed,
            sessions: &self.sessions,
            modes: &self.modes,
            is_of_change: false,
            study: &self.study,
            assume: &self.assume,
            searches: &[],
        })
    }
}
