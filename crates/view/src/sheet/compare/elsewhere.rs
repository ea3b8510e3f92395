//! Numbers from elsewhere: shown apart, with their source, and part of no verdict.

use super::columns::columns;
use super::scale::Scale;
use crate::table::{Cell, Column, Group, Layout, Role, Show};
use crate::words::measured;
use honest_lap_core::judge::{Group as Compared, Held, WorkloadView};
use honest_lap_core::record::Elsewhere;

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
        notes: Vec::new(),
    })
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
        format!("{} {value} ({})", number.rig, number.source)
    };
    let mut said_of: Vec<String> = numbers.iter().take(SOME).map(said).collect();
    let more = numbers.len().saturating_sub(SOME);
    said_of.extend((more > 0).then(|| format!("{more} more with --explain")));
    (!numbers.is_empty())
        .then(|| format!("From elsewhere, not measured here: {}", said_of.join("; ")))
}
