//! The columns of all tables of value: programs see the same in each.

use crate::table::{Cell, Column, Group, Layout, Show};

/// Which of the columns a group shows to people.
pub(super) const OF_RIGS: [&str; 13] = [
    "rig",
    "price",
    "work",
    "work_said",
    "per_price",
    "per_price_said",
    "mean_w",
    "peak_w",
    "idle_w",
    "per_watt",
    "per_joule",
    "per_joule_said",
    "stands",
];

pub(super) const OF_STEPS: [&str; 7] =
    ["from", "to", "costs", "dearer_by", "brings", "brings_said", "more_work"];

pub(super) const OF_WANTED: [&str; 4] = ["rig", "price", "to_match", "to_stand"];

pub(super) const OF_UPGRADES: [&str; 4] = ["workload", "jobs", "hours", "hours_said"];

/// Returns the columns of all groups, of which people see `shown`.
pub(super) fn columns(shown: &[&str]) -> Vec<Column> {
    let figure = Column::figure;
    let mut all = vec![
        Column::text("rig", "rig"),
        Column::text("from", "from"),
        Column::text("to", "to"),
        Column::text("workload", "workload"),
        figure("price", "price"),
        Column::machine("price_unit"),
        figure("work", "work"),
        Column::text("work_said", "95 % CI").people().spare(3),
        Column::machine("work_low"),
        Column::machine("work_high"),
        figure("per_price", "for its price"),
        Column::text("per_price_said", "95 % CI").people(),
        Column::machine("per_price_low"),
        Column::machine("per_price_high"),
        figure("mean_w", "mean").unit("W").spare(4),
        figure("peak_w", "peak").unit("W").spare(2),
        figure("idle_w", "idle").unit("W").spare(1),
        Column::machine("power_from"),
        figure("per_watt", "for a watt").spare(2),
        figure("per_joule", "for a joule").spare(4),
        Column::text("per_joule_said", "95 % CI").people().spare(2),
        Column::machine("per_joule_low"),
        Column::machine("per_joule_high"),
        Column::text("stands", "how it stands").wrap(26),
        figure("costs", "costs more"),
        figure("dearer_by", "dearer by"),
        figure("brings", "brings"),
        Column::text("brings_said", "95 %").people(),
        Column::machine("brings_low"),
        Column::machine("brings_high"),
        figure("more_work", "does"),
        figure("to_match", "as much for its price"),
        Column::machine("like"),
        figure("to_stand", "not beaten above"),
        Column::machine("beaten_by"),
        figure("jobs", "jobs a month"),
        figure("hours", "hours saved a month"),
        Column::text("hours_said", "95 %").people(),
        Column::machine("hours_low"),
        Column::machine("hours_high"),
        Column::machine("worth_a_month"),
        Column::machine("months_until_paid"),
        Column::machine("months_low"),
        Column::machine("months_high"),
    ];
    for column in &mut all {
        if !shown.contains(&&*column.key) && column.show == Show::All {
            column.show = Show::Machines;
        }
    }
    // What only people read is nothing to programs, and nothing to those who see another table.
    all.retain(|column| column.show != Show::People || shown.contains(&&*column.key));
    all
}

/// Returns a row of `columns`, from the cells that it has.
pub(super) fn row(columns: &[Column], cells: Vec<(&str, Cell)>) -> Vec<Cell> {
    let cell = |column: &Column| {
        let found = cells.iter().find(|(key, _)| *key == column.key);
        found.map_or_else(Cell::missing, |(_, cell)| cell.clone())
    };
    columns.iter().map(cell).collect()
}

pub(super) fn group(
    heading: Option<String>,
    lead: Vec<String>,
    columns: Vec<Column>,
    rows: Vec<Vec<Cell>>,
) -> Group {
    let (layout, drawing, notes) = (Layout::Table, Vec::new(), Vec::new());
    Group { heading, lead, columns, rows, layout, drawing, notes }
}
