//! *Sessions disagree*: a session of a rig lies further from its others than days do.

use super::doubt::Doubt;
use super::evidence::{Evidence, rigs_beside};
use super::raised::{Raised, Remedy};
use super::shared::Tests;
use crate::estimate::{BetweenSessions, Unit};
use crate::judge::WorkloadView;
use crate::lab::{Changed, differences};
use crate::record::SessionName;
use crate::stat::t_upper_tail;
use std::collections::BTreeMap;

/// A session is told only where one in so many would lie that far off by the spread of days.
const ALPHA: f64 = 0.01;

/// The days of one rig: of each session how far it lies off the cells' own means, and what the spread of its laps leaves
/// open of that. Variants share their days, and are averaged.
struct Days<'a> {
    rig: &'a str,
    sessions: Vec<(&'a SessionName, f64, f64)>,
}

/// A session that lies apart from the others of its rig.
struct Apart<'a> {
    session: &'a SessionName,
    /// ln(its typical value / that of the others).
    log: f64,
    p: f64,
}

/// Tests the sessions of every rig, workload and measure.
pub(super) fn test(evidence: &Evidence<'_>) -> Tests {
    let mut tests = Tests::default();
    for view in evidence.views {
        let rigs = days(view);
        for (place, rig) in rigs.iter().enumerate() {
            let others = rigs.iter().enumerate().filter(|(other, _)| *other != place);
            let others: Vec<Unit> = others.map(|(_, rig)| unit(&rig.sessions)).collect();
            if let Some(apart) = most_apart(rig, &others) {
                let found = (apart.p < ALPHA).then(|| raised(evidence, view, rig.rig, &apart));
                tests.made(apart.p, found);
            }
        }
    }
    tests
}

fn days(view: &WorkloadView) -> Vec<Days<'_>> {
    let mut rigs: BTreeMap<&str, BTreeMap<&SessionName, (f64, f64, f64)>> = BTreeMap::new();
    for row in rigs_beside(view).flat_map(|(_, rows)| rows) {
        let Some(cell) = row.cell.as_ref().filter(|cell| cell.sessions() > 1) else { continue };
        let mean = cell.typical().ln();
        for (session, log, noise) in cell.named_logs() {
            let day = rigs.entry(&row.rig).or_default().entry(session).or_default();
            *day = (day.0 + log - mean, day.1 + noise, day.2 + 1.0);
        }
    }
    let averaged =
        |(session, (off, noise, of)): (_, (f64, f64, f64))| (session, off / of, noise / (of * of));
    rigs.into_iter()
        .map(|(rig, days)| Days { rig, sessions: days.into_iter().map(averaged).collect() })
        .collect()
}

/// Returns what sessions show of how far days differ.
fn unit(sessions: &[(&SessionName, f64, f64)]) -> Unit {
    let offs: Vec<f64> = sessions.iter().map(|(_, off, _)| *off).collect();
    let noise: f64 = sessions.iter().map(|(.., noise)| noise).sum();
    Unit::of(&offs, noise / offs.len().max(1) as f64)
}

/// Returns the session of a rig that lies farthest from the others, by its p.
///
/// ```text
/// t = (yₛ − ȳ₋ₛ) / √(τ̂²·(1 + 1/(k − 1)) + nₛ + n̄₋ₛ/(k − 1))        p two-sided, times k (Bonferroni)
/// ```
/// y: mean logs of k sessions, n: what the spread of its laps leaves open of each; τ̂ with its degrees is that of the model,
/// made without the session: one far off would hide behind the spread that it makes itself.
fn most_apart<'a>(rig: &Days<'a>, others: &[Unit]) -> Option<Apart<'a>> {
    let k = rig.sessions.len() as f64;
    if k < 2.0 {
        return None;
    }
    let one = |place: usize| {
        let mut rest = rig.sessions.clone();
        let (session, own, noise) = rest.remove(place);
        let (off, noises) =
            rest.iter().fold((0.0, 0.0), |(off, noises), (_, o, n)| (off + o, noises + n));
        let log = own - off / (k - 1.0);
        let between = BetweenSessions::of(others.iter().copied().chain([unit(&rest)]));
        let variance =
            between.variance() * (1.0 + 1.0 / (k - 1.0)) + noise + noises / (k - 1.0).powi(2);
        let tail = t_upper_tail(log.abs() / variance.sqrt(), between.degrees()).ok()?;
        // Of two, either is as far from the other: one question, and the later is named.
        let asked = if k > 2.0 { k } else { 1.0 };
        Some(Apart { session, log, p: (2.0 * tail * asked).min(1.0) })
    };
    let all = (0..rig.sessions.len()).filter_map(one);
    all.reduce(|most, other| if other.p <= most.p { other } else { most })
}

fn raised(evidence: &Evidence<'_>, view: &WorkloadView, rig: &str, apart: &Apart<'_>) -> Raised {
    let laps = evidence.names(|one| one.workload == view.workload && one.session == *apart.session);
    let of_workload = |label: &str| label == view.workload;
    let versions = evidence.versions.iter().filter(|(_, line)| of_workload(&line.workload));
    let side =
        |session: &SessionName| (session.rig == rig).then(|| usize::from(session == apart.session));
    let versions: Vec<_> = versions.cloned().collect();
    let mut modes = evidence.modes.clone();
    modes.values_mut().for_each(|set| set.retain(|(workload, _), _| of_workload(workload)));
    let changed: Vec<Changed> = differences(evidence.sessions, &versions, &modes, side);
    Raised {
        workload: view.workload.clone(),
        laps,
        doubt: Doubt::SessionsDisagree {
            rig: rig.to_owned(),
            measure: view.measure.name.clone(),
            session: apart.session.clone(),
            ratio: apart.log.exp(),
            changed,
        },
        remedy: Remedy::again(rig),
    }
}

#[cfg(test)]
mod tests {
    use super::super::shared::shared;
    use super::super::testing::Lab;
    use super::*;

    fn found(last: f64) -> Vec<Raised> {
        let lab = Lab::default()
            .day("heron-1", 4, &[("still", 1000.0)])
            .day("heron-2", 3, &[("still", 1004.0)])
            .day("heron-3", 2, &[("still", 997.0)])
            .day("heron-4", 1, &[("still", last)]);
        let mut lab = lab.judged();
        lab.sessions[3].found.kernel = Some("6.1".into());
        lab.sessions[0].found.kernel = Some("6.0".into());
        lab.found(|evidence| shared(vec![test(evidence)]))
    }

    #[test]
    fn a_day_far_off_the_others_is_told_with_what_changed_and_one_among_them_is_not() {
        assert_eq!(found(1010.0), []);
        let off = found(1200.0);
        let Doubt::SessionsDisagree { session, ratio, changed, .. } = &off[0].doubt else {
            panic!("{off:?}")
        };
        assert_eq!((session.to_string().as_str(), off[0].laps.len()), ("heron-4", 5));
        assert!((ratio - 1.2).abs() < 0.01 && changed.len() == 1, "{off:?}");
    }
}
