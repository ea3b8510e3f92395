//! Numbers from elsewhere: they stand where they would be among ours, with their source, and are part of no verdict.

use super::columns::columns;
use super::scale::Scale;
use crate::table::{Cell, Column, Group, Layout, Role, Show};
use crate::words::{listed, measured, ours_words};
use honest_lap_core::analysis::Published;
use honest_lap_core::judge::{Group as Compared, Row, WorkloadView};

/// A row of a table: one of ours, or a number from elsewhere.
pub(super) enum Line<'a> {
    Ours(&'a Row),
    Theirs(&'a Published),
}

/// Returns the numbers that stand among the rows of `group`, best first.
pub fn among<'a>(
    all: &'a [Published],
    view: &WorkloadView,
    group: &Compared,
) -> Vec<&'a Published> {
    let mut among: Vec<&Published> =
        all.iter().filter(|published| published.stands_in(view, group)).collect();
    among.sort_by_key(|published| published.rank);
    among
}

/// Returns the place at which each number stands among so many rows of ours: ahead of those that it is better than.
pub fn places(among: &[&Published], rows: usize) -> Vec<usize> {
    among.iter().map(|published| published.rank.map_or(rows, |rank| rows.min(rank - 1))).collect()
}

/// Returns the rows of `group` with the numbers of others among them, each with the place of the row or of the one behind it.
pub(super) fn lines<'a>(group: &'a Compared, among: &[&'a Published]) -> Vec<(usize, Line<'a>)> {
    let mut lines: Vec<(usize, Line<'_>)> = Vec::new();
    let mut theirs = places(among, group.rows.len()).into_iter().zip(among).peekable();
    for (place, row) in group.rows.iter().enumerate() {
        while let Some((_, number)) = theirs.next_if(|(before, _)| *before <= place) {
            lines.push((place, Line::Theirs(number)));
        }
        lines.push((place, Line::Ours(row)));
    }
    lines.extend(theirs.map(|(place, number)| (place, Line::Theirs(number))));
    lines
}

/// Returns the row of a number from elsewhere, in the columns of its table.
pub(super) fn row(published: &Published, columns: &[Column], scale: &Scale) -> Vec<Cell> {
    let number = &published.number;
    let cell = |column: &Column| match &*column.key {
        "workload" => Cell::text(&number.workload),
        "rig" => Cell::text(&number.rig).role(Role::Quiet),
        "rank_best" => {
            let shown = published.rank.map(|rank| format!("({rank})")).unwrap_or_default();
            Cell::missing().shown(shown).role(Role::Quiet)
        }
        "variant" => Cell::text(number.settings.to_string()),
        "measure" => Cell::text(&number.measure),
        "unit" => Cell::text(&number.unit),
        "better" => Cell::text(number.better.word()),
        "typical" => Cell::number(number.value, scale.show(number.value, None)),
        "ratio_interval" => Cell::or_missing(ours_words(published), Cell::text).role(Role::Quiet),
        "verdict" => Cell::text("from elsewhere").shown("elsewhere").role(Role::Quiet),
        "source" => Cell::text(&number.source),
        _ => Cell::missing(),
    };
    columns.iter().map(cell).collect()
}

/// Numbers from elsewhere of which a line has the sources.
const SOME: usize = 3;

/// Returns where the numbers among a table's rows come from, in a line.
pub fn sources(among: &[&Published], full: bool) -> Option<String> {
    let shown = if full { among.len() } else { among.len().min(SOME) };
    let said =
        |published: &&Published| format!("{} ({})", published.number.rig, published.number.source);
    let mut all: Vec<String> = among.iter().take(shown).map(said).collect();
    all.extend(
        (among.len() > shown).then(|| format!("{} more with --explain", among.len() - shown)),
    );
    (!among.is_empty()).then(|| format!("From elsewhere, in no verdict: {}", listed(&all)))
}

/// Returns the table of what others published of variants that were not measured here, if anything.
pub(super) fn apart(all: &[Published], view: &WorkloadView) -> Option<Group> {
    let of = |published: &&Published| published.is_of(view) && published.rank.is_none();
    let numbers: Vec<&Published> = all.iter().filter(of).collect();
    if numbers.is_empty() {
        return None;
    }
    let rows = view.groups.iter().flat_map(|group| group.rows.clone()).collect::<Vec<_>>();
    let scale = Scale::of(view, &rows);
    let mut columns = columns(true, false, &view.measure, &scale, None, false);
    // Programs read it below the others: in the same columns.
    columns.retain(|column| column.show != Show::People);
    for column in &mut columns {
        match &*column.key {
            "variant" => *column = Column::text("variant", "variant"),
            "source" => *column = Column::text("source", "says").wrap(40),
            "rig" | "typical" => {}
            _ => column.show = Show::Machines,
        }
    }
    let measure =
        if view.measure.is_time() { String::new() } else { format!(" · {}", view.measure.name) };
    Some(Group {
        heading: Some(format!("{}{measure}: from elsewhere", view.workload)),
        lead: vec!["Not measured here, and part of no verdict.".to_owned()],
        rows: numbers.iter().map(|published| row(published, &columns, &scale)).collect(),
        columns,
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: Vec::new(),
    })
}

/// Returns what others published of variants that were not measured here, in a line, if anything.
pub(super) fn apart_in_short(all: &[Published], view: &WorkloadView) -> Option<String> {
    let of = |published: &&Published| published.is_of(view) && published.rank.is_none();
    let said = |published: &Published| {
        let number = &published.number;
        let value = measured(number.value, &view.measure.unit);
        format!("{} {} {value} ({})", number.rig, number.settings, number.source)
    };
    let all: Vec<String> = all.iter().filter(of).take(SOME).map(said).collect();
    (!all.is_empty()).then(|| format!("Not measured here: {}", all.join("; ")))
}
