//! How much a doubt could change: what becomes of the verdicts without the laps it concerns.

use super::Doubt;
use crate::judge::{
    Against, Ask, Assumptions, Verdict, WorkloadView, tables, verdicts as judged_verdicts,
};
use crate::record::{LapHead, LapName, Settings};
use std::collections::{BTreeMap, HashSet};
use std::mem::discriminant;

/// How much a doubt could change.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Sway {
    /// So many verdicts are others without its laps, or there would be none.
    Turns(usize),
    /// How much is not known; so many verdicts stand on what it doubts.
    Unknown(usize),
    /// No verdict is another; a typical value moves by this share.
    Moves(f64),
}

impl Sway {
    /// Returns a key by which what could change most comes first.
    fn rank(self) -> (u8, f64) {
        match self {
            Self::Turns(verdicts) => (0, -(verdicts as f64)),
            Self::Unknown(verdicts) => (1, -(verdicts as f64)),
            Self::Moves(share) => (2, -share),
        }
    }
}

/// Returns how much each of `doubts` could change, those that could change most first.
///
/// A doubt's laps are left out for this question alone: nothing is set aside, and what all laps say of how far days
/// differ stands.
pub fn by_sway(
    doubts: Vec<Doubt>,
    laps: &[LapHead],
    judged: &[WorkloadView],
    ask: &Ask,
    assume: &Assumptions,
) -> Vec<(Doubt, Sway)> {
    let cells = judged.iter().flat_map(|view| {
        let rows = view.groups.iter().flat_map(|group| &group.rows);
        rows.filter_map(|row| Some((view.measure.name.clone(), row.cell.as_ref()?.between())))
    });
    let ask = &Ask { between: cells.collect(), ..ask.clone() };
    let mut by_workload: BTreeMap<&str, Vec<&LapHead>> = BTreeMap::new();
    for lap in laps {
        by_workload.entry(&lap.workload).or_default().push(lap);
    }
    let mut all: Vec<(Doubt, Sway)> = doubts
        .into_iter()
        .map(|doubt| {
            let laps = by_workload.get(doubt.workload.as_str()).map_or(&[][..], Vec::as_slice);
            let sway = sway(&doubt, laps, judged, ask, assume);
            (doubt, sway)
        })
        .collect();
    all.sort_by(|(a, x), (b, y)| {
        let (x, y) = (x.rank(), y.rank());
        x.0.cmp(&y.0).then(x.1.total_cmp(&y.1)).then_with(|| a.workload.cmp(&b.workload))
    });
    all
}

type Verdicts<'a> = BTreeMap<(&'a str, &'a str, &'a Settings), (Verdict, Option<f64>)>;

fn sway(
    doubt: &Doubt,
    laps: &[&LapHead],
    judged: &[WorkloadView],
    ask: &Ask,
    assume: &Assumptions,
) -> Sway {
    let of = |view: &&WorkloadView| doubt.workload.is_empty() || view.workload == doubt.workload;
    let before = verdicts(judged.iter().filter(of));
    if doubt.laps.is_empty() {
        let said = |verdict: &Verdict| !matches!(verdict, Verdict::Refused(_));
        return Sway::Unknown(before.values().filter(|(verdict, _)| said(verdict)).count());
    }
    let without: HashSet<&LapName> = doubt.laps.iter().collect();
    let left = laps.iter().filter(|lap| !without.contains(&lap.name));
    let left: Vec<LapHead> = left.map(|&lap| lap.clone()).collect();
    let views = judged_verdicts(&tables(&left, ask), ask, assume);
    let after = verdicts(views.iter());
    let turned = |(key, (verdict, _)): &(&(&str, &str, &Settings), &(Verdict, Option<f64>))| {
        let now = after.get(*key).map(|(now, _)| now);
        !matches!(verdict, Verdict::Refused(_))
            && now.is_none_or(|now| discriminant(now) != discriminant(verdict))
    };
    let turns = before.iter().filter(turned).count();
    if turns > 0 {
        return Sway::Turns(turns);
    }
    let moved = before.iter().filter_map(|(key, (_, speed))| {
        let (before, after) = ((*speed)?, after.get(key)?.1?);
        Some((after / before).ln().abs())
    });
    Sway::Moves(moved.fold(0.0, f64::max).exp_m1())
}

fn verdicts<'a>(views: impl Iterator<Item = &'a WorkloadView>) -> Verdicts<'a> {
    let mut all = Verdicts::new();
    for view in views {
        for row in view.groups.iter().flat_map(|group| &group.rows) {
            if let Against::Other(difference) = &row.against {
                let key = (view.measure.name.as_str(), row.rig.as_str(), &row.settings);
                all.insert(key, (difference.verdict, difference.speed));
            }
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn doubt(laps: &[&str]) -> Doubt {
        Doubt {
            name: "odd lap",
            workload: "still".into(),
            laps: laps.iter().map(|name| LapName::parse(name).unwrap()).collect(),
            evidence: String::new(),
            settle: String::new(),
            false_alarms: None,
        }
    }

    #[test]
    fn what_turns_a_verdict_comes_before_what_only_moves_a_figure() {
        let lab = Lab::default()
            .session("heron-1", &[1000.0, 1004.0, 998.0, 1001.0, 1003.0])
            .session("wren-1", &[1100.0, 1104.0, 1098.0, 1101.0, 900.0])
            .judged();
        let ask = Ask { margin: 0.02, ..Ask::default() };
        let doubts = vec![doubt(&["wren-1.2"]), doubt(&[]), doubt(&["wren-1.5"])];
        let sorted = by_sway(doubts, &lab.laps, &lab.views, &ask, &Assumptions::default());
        let laps: Vec<usize> = sorted.iter().map(|(doubt, _)| doubt.laps.len()).collect();
        assert_eq!(laps, [1, 0, 1]);
        assert_eq!(sorted[0].0.laps[0].to_string(), "wren-1.5");
        assert_eq!((sorted[0].1, sorted[1].1), (Sway::Turns(1), Sway::Unknown(1)));
        let Sway::Moves(share) = sorted[2].1 else { panic!("{sorted:?}") };
        assert!(share < 0.02, "{share}");
    }
}
