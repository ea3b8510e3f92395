//! Numbers from elsewhere: shown apart, with their source, and part of no verdict.

use super::columns::columns;
use super::scale::Scale;
use crate::number::significant;
use crate::table::{Cell, Column, Group, Layout, Role, Show};
use crate::words::measured;
use honest_lap_core::judge::{Group as Compared, Held, Row, WorkloadView};
use honest_lap_core::record::{Better, Elsewhere, plain_name};

/// Returns the table of what is published elsewhere of a workload's measure, if anything.
pub(super) fn elsewhere(all: &[Elsewhere], view: &WorkloadView) -> Option<Group> {
    let of = |number: &&Elsewhere| {
        number.workload == view.workload && number.measure == view.measure.name
    };
    let numbers: Vec<&Elsewhere> = all.iter().filter(of).collect();
    if numbers.is_empty() {
        return None;
    }
    let rows = view.groups.iter().flat_map(|group| group.rows.clone()).collect::<Vec<_>>();
    let scale = Scale::of(&view.measure, &rows);
    let mut columns = columns(true, false, &view.measure, &scale, None, false);
    columns.retain(|column| column.show != Show::People);
    for column in &mut columns {
        match column.key {
            "variant" => *column = Column::text("variant", "variant"),
            "source" => *column = Column::text("source", "says").wrap(40),
            "rig" | "typical" => {}
            _ => column.show = Show::Machines,
        }
    }
    let row = |number: &&Elsewhere| {
        let cell = |column: &Column| match column.key {
            "workload" => Cell::text(&number.workload),
            "rig" => Cell::text(&number.rig).role(Role::Quiet),
            "variant" => Cell::text(number.settings.to_string()),
            "measure" => Cell::text(&number.measure),
            "unit" => Cell::text(&number.unit),
            "better" => Cell::text(number.better.word()),
            "typical" => Cell::number(number.value, scale.show(number.value, None)),
            "verdict" => Cell::text("from elsewhere"),
            "source" => Cell::text(&number.source),
            _ => Cell::missing(),
        };
        columns.iter().map(cell).collect()
    };
    let measure =
        if view.measure.is_time() { String::new() } else { format!(" · {}", view.measure.name) };
    Some(Group {
        heading: Some(format!("{}{measure}: from elsewhere", view.workload)),
        lead: vec!["Not measured here, and part of no verdict.".to_owned()],
        rows: numbers.iter().map(row).collect(),
        columns,
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: numbers
            .iter()
            .filter_map(|number| Some(format!("{}: {}", number.rig, beside(number, view)?)))
            .collect(),
    })
}

/// Returns where a number from elsewhere would stand among ours, and how ours stands to it: the same rig's, or our best.
fn beside(number: &Elsewhere, view: &WorkloadView) -> Option<String> {
    let of = |group: &&Compared| matches!(&group.held, Held::Variant(at) if *at == number.settings);
    let rows = &view.groups.iter().find(of)?.rows;
    let typical = |row: &Row| Some((row.rig.clone(), row.cell.as_ref()?.typical()));
    let ours: Vec<(String, f64)> = rows.iter().filter_map(typical).collect();
    // How many times better the one is than the other.
    let times = |one: f64, other: f64| match view.measure.better {
        Better::Less => other / one,
        Better::More => one / other,
    };
    let rank = 1 + ours.iter().filter(|(_, value)| times(*value, number.value) > 1.0).count();
    let best = || ours.iter().reduce(|a, b| if times(b.1, a.1) > 1.0 { b } else { a });
    let same = ours.iter().find(|(rig, _)| plain_name(rig) == plain_name(&number.rig));
    let (rig, value) = same.or_else(best)?;
    let who = if same.is_some() { "ours" } else { rig };
    let speed = significant(times(*value, number.value), 2);
    Some(format!("rank {rank} if it held here; {who} is at {speed}× of it"))
}

/// Numbers from elsewhere that a line has room for.
const SOME: usize = 3;

/// Returns what is published elsewhere of a group's variant in one line, if anything.
pub(super) fn elsewhere_in_short(
    all: &[Elsewhere],
    view: &WorkloadView,
    group: &Compared,
) -> Option<String> {
    let of = |number: &&Elsewhere| {
        let variant = match &group.held {
            Held::Variant(settings) => number.settings == *settings,
            Held::Rigs => false,
        };
        number.workload == view.workload && number.measure == view.measure.name && variant
    };
    let numbers: Vec<&Elsewhere> = all.iter().filter(of).collect();
    let said = |number: &&Elsewhere| {
        let value = measured(number.value, &view.measure.unit);
        let beside = beside(number, view).map(|words| format!(": {words}")).unwrap_or_default();
        format!("{} {value} ({}){beside}", number.rig, number.source)
    };
    let mut said_of: Vec<String> = numbers.iter().take(SOME).map(said).collect();
    let more = numbers.len().saturating_sub(SOME);
    said_of.extend((more > 0).then(|| format!("{more} more with --explain")));
    (!numbers.is_empty()).then(|| format!("Not measured here: {}", said_of.join("; ")))
}
