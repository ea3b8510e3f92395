//! *Sessions exchanged*: what was typed for a session of one rig is that of another, and the other way round.

use super::doubt::Doubt;
use super::evidence::{Evidence, rigs_beside};
use super::raised::{Raised, Remedy};
use super::shared::Tests;
use super::typed;
use crate::estimate::{BetweenSessions, Unit};
use crate::judge::WorkloadView;
use crate::record::{SessionName, Settings};
use crate::stat::t_upper_tail;
use std::collections::{BTreeMap, BTreeSet};

/// A pair is told only where one in so many would lie that far off.
const ALPHA: f64 = 0.01;
/// Each fits in the place of the other within so many standard deviations, and lies off its own by at least twice as many.
const FITS: f64 = 2.5;

/// The mean logs of a rig's sessions, by variant.
type Sessions<'a> = BTreeMap<&'a SessionName, BTreeMap<&'a Settings, f64>>;

/// A session that may be another's: its rig, itself, and how far it lies off the others of its rig.
#[derive(Clone, Copy)]
struct Off<'a> {
    rig: &'a str,
    session: &'a SessionName,
    log: f64,
    /// How many others of its rig it is held against.
    others: f64,
}

/// Tests every two typed sessions of two rigs that lie off, workload by workload.
pub(super) fn test(evidence: &Evidence<'_>) -> Tests {
    let mut tests = Tests::default();
    let typed: BTreeSet<&SessionName> = typed::cells(evidence)
        .into_values()
        .flatten()
        .filter(|counted| counted.step.is_some())
        .map(|counted| counted.lap.session())
        .collect();
    if typed.is_empty() {
        return tests;
    }
    let mut told: BTreeSet<(&SessionName, &SessionName)> = BTreeSet::new();
    for view in evidence.views.iter().filter(|view| view.is_work) {
        let rigs = rigs(view);
        let Some((p, one, other)) = most_apart(&rigs, &typed) else { continue };
        let pair = (one.session, other.session);
        let named = p < ALPHA && told.insert(pair);
        tests.made(p, named.then(|| raised(evidence, one.session, other.session)));
    }
    tests
}

fn rigs(view: &WorkloadView) -> BTreeMap<&str, Sessions<'_>> {
    let mut rigs: BTreeMap<&str, Sessions<'_>> = BTreeMap::new();
    for (settings, rows) in rigs_beside(view) {
        for row in rows {
            let Some(cell) = row.cell.as_ref().filter(|cell| cell.sessions() > 1) else { continue };
            for (session, log, _) in cell.named_logs() {
                let of = rigs.entry(&row.rig).or_default().entry(session).or_default();
                of.insert(settings, log);
            }
        }
    }
    rigs
}

/// Returns the pair that fits best when exchanged, with its p among all pairs.
///
/// ```text
/// t = (dᵢ − dⱼ) / √(τ̂²·(2 + 1/(kᵢ − 1) + 1/(kⱼ − 1)))        d: how far each lies off the mean of its rig's others
/// ```
/// τ̂ with its degrees is that of the model, made without both rigs.
fn most_apart<'a>(
    rigs: &BTreeMap<&'a str, Sessions<'a>>,
    typed: &BTreeSet<&SessionName>,
) -> Option<(f64, Off<'a>, Off<'a>)> {
    let mut all: Vec<Off<'a>> = Vec::new();
    for (rig, sessions) in rigs {
        for (session, own) in sessions.iter().filter(|(session, _)| typed.contains(*session)) {
            if let Some(log) = off(own, sessions, session) {
                all.push(Off { rig, session, log, others: sessions.len() as f64 - 1.0 });
            }
        }
    }
    let pairs = all.len() as f64 * (all.len() as f64 - 1.0) / 2.0;
    let mut best: Option<(f64, Off<'a>, Off<'a>)> = None;
    for (place, &one) in all.iter().enumerate() {
        // Those that lie off in opposite ways may be one for the other.
        let opposite = |other: &&Off<'_>| other.rig != one.rig && other.log * one.log < 0.0;
        for &other in all[place + 1..].iter().filter(opposite) {
            let units = rigs.iter().filter(|(rig, _)| **rig != one.rig && **rig != other.rig);
            let between = BetweenSessions::of(units.map(|(_, sessions)| unit(sessions)));
            let share = 2.0 + 1.0 / one.others + 1.0 / other.others;
            let variance = between.variance() * share;
            let sd = variance.sqrt();
            let apart = (one.log - other.log).abs();
            if apart < 2.0 * FITS * sd || !fit(rigs, one, other, FITS * sd) {
                continue;
            }
            let Ok(tail) = t_upper_tail(apart / sd, between.degrees()) else { continue };
            let p = (2.0 * tail * pairs).min(1.0);
            // Of two days of a rig either may be the wrong one: the later is named.
            if best.is_none_or(|(least, ..)| p <= least) {
                best = Some((p, one, other));
            }
        }
    }
    best
}

/// Returns whether each fits in the place of the other.
fn fit<'a>(
    rigs: &BTreeMap<&'a str, Sessions<'a>>,
    one: Off<'a>,
    other: Off<'a>,
    within: f64,
) -> bool {
    let lies = |of: Off<'a>, at: Off<'a>| {
        let values = &rigs[of.rig][of.session];
        off(values, &rigs[at.rig], at.session).is_some_and(|log| log.abs() < within)
    };
    lies(one, other) && lies(other, one)
}

/// Returns how far the logs `own` lie off the means of `sessions` but one, over the variants that both have.
fn off(own: &BTreeMap<&Settings, f64>, sessions: &Sessions<'_>, but: &SessionName) -> Option<f64> {
    let mut offs: Vec<f64> = Vec::new();
    for (settings, log) in own {
        let others = sessions.iter().filter(|(session, _)| **session != but);
        let others: Vec<f64> = others.filter_map(|(_, logs)| logs.get(settings).copied()).collect();
        if !others.is_empty() {
            offs.push(log - others.iter().sum::<f64>() / others.len() as f64);
        }
    }
    (!offs.is_empty()).then(|| offs.iter().sum::<f64>() / offs.len() as f64)
}

/// Returns what the sessions of a rig show of how far days differ.
fn unit(sessions: &Sessions<'_>) -> Unit {
    let logs =
        |session: &BTreeMap<&Settings, f64>| session.values().sum::<f64>() / session.len() as f64;
    Unit::of(&sessions.values().map(logs).collect::<Vec<f64>>(), 0.0)
}

fn raised(evidence: &Evidence<'_>, one: &SessionName, other: &SessionName) -> Raised {
    let laps = evidence.names(|series| series.session == *one || series.session == *other);
    Raised {
        workload: String::new(),
        laps,
        doubt: Doubt::SessionsExchanged { session: one.clone(), with: other.clone() },
        remedy: Remedy::Reenter,
    }
}

#[cfg(test)]
mod tests {
    use super::super::shared::shared;
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    fn found(exchanged: bool) -> Vec<Raised> {
        let mut lab = Lab::default();
        for (rig, ms) in [("heron", 1000.0), ("wren", 1600.0), ("teal", 700.0), ("lark", 1250.0)] {
            let second = match (rig, exchanged) {
                ("heron", true) => 1604.0,
                ("wren", true) => 996.0,
                _ => ms * 1.005,
            };
            let on = |lab: Lab, number: u32, ms: f64| {
                lab.day(&format!("{rig}-{number}"), u64::from(9 - number), &[("still", ms)])
            };
            lab = on(on(lab, 1, ms), 2, second);
        }
        for lap in &mut lab.laps {
            lap.step = Some(Nanos(1_000_000));
        }
        lab.judged().found(|evidence| shared(vec![test(evidence)]))
    }

    #[test]
    fn two_sessions_that_stand_for_each_other_are_told_and_days_that_differ_are_not() {
        assert_eq!(found(false), []);
        let said = found(true);
        let Doubt::SessionsExchanged { session, with } = &said[0].doubt else { panic!("{said:?}") };
        assert_eq!([session, with].map(ToString::to_string), ["heron-2", "wren-2"]);
        assert_eq!((said.len(), said[0].laps.len()), (1, 10));
    }
}
