//! `lap compare` of more than one table: all of it on one screen.

use super::carrying::carrying;
use super::change::of_change;
use super::compare::Shown;
use crate::overview::{
    ColumnMarks, Columns, Line, Overview, Sign, Stand, overview as overview_of, signs_words,
};
use crate::table::{Cell, Column, Group, Sheet};
use crate::words::count;
use crate::words::finding::kinds;
use honest_lap_core::finding::Finding;
use honest_lap_core::record::Study;
use textwrap::core::display_width;

/// The least width that an answer must fit.
const NARROW: usize = 80;
/// Blanks between two columns.
const GAP: usize = 2;
/// Lines of a screen that are neither of the table nor doubts.
const AROUND: usize = 10;
const SCREEN: usize = 24;
/// Lines that anybody reads: of more, a part is to be asked for.
const LINES: usize = 60;

/// Returns the sheet of everything that was compared, for a terminal `width` columns wide.
pub fn overview(study: &Study, shown: &Shown<'_>, width: usize) -> Sheet {
    let analysis = shown.analysis;
    let seen = overview_of(study, analysis);
    let width = width.max(NARROW);
    let mut table = fitting(&seen, width);
    let cells = seen.index.iter().chain(&seen.lines).flat_map(|line| line.cells.iter().flatten());
    let mut legend = signs_words(cells);
    if !legend.is_empty() && seen.across == Columns::Rigs {
        let base = seen.columns.first().map(String::as_str).unwrap_or_default();
        legend = format!("against {base}; {legend}");
    }
    table.notes.extend((!legend.is_empty()).then_some(legend));
    let room = SCREEN.saturating_sub(AROUND + table.rows.len()).clamp(3, 9);
    let mut lead: Vec<String> = study.question.iter().cloned().collect();
    lead.extend(of_change(shown));
    let mut groups = vec![table];
    groups.extend(doubts(&analysis.findings, room, shown.reads));
    let sheet = Sheet {
        schema: "honest-lap/overview",
        version: 1,
        title: study.title.clone(),
        lead,
        groups,
        notes: vec![next(&seen, &analysis.findings, shown.reads)],
    };
    carrying(sheet, analysis)
}

/// Returns the commands that show more.
fn next(seen: &Overview, findings: &[Finding], reads: &str) -> String {
    let first = seen.lines.first().map(|line| line.workload.as_str()).unwrap_or("WORKLOAD");
    let mut commands = vec![format!("lap compare {first}"), "lap report".to_owned()];
    if !findings.is_empty() {
        commands.insert(1, "lap doubts".to_owned());
    }
    let commands: Vec<String> = commands.iter().map(|words| format!("{words}{reads}")).collect();
    format!("More: {}", commands.join(" · "))
}

/// Returns the widest form of the overview that fits: as it is, turned, or a ranked list.
fn fitting(seen: &Overview, width: usize) -> Group {
    let (plain, turned) = (plain(seen), turned(seen));
    // Of many rigs a reader looks for one, down a list.
    let many = seen.columns.len() > 6;
    match (fits(&plain, width), fits(&turned, width)) {
        (true, fits) if !(many && fits) => plain,
        (_, true) => turned,
        _ => ranked(seen),
    }
}

fn fits(group: &Group, width: usize) -> bool {
    let column = |(at, column): (usize, &Column)| {
        let heading = column.title.lines().map(display_width).max().unwrap_or(0);
        let cells = group.rows.iter().map(|row| display_width(&row[at].read()));
        cells.max().unwrap_or(0).max(heading) + GAP
    };
    group.columns.iter().enumerate().map(column).sum::<usize>() <= width + GAP
}

/// A line a workload, a column a rig.
fn plain(seen: &Overview) -> Group {
    let best = seen.across == Columns::Variants;
    let mut columns = vec![Column::text("workload", "")];
    columns.extend(seen.columns.iter().map(|name| Column::figure("stand", name)));
    columns.extend(best.then(|| Column::text("best", "best")));
    let cut = seen.lines.len().saturating_sub(LINES);
    let lines = || seen.index.iter().chain(seen.lines.iter().take(LINES));
    let places: Vec<ColumnMarks> = (0..seen.columns.len())
        .map(|at| ColumnMarks::of(lines().filter_map(|line| line.cells[at].as_ref())))
        .collect();
    let row = |line: &Line| {
        let mut cells = vec![Cell::text(&line.name)];
        let placed = line.cells.iter().zip(&places);
        cells.extend(placed.map(|(cell, places)| stand(cell.as_ref(), *places)));
        cells.extend(best.then(|| Cell::or_missing(line.best.as_ref(), Cell::text)));
        cells
    };
    let mut table = Group::of(columns, lines().map(row).collect());
    if cut > 0 {
        let more = count(cut, "further line");
        table.notes.push(format!("{more}: name a workload, --with SETTING=VALUE, or --tables"));
    }
    table
}

/// A line a rig, a column a workload.
fn turned(seen: &Overview) -> Group {
    let lines: Vec<&Line> = seen.index.iter().chain(&seen.lines).collect();
    let mut columns = vec![Column::text("rig", "")];
    let places: Vec<ColumnMarks> =
        lines.iter().map(|line| ColumnMarks::of(line.cells.iter().flatten())).collect();
    let title = |line: &&Line| Column::figure("stand", line.name.replacen(' ', "\n", 1));
    columns.extend(lines.iter().map(title));
    let row = |at: usize| {
        let mut cells = vec![Cell::text(&seen.columns[at])];
        let placed = lines.iter().zip(&places);
        cells.extend(placed.map(|(line, places)| stand(line.cells[at].as_ref(), *places)));
        cells
    };
    Group::of(columns, by_index(seen).into_iter().map(row).collect())
}

/// A line a rig, with how often it is better and worse.
fn ranked(seen: &Overview) -> Group {
    let columns = vec![
        Column::text("rig", ""),
        Column::figure("index", "index"),
        Column::figure("better", "better in"),
        Column::figure("worse", "worse in"),
        Column::figure("open", "same or open"),
        Column::figure("missing", "no verdict"),
    ];
    let row = |at: usize| {
        let stands: Vec<Option<&Stand>> =
            seen.lines.iter().map(|line| line.cells[at].as_ref()).collect();
        let count = |wanted: &[Sign]| {
            let of = |cell: &&Option<&Stand>| cell.is_some_and(|cell| wanted.contains(&cell.sign));
            Cell::whole(stands.iter().filter(of).count() as u64)
        };
        let judged = stands.iter().flatten().filter(|cell| cell.sign != Sign::Refused).count();
        let index = seen.index.as_ref().and_then(|line| line.cells[at].as_ref());
        vec![
            Cell::text(&seen.columns[at]),
            stand(index, ColumnMarks { sign: true, doubt: false }),
            count(&[Sign::Better, Sign::BetterWithin]),
            count(&[Sign::Worse, Sign::WorseWithin]),
            count(&[Sign::Same, Sign::TooClose]),
            Cell::whole((stands.len() - judged) as u64),
        ]
    };
    Group::of(columns, by_index(seen).into_iter().map(row).collect())
}

/// Returns the columns in the order of their index, what has none behind.
fn by_index(seen: &Overview) -> Vec<usize> {
    let ratio = |at: &usize| {
        let cell = seen.index.as_ref().and_then(|line| line.cells[*at].as_ref());
        cell.map_or(f64::NEG_INFINITY, |cell| cell.ratio.unwrap_or(1.0))
    };
    let mut order: Vec<usize> = (0..seen.columns.len()).collect();
    order.sort_by(|a, b| ratio(b).total_cmp(&ratio(a)));
    order
}

fn stand(cell: Option<&Stand>, places: ColumnMarks) -> Cell {
    match cell {
        None => Cell::missing().shown(places.none()),
        Some(cell) => Cell::text(cell.text(places)).role(cell.role()),
    }
}

/// Returns the worst doubts, a line a kind, at most `most` of them.
fn doubts(findings: &[Finding], most: usize, reads: &str) -> Option<Group> {
    let kinds = kinds(findings);
    let rest = kinds.len().saturating_sub(most);
    let rows: Vec<Vec<Cell>> = kinds
        .iter()
        .take(most)
        .map(|kind| {
            vec![
                Cell::text(kind.name),
                Cell::text(kind.concerns_in_short()),
                Cell::text(kind.could_change()),
            ]
        })
        .collect();
    let columns = vec![
        Column::text("doubt", "doubt").wrap(20),
        Column::text("concerns", "concerns").wrap(40),
        Column::text("could_change", "could change").wrap(17),
    ];
    let mut table = Group::of(columns, rows);
    let more = || format!("{}: lap doubts{reads}", count(rest, "further kind"));
    table.notes.extend((rest > 0).then(more));
    (!kinds.is_empty()).then_some(table)
}
