//! Numbers of others beside ours: where they would stand, and how ours stands to them. They are part of no verdict.

use crate::judge::{Group, HeldConstant, Row, WorkloadView};
use crate::record::{Better, Elsewhere, plain_name};
use serde::Serialize;

/// A number from elsewhere, beside ours of the same measure and variant.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Published {
    /// The number.
    #[serde(flatten)]
    pub number: Elsewhere,
    /// The rank that it would have if it held here; none where nothing of ours stands beside it.
    pub rank: Option<usize>,
    /// How ours stands to it.
    pub ours: Option<Ours>,
}

/// One of ours beside a number from elsewhere.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Ours {
    /// The rig.
    pub rig: String,
    /// Whether it is the rig that the number is of; otherwise it is the best of ours.
    pub is_same: bool,
    /// Our typical value as a share of theirs.
    pub share: f64,
}

impl Published {
    /// Returns `number` beside the rows of `views`.
    pub(super) fn beside(number: &Elsewhere, views: &[WorkloadView]) -> Self {
        let of = |view: &&WorkloadView| {
            view.workload == number.workload && view.measure.name == number.measure
        };
        let group = views.iter().find(of).and_then(|view| {
            view.groups
                .iter()
                .find(|group| group.held == HeldConstant::Variant(number.settings.clone()))
        });
        let number = number.clone();
        match group {
            Some(group) if group.rows.iter().any(|row| row.cell.is_some()) => {
                let (rank, ours) = (rank(&number, group), ours(&number, group));
                Self { number, rank: Some(rank), ours }
            }
            _ => Self { number, rank: None, ours: None },
        }
    }

    /// Returns whether it is of the measure of `view`.
    pub fn is_of(&self, view: &WorkloadView) -> bool {
        self.number.workload == view.workload && self.number.measure == view.measure.name
    }

    /// Returns whether it stands among the rows of `group`, which is one of `view`.
    pub fn stands_in(&self, view: &WorkloadView, group: &Group) -> bool {
        self.is_of(view)
            && self.rank.is_some()
            && group.held == HeldConstant::Variant(self.number.settings.clone())
    }
}

/// Returns the values of ours, best first.
fn values(group: &Group) -> impl Iterator<Item = (&Row, f64)> {
    group.rows.iter().filter_map(|row| Some((row, row.cell.as_ref()?.typical())))
}

fn rank(number: &Elsewhere, group: &Group) -> usize {
    let is_ahead = |value: f64| match number.better {
        Better::Less => value < number.value,
        Better::More => value > number.value,
    };
    1 + values(group).filter(|(_, value)| is_ahead(*value)).count()
}

fn ours(number: &Elsewhere, group: &Group) -> Option<Ours> {
    let same = |(row, _): &(&Row, f64)| plain_name(&row.rig) == plain_name(&number.rig);
    let (row, value) = values(group).find(same).or_else(|| values(group).next())?;
    let is_same = same(&(row, value));
    Some(Ours { rig: row.rig.clone(), is_same, share: value / number.value })
}
