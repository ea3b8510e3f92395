//! What findings are made of: laps with what is known of them, and how they compare.

use crate::capacity::Searched;
use crate::judge::{Assumptions, CellName, HeldConstant, Row, WorkloadView};
use crate::lab::{AllModes, LabSession, LapSeries, Run};
use crate::record::{LapName, SessionName, Settings, Study, VersionLine};
use std::collections::BTreeSet;

/// What findings are made of.
#[derive(Clone, Copy, Debug)]
pub struct Evidence<'a> {
    /// The laps whose figures are shown, counted or not.
    pub series: &'a [&'a LapSeries],
    /// The workloads and sessions that have counted laps.
    pub run: &'a BTreeSet<(&'a str, &'a SessionName)>,
    /// What the programs said of their version, by session.
    pub versions: &'a [(SessionName, VersionLine)],
    /// What a comparison of them comes to.
    pub views: &'a [WorkloadView],
    /// Workloads that are not about their time.
    pub untimed: &'a BTreeSet<String>,
    /// The sessions.
    pub sessions: &'a [LabSession],
    /// How programs were set, session by session.
    pub modes: &'a AllModes,
    /// Whether it is of the two sides of a change: what differs between them is what is asked about.
    pub is_of_change: bool,
    /// The study: what people know of the rigs, and expect.
    pub study: &'a Study,
    /// What verdicts take for granted.
    pub assume: &'a Assumptions,
    /// The searches for a load.
    pub searches: &'a [Searched<'a>],
}

impl Evidence<'_> {
    /// Returns the names of the counted laps of those series that `are` meant, in their order.
    pub(super) fn names(&self, are: impl Fn(&LapSeries) -> bool) -> Vec<LapName> {
        let meant: Vec<&LapSeries> = self.series.iter().copied().filter(|one| are(one)).collect();
        let laps = counted(&meant).flat_map(|run| run.laps());
        let mut names: Vec<LapName> = laps.map(|lap| lap.name()).collect();
        names.sort();
        names
    }

    /// Returns whether any lap of `rig` counts.
    pub(super) fn has_laps_of(&self, rig: &str) -> bool {
        self.run.iter().any(|(_, session)| session.rig == rig)
    }

    /// Returns whether what has several `values`, each with the rigs that have it, is the very change that is asked about:
    /// each side has one of its own, and all are known.
    pub(super) fn is_the_change<'v>(
        &self,
        values: impl IntoIterator<Item = (&'v Option<&'v str>, BTreeSet<&'v str>)>,
    ) -> bool {
        let mut sides = BTreeSet::new();
        let has_its_own = |(value, rigs): (&Option<&str>, BTreeSet<&'v str>)| {
            value.is_some() && rigs.into_iter().all(|side| sides.insert(side))
        };
        self.is_of_change && values.into_iter().all(has_its_own)
    }
}

/// Returns the workloads and sessions that have counted laps.
pub fn run<'a>(series: &[&'a LapSeries]) -> BTreeSet<(&'a str, &'a SessionName)> {
    let counted = series.iter().filter(|series| series.counts());
    counted.map(|series| (series.workload.as_str(), &series.session)).collect()
}

/// Returns the laps of `series` that enter sums, those together that are alike.
pub(super) fn counted<'a>(series: &[&'a LapSeries]) -> impl Iterator<Item = Run<'a>> {
    series.iter().flat_map(|series| series.runs()).filter(Run::counts)
}

/// Returns the name of the cells of `settings` in `view`.
pub(super) fn cell_name(view: &WorkloadView, settings: &Settings) -> CellName {
    CellName::of(&view.workload, settings, &view.measure.name)
}

/// Returns the groups of `view` in which rigs stand against each other, with their variants.
pub(super) fn rigs_beside(view: &WorkloadView) -> impl Iterator<Item = (&Settings, &[Row])> {
    view.groups.iter().filter_map(|group| match &group.held {
        HeldConstant::Variant(settings) => Some((settings, group.rows.as_slice())),
        HeldConstant::Rigs => None,
    })
}
