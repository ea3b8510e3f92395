//! Numbers from elsewhere: shown apart, with their source, and part of no verdict.

use super::columns::columns;
use super::scale::Scale;
use crate::table::{Cell, Column, Group, Layout, Role, Show};
use honest_lap_core::judge::WorkloadView;
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
