//! What verdicts would be without some laps: of the cells that these are in, and of no others.

use super::ask::Ask;
use super::assumption::Assumptions;
use super::difference::Difference;
use super::lap_set::LapSet;
use super::table::Table;
use super::view::{Against, Group, HeldConstant, Row, WorkloadView};
use crate::record::LapName;

/// Returns every difference of `view` that `laps` have a part in, with what it would be without them; none where
/// nothing would be left on one side.
pub(crate) fn without(
    laps: &[LapName],
    table: &Table<'_>,
    view: &WorkloadView,
    ask: &Ask,
    assume: &Assumptions,
) -> Vec<(Difference, Option<Difference>)> {
    let but = LapSet::of(laps);
    let mut all = Vec::new();
    for group in &view.groups {
        let mut base: Option<(&Row, Option<Row>)> = None;
        for row in based(group) {
            let left = |row: &Row| {
                let near = table.laps_of(row).iter().filter(|series| but.is_of(&series.session));
                let touched = near.flat_map(|series| series.laps()).any(|lap| but.has(&lap));
                touched.then(|| table.row_without(row, ask, &but))
            };
            let Against::Other(before) = &row.against else {
                base = (row.against == Against::Baseline).then(|| (row, left(row)));
                continue;
            };
            let Some((held, held_left)) = &base else { continue };
            let row_left = left(row);
            if row_left.is_none() && held_left.is_none() {
                continue;
            }
            let (held, now) =
                (held_left.as_ref().unwrap_or(held), row_left.as_ref().unwrap_or(row));
            let after = (held.has_values() && now.has_values()).then(|| {
                let shared_by = table.family(held, now);
                table.difference_of(held, now, &Assumptions { shared_by, ..*assume }, Some(&but))
            });
            all.push((*before, after));
        }
    }
    all
}

/// Returns the rows of a group, each baseline ahead of those that are held against it.
fn based(group: &Group) -> Vec<&Row> {
    let mut rows: Vec<&Row> = group.rows.iter().collect();
    let rig = |row: &Row| match group.held {
        HeldConstant::Variant(_) => None,
        HeldConstant::Rigs => group.rows.iter().position(|other| other.rig == row.rig),
    };
    rows.sort_by_key(|row| (rig(row), row.against != Against::Baseline));
    rows
}
