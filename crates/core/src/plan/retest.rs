//! A retest: exactly the laps that would resolve what is open, rig by rig.

use crate::finding::{Doubt, Finding};
use crate::judge::{Against, HeldConstant, Needed, WorkloadView};
use crate::lab::LapSeries;
use crate::record::{Study, TIME};
use crate::unit::Nanos;
use std::collections::BTreeMap;

/// Laps to run in one session.
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
    /// What it would resolve.
    pub resolves: Vec<Resolves>,
}

/// What laps would resolve.
#[derive(Clone, Debug, PartialEq)]
pub enum Resolves {
    /// What misleads.
    Doubt(Doubt),
    /// A comparison that is too close to call.
    TooClose,
}

/// What a rig's workload is wanted for.
#[derive(Default)]
struct Wanted {
    laps: u32,
    sessions: usize,
    resolves: Vec<Resolves>,
}

/// Returns the laps that would resolve `findings` and the comparisons that are too close to call.
///
/// * A finding that laps resolve wants a session like those of the study on the rigs of its remedy.
/// * A comparison that is too close wants what its own sums say, on both rigs.
pub fn retests(
    study: &Study,
    findings: &[Finding],
    views: &[WorkloadView],
    series: &[&LapSeries],
) -> Vec<Retest> {
    let mut wanted: BTreeMap<(&str, &str), Wanted> = BTreeMap::new();
    let usual = |workload: &str| study.workload(workload).map_or(6, |w| w.laps);
    for finding in findings {
        for rig in finding.remedy.rigs() {
            let want = wanted.entry((rig, &finding.workload)).or_default();
            want.laps = want.laps.max(usual(&finding.workload));
            want.sessions = want.sessions.max(1);
            want.resolves.push(Resolves::Doubt(finding.doubt.clone()));
        }
    }
    for (view, rigs, needed, sessions) in open(views) {
        if !needed.is_worth_running() {
            continue;
        }
        for rig in rigs {
            let want = wanted.entry((rig, &view.workload)).or_default();
            let (laps, more) = match needed {
                Needed::LapsUpTo(laps) => (u32::try_from(laps).unwrap_or(u32::MAX), 1),
                Needed::Laps(need) => (need.plain, 1),
                Needed::SessionsUpTo(all) => {
                    (usual(&view.workload), all.saturating_sub(sessions(rig)).max(1))
                }
                Needed::Sessions(need) => {
                    let all = need.plain as usize;
                    (usual(&view.workload), all.saturating_sub(sessions(rig)).max(1))
                }
            };
            want.laps = want.laps.max(laps);
            want.sessions = want.sessions.max(more);
            if !want.resolves.contains(&Resolves::TooClose) {
                want.resolves.push(Resolves::TooClose);
            }
        }
    }
    let retest = |((rig, workload), want): ((&str, &str), Wanted)| Retest {
        rig: rig.to_owned(),
        workload: workload.to_owned(),
        laps: want.laps,
        time: time(study, rig, workload, want.laps, series),
        sessions: want.sessions,
        resolves: want.resolves,
    };
    wanted.into_iter().map(retest).collect()
}

/// A comparison that laps would resolve: the rigs it needs them of, what it needs, and how many
/// sessions a rig has.
type Open<'a> = (&'a WorkloadView, Vec<&'a str>, Needed, Box<dyn Fn(&str) -> usize + 'a>);

fn open(views: &[WorkloadView]) -> Vec<Open<'_>> {
    let mut all: Vec<Open<'_>> = Vec::new();
    for view in views {
        for group in &view.groups {
            let base = group.rows.iter().find(|row| row.against == Against::Baseline);
            for row in &group.rows {
                let Against::Other(difference) = &row.against else { continue };
                let Some(needed) = difference.needed else { continue };
                let other = base.filter(|_| matches!(group.held, HeldConstant::Variant(_)));
                let rigs = other.into_iter().chain([row]).map(|row| row.rig.as_str()).collect();
                let sessions = |rig: &str| {
                    let mut rows = group.rows.iter().filter(|row| row.rig == rig);
                    rows.next().map_or(0, |row| row.counts.sessions)
                };
                all.push((view, rigs, needed, Box::new(sessions)));
            }
        }
    }
    all
}

/// Returns how long so many laps of every variant take, by those known so far.
fn time(
    study: &Study,
    rig: &str,
    workload: &str,
    laps: u32,
    known: &[&LapSeries],
) -> Option<Nanos> {
    let workload = study.workload(workload)?;
    let mut total = 0.0;
    for settings in workload.variants() {
        let same = |one: &&&LapSeries| one.cell() == (&workload.name, rig, &settings);
        let times: Vec<f64> = known.iter().filter(same).flat_map(|one| one.values(TIME)).collect();
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
    use crate::finding::{Impact, Remedy};
    use crate::judge::{Ask, compare};
    use crate::lab::Laps;
    use crate::record::{LapHead, LapName, Settings};

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
        let finding = |lap: &str, remedy| Finding {
            workload: "still".into(),
            laps: vec![LapName::parse(lap).unwrap()],
            cells: Vec::new(),
            doubt: Doubt::Swapped { bytes: 1 << 30 },
            by_test: false,
            remedy,
            impact: Impact::Unknown(0),
        };
        let again = Remedy::RunAgain { rigs: vec!["plover".into()] };
        let findings =
            [finding("plover-1.1", again), finding("heron-1.1", Remedy::CompareOtherwise)];
        let all = Laps::from(all);
        let series: Vec<&LapSeries> = all.series().iter().collect();
        let found = retests(&Study::default(), &findings, &views, &series);
        let said: Vec<(&str, u32, usize, bool)> = found
            .iter()
            .map(|r| (r.rig.as_str(), r.laps, r.sessions, r.resolves == [Resolves::TooClose]))
            .collect();
        assert_eq!(said, [("heron", 6, 2, true), ("plover", 6, 1, false), ("wren", 6, 2, true)]);
        assert_eq!(retests(&Study::default(), &findings[1..], &views[..0], &series), []);
    }
}
