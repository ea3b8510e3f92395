//! What a finding could change: what becomes of the verdicts without the laps it concerns.

use super::raised::Raised;
use crate::judge::{Against, Ask, Assumptions, Table, Verdict, WorkloadView, without};
use serde::Serialize;
use std::cmp::Ordering;
use std::mem::discriminant;

/// What a finding could change.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Impact {
    /// So many verdicts are others without its laps, or there would be none.
    Turns(usize),
    /// How much is not known; so many verdicts stand on what it doubts.
    Unknown(usize),
    /// No verdict is another; a ratio moves by this share.
    Moves(f64),
}

impl Impact {
    /// Returns what the verdicts of `views` would be without the laps of `raised`.
    ///
    /// They are left out for this question alone: nothing is set aside, and what all laps say of how far days differ stands.
    pub(super) fn of(
        raised: &Raised,
        tables: &[Table<'_>],
        views: &[WorkloadView],
        ask: &Ask,
        assume: &Assumptions,
    ) -> Self {
        let about =
            |view: &WorkloadView| raised.workload.is_empty() || view.workload == raised.workload;
        if raised.laps.is_empty() {
            return Self::Unknown(views.iter().filter(|view| about(view)).map(judged).sum());
        }
        let (mut turns, mut moves, mut any) = (0, 0.0f64, false);
        for (table, view) in tables.iter().zip(views).filter(|(_, view)| about(view)) {
            for (before, after) in without(&raised.laps, table, view, ask, assume) {
                let after = after.as_ref();
                let said = !matches!(before.verdict, Verdict::Refused(_));
                let turned = after
                    .is_none_or(|now| discriminant(&now.verdict) != discriminant(&before.verdict));
                turns += usize::from(said && turned);
                any |= said;
                if let (Some(was), Some(is)) = (before.speed, after.and_then(|now| now.speed)) {
                    moves = moves.max((is / was).ln().abs());
                }
            }
        }
        match (turns, any) {
            (0, false) => Self::Unknown(0),
            (0, true) => Self::Moves(moves.exp_m1()),
            _ => Self::Turns(turns),
        }
    }

    /// Returns the order in which what could change most comes first.
    pub(super) fn order(self, other: Self) -> Ordering {
        let rank = |impact: Self| match impact {
            Self::Turns(verdicts) => (0, -(verdicts as f64)),
            Self::Unknown(verdicts) => (1, -(verdicts as f64)),
            Self::Moves(share) => (2, -share),
        };
        let (ours, theirs) = (rank(self), rank(other));
        ours.0.cmp(&theirs.0).then(ours.1.total_cmp(&theirs.1))
    }
}

/// Returns how many verdicts a view has.
fn judged(view: &WorkloadView) -> usize {
    let rows = view.groups.iter().flat_map(|group| &group.rows);
    let said = |against: &Against| matches!(against, Against::Other(d) if !matches!(d.verdict, Verdict::Refused(_)));
    rows.filter(|row| said(&row.against)).count()
}

#[cfg(test)]
mod tests {
    use super::super::doubt::Doubt;
    use super::super::parts::SeriesName;
    use super::super::raised::Remedy;
    use super::super::testing::Lab;
    use super::*;
    use crate::judge::tables;
    use crate::lab::Laps;
    use crate::record::{LapName, SessionName, Settings};

    fn raised(laps: &[&str]) -> Raised {
        let session = SessionName::parse("wren-1").unwrap();
        let series = SeriesName { session, settings: Settings::default() };
        Raised {
            workload: "still".into(),
            laps: laps.iter().map(|name| LapName::parse(name).unwrap()).collect(),
            doubt: Doubt::OddLap { series, off: 0.1 },
            remedy: Remedy::again("wren"),
        }
    }

    #[test]
    fn what_turns_a_verdict_comes_before_what_only_moves_a_figure() {
        let lab = Lab::default()
            .session("heron-1", &[1000.0, 1004.0, 998.0, 1001.0, 1003.0])
            .session("wren-1", &[1100.0, 1104.0, 1098.0, 1101.0, 900.0])
            .judged();
        let ask = Ask { margin: 0.02, ..Ask::default() };
        let laps = Laps::from(&lab.laps);
        let tables = tables(&laps, &ask);
        let impact = |laps: &[&str]| {
            Impact::of(&raised(laps), &tables, &lab.views, &ask, &Assumptions::default())
        };
        let (little, all, much) = (impact(&["wren-1.2"]), impact(&[]), impact(&["wren-1.5"]));
        assert_eq!((much, all), (Impact::Turns(1), Impact::Unknown(1)));
        let Impact::Moves(share) = little else { panic!("{little:?}") };
        assert!(share < 0.02, "{share}");
        assert_eq!((much.order(all), all.order(little)), (Ordering::Less, Ordering::Less));
    }
}
