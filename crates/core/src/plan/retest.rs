//! A retest: exactly the laps that would settle what is open, rig by rig.

use crate::finding::Doubt;
use crate::judge::{Against, Held, Settle, WorkloadView};
use crate::record::{LapHead, Study};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet};

/// Doubts that no further lap would settle: they are about the question, not about the laps.
const NOT_BY_LAPS: [&str; 9] = [
    "capped",
    "nothing to choose",
    "odd one out",
    "one of a kind",
    "read too coarsely",
    "slipped digit",
    "the average hides it",
    "two things changed",
    "own time differs",
];

/// Laps to drive in one session.
#[derive(Clone, Debug, PartialEq)]
pub struct Retest {
    /// The rig.
    pub rig: String,
    /// The workload.
    pub workload: String,
    /// Counted laps of each of its variants.
    pub laps: u32,
    /// How long that takes, warm-ups and rests included, by the laps known so far; `None` where a
    /// variant has none.
    pub time: Option<Nanos>,
    /// Sessions that are wanted in all, where one more is not enough: this one included.
    pub sessions: usize,
    /// What it would settle.
    pub settles: Vec<String>,
}

/// What a rig's workload is wanted for.
#[derive(Default)]
struct Wanted {
    laps: u32,
    sessions: usize,
    settles: BTreeSet<String>,
}

/// Returns the laps that would settle `doubts` and the comparisons that are too close to call.
///
/// * A doubt about laps wants a session like those of the study on their rigs; one about figures as a
///   whole wants one on every rig that it stands beside.
/// * A comparison that is too close wants what its own sums say, on both rigs.
pub fn retests(
    study: &Study,
    doubts: &[Doubt],
    views: &[WorkloadView],
    laps: &[LapHead],
) -> Vec<Retest> {
    let mut wanted: BTreeMap<(&str, &str), Wanted> = BTreeMap::new();
    let usual = |workload: &str| study.workload(workload).map_or(6, |w| w.laps);
    for doubt in doubts.iter().filter(|doubt| !NOT_BY_LAPS.contains(&doubt.name)) {
        for rig in rigs_of(doubt, views) {
            let want = wanted.entry((rig, &doubt.workload)).or_default();
            want.laps = want.laps.max(usual(&doubt.workload));
            want.sessions = want.sessions.max(1);
            want.settles.insert(doubt.name.to_owned());
        }
    }
    for (view, rigs, settle, sessions) in open(views) {
        for rig in rigs {
            let want = wanted.entry((rig, &view.workload)).or_default();
            let (laps, more) = match settle {
                Settle::LapsUpTo(laps) => (u32::try_from(laps).unwrap_or(u32::MAX), 1),
                Settle::Laps(need) => (need.plain, 1),
                Settle::SessionsUpTo(all) => {
                    (usual(&view.workload), all.saturating_sub(sessions(rig)).max(1))
                }
                Settle::Sessions(need) => {
                    let all = need.plain as usize;
                    (usual(&view.workload), all.saturating_sub(sessions(rig)).max(1))
                }
            };
            want.laps = want.laps.max(laps);
            want.sessions = want.sessions.max(more);
            want.settles.insert("too close to call".to_owned());
        }
    }
    let retest = |((rig, workload), want): ((&str, &str), Wanted)| Retest {
        rig: rig.to_owned(),
        workload: workload.to_owned(),
        laps: want.laps,
        time: time(study, rig, workload, want.laps, laps),
        sessions: want.sessions,
        settles: want.settles.into_iter().collect(),
    };
    wanted.into_iter().map(retest).collect()
}

/// Returns the rigs whose laps a doubt concerns.
fn rigs_of<'a>(doubt: &'a Doubt, views: &'a [WorkloadView]) -> BTreeSet<&'a str> {
    if !doubt.laps.is_empty() {
        return doubt.laps.iter().map(|lap| lap.session.rig.as_str()).collect();
    }
    let views = views.iter().filter(|view| view.workload == doubt.workload);
    let rows = views.flat_map(|view| &view.groups).flat_map(|group| &group.rows);
    // What is missing wants the rigs that lack it; all else those that have it.
    let lacking = doubt.name == "missing";
    rows.filter(|row| row.unsupported.is_none() && row.cell.is_none() == lacking)
        .map(|row| row.rig.as_str())
        .collect()
}

/// A comparison that laps would settle: the rigs it needs them of, what it needs, and how many
/// sessions a rig has.
type Open<'a> = (&'a WorkloadView, Vec<&'a str>, Settle, Box<dyn Fn(&str) -> usize + 'a>);

fn open(views: &[WorkloadView]) -> Vec<Open<'_>> {
    let mut all: Vec<Open<'_>> = Vec::new();
    for view in views {
        for group in &view.groups {
            let base = group.rows.iter().find(|row| row.against == Against::Baseline);
            for row in &group.rows {
                let Against::Other(difference) = &row.against else { continue };
                let Some(settle) = difference.settle else { continue };
                let other = base.filter(|_| matches!(group.held, Held::Variant(_)));
                let rigs = other.into_iter().chain([row]).map(|row| row.rig.as_str()).collect();
                let sessions = |rig: &str| {
                    let mut rows = group.rows.iter().filter(|row| row.rig == rig);
                    rows.next().map_or(0, |row| row.counts.sessions)
                };
                all.push((view, rigs, settle, Box::new(sessions)));
            }
        }
    }
    all
}

/// Returns how long so many laps of every variant take, by those known so far.
fn time(study: &Study, rig: &str, workload: &str, laps: u32, known: &[LapHead]) -> Option<Nanos> {
    let workload = study.workload(workload)?;
    let mut total = 0.0;
    for settings in workload.variants() {
        let same = |lap: &&LapHead| {
            lap.name.session.rig == rig && lap.workload == workload.name && lap.settings == settings
        };
        let times: Vec<f64> =
            known.iter().filter(same).filter_map(LapHead::counted).map(Nanos::seconds).collect();
        if times.is_empty() {
            return None;
        }
        let each = times.iter().sum::<f64>() / times.len() as f64 + workload.rest.time.seconds();
        total += f64::from(laps + workload.warm_up) * each;
    }
    Some(Nanos((total * 1e9) as u64))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::judge::{Ask, compare};
    use crate::record::{LapName, Settings};

    fn laps(session: &str, ms: &[u64]) -> Vec<LapHead> {
        let lap = |(number, &ms): (u32, &u64)| {
            let name = LapName::parse(&format!("{session}.{number}")).unwrap();
            LapHead::done(name, "still", Settings::default(), Nanos(ms * 1_000_000))
        };
        (1..).zip(ms).map(lap).collect()
    }

    #[test]
    fn a_doubt_and_an_open_comparison_want_laps_of_their_rigs_and_a_tie_of_parts_wants_none() {
        let all = [
            laps("heron-1", &[1000, 1004, 998]),
            laps("wren-1", &[1010, 1001, 1003]),
            laps("plover-1", &[2000, 2004, 1998]),
        ]
        .concat();
        let views = compare(&all, &Ask { margin: 0.02, ..Ask::default() });
        let doubt = |name, lap: &str| Doubt {
            name,
            workload: "still".into(),
            laps: vec![LapName::parse(lap).unwrap()],
            evidence: String::new(),
            settle: String::new(),
            false_alarms: None,
        };
        let doubts = [doubt("throttled", "plover-1.1"), doubt("capped", "heron-1.1")];
        let found = retests(&Study::default(), &doubts, &views, &all);
        let said: Vec<(&str, u32, usize, &str)> = found
            .iter()
            .map(|r| (r.rig.as_str(), r.laps, r.sessions, r.settles[0].as_str()))
            .collect();
        assert_eq!(
            said,
            [
                ("heron", 6, 2, "too close to call"),
                ("plover", 6, 1, "throttled"),
                ("wren", 6, 2, "too close to call")
            ]
        );
        assert_eq!(retests(&Study::default(), &doubts[1..], &views[..0], &all), []);
    }
}
