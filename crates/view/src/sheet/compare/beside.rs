//! What stands beside the figures: the measures that are asked for, and what limited each cell.

use super::doubted::Doubted;
use crate::number::sampled;
use crate::sheet::field_key;
use crate::table::{Cell, Column};
use crate::words::{limit_words, shows_words};
use honest_lap_core::judge::{Group, HeldConstant, Row};
use honest_lap_core::lab::{CellLimited, ColumnMean};
use std::collections::BTreeMap;

/// The column ahead of which they stand.
const AHEAD_OF: &str = "ratio";
const RATIO_INTERVAL: &str = "ratio_interval";
/// The rank of what is left out when nothing else is left to leave out.
const LAST_SPARE: u8 = 5;

/// Adds a column for every measure that is asked for; returns where they stand.
pub(super) fn add_columns(columns: &mut Vec<Column>, rows: &[Row], asked: &[String]) -> usize {
    let at = columns.iter().position(|column| column.key == AHEAD_OF).unwrap_or(columns.len());
    let column = |asked: &String| {
        let unit = rows.iter().find_map(|row| Some(of(row, asked)?.measure.unit.as_str()));
        match unit.filter(|unit| !unit.is_empty()) {
            Some(unit) => Column::figure(field_key(asked, unit), asked).unit(unit),
            None => Column::figure(field_key(asked, ""), asked),
        }
    };
    columns.splice(at..at, asked.iter().map(column));
    // What is asked for stays: on a narrow screen the ratio's interval makes room, last of all that may.
    let interval = columns.iter_mut().find(|column| column.key == RATIO_INTERVAL);
    if let (Some(interval), false) = (interval, asked.is_empty()) {
        interval.spare = Some(LAST_SPARE);
    }
    at
}

/// Returns the values of a row in those columns.
pub(super) fn cells(row: &Row, asked: &[String]) -> Vec<Cell> {
    let mean = |asked: &String| of(row, asked)?.mean;
    let cell = |asked| Cell::or_missing(mean(asked), |mean| Cell::number(mean, sampled(mean)));
    asked.iter().map(cell).collect()
}

fn of<'a>(row: &'a Row, asked: &str) -> Option<&'a ColumnMean> {
    row.columns.iter().find(|column| column.asked == asked)
}

/// Cells that a line about a limit names.
const NAMED: usize = 3;

/// Returns what limited the cells of a group, in a line for each limit: `one-thread-bound: heron (1.0 of 8 threads used)`.
pub(super) fn limits(group: &Group) -> Vec<String> {
    let all = cells_by_limit(group, |_| true).into_iter();
    all.map(|(limit, cells)| {
        let said = cells.iter().map(|(name, limited)| format!("{name} ({})", evidence(limited)));
        let said = said.collect::<Vec<_>>().join(", ");
        format!("{limit}: {said}")
    })
    .collect()
}

/// Returns the same in short: each limit with the evidence of the first cell, and without what is a doubt about the cell
/// already.
pub(super) fn limits_in_short(group: &Group, doubted: &Doubted<'_>) -> Vec<String> {
    let is_new = |row: &Row| {
        let doubts = doubted.of(row);
        row.limited
            .as_ref()
            .is_some_and(|l| !doubts.iter().any(|(_, d)| d.doubt.says(l.limited.by)))
    };
    let all = cells_by_limit(group, is_new).into_iter();
    all.filter_map(|(limit, cells)| {
        let more = cells.len().saturating_sub(NAMED);
        let names: Vec<&str> =
            cells[..cells.len() - more].iter().map(|(name, _)| name.as_str()).collect();
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let (_, first) = cells.first()?;
        Some(format!("{limit}: {}{more} ({})", names.join(", "), evidence(first)))
    })
    .collect()
}

/// Returns the cells of `group` that are `wanted` and have a limit, by its words.
fn cells_by_limit(
    group: &Group,
    wanted: impl Fn(&Row) -> bool,
) -> BTreeMap<&'static str, Vec<(String, CellLimited)>> {
    let mut by: BTreeMap<&'static str, Vec<(String, CellLimited)>> = BTreeMap::new();
    for row in group.rows.iter().filter(|row| wanted(row)) {
        let Some(limited) = row.limited.clone() else { continue };
        let name = match &group.held {
            HeldConstant::Variant(_) => row.rig.clone(),
            HeldConstant::Rigs => format!("{} {}", row.rig, row.settings),
        };
        by.entry(limit_words(limited.limited.by)).or_default().push((name, limited));
    }
    by
}

/// Returns what shows a cell's limit, and in how many of its laps where these are not all.
pub fn evidence(limited: &CellLimited) -> String {
    let shows = shows_words(&limited.limited);
    match limited.laps == limited.of {
        true => shows,
        false => format!("{shows}, {} of {} laps", limited.laps, limited.of),
    }
}
