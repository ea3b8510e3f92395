//! *Repeated*: numbers that were typed in for one day, or one rig, are those of another to the last digit.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use super::shared::Tests;
use super::typed;
use crate::estimate::{ASSUMED_SD, PRIOR_DEGREES};
use crate::lab::Lap;
use crate::record::{LapName, SessionName, Settings};
use crate::stat::{Scatter, t_upper_tail};
use std::collections::{BTreeMap, HashMap};

/// Values that are looked at: a table so long is not typed.
const MOST_VALUES: usize = 20_000;

/// Where a value stands: what it is of, and which lap of its session.
type At<'a> = (&'a str, &'a Settings, &'a str, usize);

/// A value with the step in which it was read, and its lap.
type Typed<'a> = (f64, f64, Lap<'a>);

/// The values of a session.
type Values<'a> = BTreeMap<At<'a>, Typed<'a>>;

/// How far values differ within a session, by workload and measure.
type Spreads<'a> = BTreeMap<(&'a str, &'a str), Scatter>;

/// Tests every two sessions whose typed values are alike to the last digit, all that both have: two days of a rig, or two rigs.
///
/// ```text
/// p = Π P(one value falls on another's step), each P(|t| < step / (2·√2·s·value)) with 4 degrees        times the pairs of sessions
/// ```
/// s: how far typed values of the workload differ within a session, 1.5 % where nothing shows it or where it is more. That both
/// are alike in truth, and of like days, is the case in which it is least seldom.
pub(super) fn test(evidence: &Evidence<'_>) -> Tests {
    let mut tests = Tests::default();
    let mut sessions: BTreeMap<&SessionName, Values<'_>> = BTreeMap::new();
    let mut taken = 0;
    for ((workload, settings, _, measure), values) in typed::cells(evidence) {
        let mut within: HashMap<&SessionName, usize> = HashMap::new();
        for counted in values {
            let session = counted.lap.session();
            let nth = within.entry(session).or_default();
            let at = (workload, settings, measure, *nth);
            *nth += 1;
            if let Some(step) = counted.step.filter(|step| *step > 0.0 && counted.value > 0.0) {
                let of = sessions.entry(session).or_default();
                of.insert(at, (counted.value, step, counted.lap));
                taken += 1;
            }
        }
    }
    if taken > MOST_VALUES || sessions.len() < 2 {
        return tests;
    }
    let spreads = spreads(&sessions);
    // Only what is alike in its first value can be alike in all: most pairs are never looked at.
    let mut alike: HashMap<(At<'_>, u64), Vec<&SessionName>> = HashMap::new();
    for (session, values) in &sessions {
        for (at, (value, ..)) in values {
            alike.entry((*at, value.to_bits())).or_default().push(session);
        }
    }
    let mut pairs: Vec<(&SessionName, &SessionName)> =
        alike.values().flat_map(|same| same.windows(2).map(|pair| (pair[0], pair[1]))).collect();
    pairs.sort();
    pairs.dedup();
    let of = sessions.len() as f64;
    for (first, second) in pairs {
        let (ours, theirs) = (&sessions[first], &sessions[second]);
        let Some(chance) = chance(ours, theirs, &spreads) else { continue };
        let p = (chance * of * (of - 1.0) / 2.0).min(1.0);
        tests.made(p, Some(raised(second, first, theirs)));
    }
    tests
}

/// Returns how far typed values differ within a session, by workload and measure.
fn spreads<'a>(sessions: &BTreeMap<&SessionName, Values<'a>>) -> Spreads<'a> {
    let mut cells: BTreeMap<(&SessionName, At<'a>), Vec<f64>> = BTreeMap::new();
    for (session, values) in sessions {
        for (&(workload, settings, measure, _), (value, ..)) in values {
            let cell = (*session, (workload, settings, measure, 0));
            cells.entry(cell).or_default().push(value.ln());
        }
    }
    let mut all = Spreads::new();
    for ((_, (workload, _, measure, _)), logs) in cells {
        let sum = all.entry((workload, measure)).or_default();
        *sum = sum.plus(Scatter::about_mean(&logs));
    }
    all.retain(|_, scatter| scatter.degrees > 0.0);
    all
}

/// Returns how likely two sessions are alike in all that both have; nothing where they are not.
fn chance(ours: &Values<'_>, theirs: &Values<'_>, spreads: &Spreads<'_>) -> Option<f64> {
    let mut chance = 1.0;
    let mut both = 0;
    for (at, (value, step, _)) in ours {
        let Some((other, ..)) = theirs.get(at) else { continue };
        if value.to_bits() != other.to_bits() {
            return None;
        }
        both += 1;
        let shown = spreads.get(&(at.0, at.2)).map_or(ASSUMED_SD, |of| of.sd());
        let t = step / (2.0 * 2f64.sqrt() * shown.min(ASSUMED_SD).max(0.25 * step / value) * value);
        chance *= 1.0 - 2.0 * t_upper_tail(t, PRIOR_DEGREES).ok()?;
    }
    (both > 0).then_some(chance)
}

fn raised(session: &SessionName, of: &SessionName, values: &Values<'_>) -> Raised {
    let mut laps: Vec<LapName> = values.values().map(|(.., lap)| lap.name()).collect();
    laps.sort();
    laps.dedup();
    let workloads: Vec<&str> = values.keys().map(|(workload, ..)| *workload).collect();
    let one = workloads.first().filter(|first| workloads.iter().all(|other| other == *first));
    Raised {
        workload: one.map(|one| (*one).to_owned()).unwrap_or_default(),
        laps,
        doubt: Doubt::Repeated { session: session.clone(), of: of.clone(), values: values.len() },
        remedy: Remedy::Reenter,
    }
}

#[cfg(test)]
mod tests {
    use super::super::shared::shared;
    use super::super::testing::Lab;
    use super::*;
    use crate::unit::Nanos;

    fn said(second: &[f64]) -> Vec<Raised> {
        let mut lab = Lab::default().session("heron-1", &[52_400.0, 53_120.0, 52_610.0]);
        lab = lab.session("heron-2", second).session("wren-1", &[61_000.0, 60_400.0]);
        for lap in &mut lab.laps {
            lap.step = Some(Nanos(10_000_000));
        }
        lab.found(|evidence| shared(vec![test(evidence)]))
    }

    #[test]
    fn a_session_that_was_typed_twice_is_told_and_one_like_value_is_not() {
        let found = said(&[52_400.0, 53_120.0, 52_610.0]);
        let Doubt::Repeated { session, of, values } = &found[0].doubt else { panic!("{found:?}") };
        assert_eq!((session.to_string().as_str(), of.to_string().as_str()), ("heron-2", "heron-1"));
        assert_eq!((*values, found.len(), found[0].laps.len()), (3, 1, 3));
        assert_eq!(said(&[52_400.0, 53_130.0, 52_610.0]), []);
        assert_eq!(said(&[52_410.0]), []);
    }
}
