//! *Upside down*: a rig comes out behind one that it was expected to beat, beyond noise.

use super::doubt::Doubt;
use super::evidence::{Evidence, cell_name, rigs_beside};
use super::raised::{Raised, Remedy};
use crate::endurance::KEPT;
use crate::estimate::Estimate;
use crate::judge::{Cell, Row, WorkloadView};
use crate::record::{Better, LapName, Settings};
use std::collections::BTreeMap;

/// Other comparisons in which a rig must be surely ahead before one in which it is behind stands out.
const LEAST_OTHERS: usize = 3;

/// How seldom a pair of few laps lies the wrong way round by chance.
const ALPHA: f64 = 0.05;

/// Returns what every two rigs and variant raise that came out the wrong way round: against the
/// order that the study expects, or against everything else that the two ran.
///
/// A rig is surely ahead where its places and the other's do not meet, so that any false order in
/// a group has a chance of 5 % at most.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let own = own_order(evidence);
    let mut found = Vec::new();
    // How much of its own rate a rig keeps says nothing of which is faster.
    let of_speed = |view: &&WorkloadView| view.measure.name != KEPT;
    for view in evidence.views.iter().filter(of_speed) {
        for (settings, rows) in rigs_beside(view) {
            // Only what is expected is held against few laps.
            let few = if evidence.study.expect.is_empty() { &[][..] } else { rows };
            for (behind, ahead) in pairs(rows).chain(of_few(few, view.measure.better)) {
                let expected = place(evidence, &behind.rig) < place(evidence, &ahead.rig);
                let pair = (behind.rig.as_str(), ahead.rig.as_str());
                let (wins, losses) = (count(&own, pair), count(&own, (pair.1, pair.0)));
                let others = match () {
                    () if expected => None,
                    () if wins >= LEAST_OTHERS && losses == 1 => Some(wins),
                    () => continue,
                };
                let by = behind.cell.as_ref().zip(ahead.cell.as_ref());
                let by = by.map_or(0.0, |(a, b)| (a.typical() / b.typical()).ln().abs());
                found.push(Raised {
                    workload: view.workload.clone(),
                    laps: laps(evidence, &view.workload, settings, &behind.rig),
                    doubt: Doubt::UpsideDown {
                        of: cell_name(view, settings),
                        behind: behind.rig.clone(),
                        ahead: ahead.rig.clone(),
                        ratio: by.exp(),
                        others,
                    },
                    remedy: Remedy::again(&behind.rig),
                });
            }
        }
    }
    found
}

/// Returns every (behind, ahead) of `rows` whose places do not meet.
fn pairs(rows: &[Row]) -> impl Iterator<Item = (&Row, &Row)> {
    let meets = |a: &Row, b: &Row| match (a.places, b.places) {
        (Some(a), Some(b)) => a.best <= b.worst,
        _ => true,
    };
    rows.iter().flat_map(move |behind| {
        rows.iter().filter(move |ahead| !meets(behind, ahead)).map(move |ahead| (behind, ahead))
    })
}

/// How far laps of which nothing is known are taken to differ: a standard deviation, of logs.
const UNKNOWN_SPREAD: f64 = 0.05;

/// Returns every (behind, ahead) of `rows` of which one has too few laps for a place, and lies that far behind even if laps
/// differ by 5 %.
///
/// ```text
/// t = (y_behind − y_ahead) / √Σ (τ̂² + (5 %)²/n) with the degrees of τ̂        told at 5 %
/// ```
fn of_few(rows: &[Row], better: Better) -> impl Iterator<Item = (&Row, &Row)> {
    let has_few = |row: &Row| row.cell.as_ref().is_some_and(|cell| !cell.is_enough());
    let is_behind = move |behind: &Row, ahead: &Row| {
        let (Some(b), Some(a)) = (&behind.cell, &ahead.cell) else { return false };
        let log = (b.typical() / a.typical()).ln();
        let log = if better == Better::More { -log } else { log };
        let of =
            |cell: &Cell| cell.between().variance() + UNKNOWN_SPREAD.powi(2) / cell.laps() as f64;
        let ratio = Estimate { log, variance: of(a) + of(b), degrees: a.between().degrees() };
        log > 0.0 && ratio.p().is_ok_and(|p| p < ALPHA)
    };
    rows.iter().flat_map(move |behind| {
        let with = rows.iter().filter(move |ahead| has_few(behind) || has_few(ahead));
        with.filter(move |ahead| is_behind(behind, ahead)).map(move |ahead| (behind, ahead))
    })
}

/// Returns how often the first of each pair of rigs is surely ahead of the second.
fn own_order<'a>(evidence: &Evidence<'a>) -> BTreeMap<(&'a str, &'a str), usize> {
    let mut ahead: BTreeMap<(&str, &str), usize> = BTreeMap::new();
    for view in evidence.views {
        for (_, rows) in rigs_beside(view) {
            for (loser, winner) in pairs(rows) {
                *ahead.entry((winner.rig.as_str(), loser.rig.as_str())).or_default() += 1;
            }
        }
    }
    ahead
}

fn count(order: &BTreeMap<(&str, &str), usize>, pair: (&str, &str)) -> usize {
    order.get(&pair).copied().unwrap_or(0)
}

/// Returns the place at which `rig` is expected; those of which nothing is said share none.
fn place(evidence: &Evidence<'_>, rig: &str) -> f64 {
    let at = evidence.study.expect.iter().position(|expected| expected == rig);
    at.map_or(f64::NAN, |at| at as f64)
}

fn laps(evidence: &Evidence<'_>, workload: &str, settings: &Settings, rig: &str) -> Vec<LapName> {
    evidence.names(|one| one.cell() == (workload, rig, settings))
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    const TASKS: [&str; 4] = ["still", "reel", "build", "orbit"];

    /// kestrel is 1.2 × heron's speed in everything but, if so asked, the last.
    fn lab(last: f64) -> Lab {
        let heron = TASKS.map(|task| (task, 1000.0));
        let mut kestrel = TASKS.map(|task| (task, 830.0));
        kestrel[3].1 = last;
        Lab::default().day("heron-1", 2, &heron).day("kestrel-1", 1, &kestrel).judged()
    }

    #[test]
    fn one_against_all_the_others_is_told() {
        assert_eq!(lab(830.0).found(find), []);
        assert_eq!(lab(1005.0).found(find), [], "that is noise");
        let found = lab(1300.0).found(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 5));
        let Doubt::UpsideDown { behind, ratio, others, .. } = &found[0].doubt else {
            panic!("{found:?}")
        };
        assert_eq!((behind.as_str(), *others), ("kestrel", Some(3)));
        assert!((ratio - 1.3).abs() < 1e-9, "{ratio}");
    }

    #[test]
    fn single_results_are_held_to_the_studys_order_where_no_spread_of_laps_explains_them() {
        let said = |wren: f64| {
            let lab = Lab::default().driven("heron-1", "still", &[1000.0]);
            let mut lab = lab.driven("wren-1", "still", &[wren]).judged();
            lab.study.expect = vec!["wren".into(), "heron".into()];
            lab.found(find).len()
        };
        // 7.4 % a pair, of 4 degrees: beyond 22.8 %.
        assert_eq!((said(1300.0), said(1150.0), said(700.0)), (1, 0, 0));
    }

    #[test]
    fn the_studys_order_is_held_to_and_rigs_that_it_does_not_name_are_free() {
        let mut lab = lab(830.0);
        lab.study.expect = vec!["heron".into(), "wren".into()];
        assert_eq!(lab.found(find), []);
        lab.study.expect = vec!["heron".into(), "kestrel".into()];
        assert_eq!(lab.found(find).len(), 4, "heron is behind everywhere");
        lab.study.expect.reverse();
        assert_eq!(lab.found(find), []);
    }
}
