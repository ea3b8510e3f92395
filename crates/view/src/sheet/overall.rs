//! `lap compare --overall`: the workloads weighed into one figure for each rig.

use crate::number::{percent, significant};
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{
    OF_INDEX, assumed_spread, between_sessions, capped_words, entry_words, ground_name, listed,
    speed, speed_interval, verdict_role, verdict_words,
};
use honest_lap_core::analysis::{Index, Over};
use honest_lap_core::judge::{Ground, Moved, OverallRow, Verdict, WorkloadView};
use honest_lap_core::record::Study;
use honest_lap_core::unit::display_share;

/// Returns the sheet of indexes.
pub fn overall(study: &Study, indexes: &[Index], views: &[WorkloadView]) -> Sheet {
    Sheet {
        schema: "honest-lap/overall",
        version: 1,
        title: study.title.clone(),
        lead: study.question.iter().cloned().collect(),
        groups: indexes.iter().map(group).collect(),
        notes: method(indexes, views, study.margin),
    }
}

/// Returns what an index is over.
pub fn over_words(over: &Over) -> String {
    match over {
        Over::Everything => "everything".to_owned(),
        Over::Only(group) => format!("{group} only"),
        Over::Without(group) => format!("without {group}"),
    }
}

fn group(index: &Index) -> Group {
    let found = &index.found;
    let weighed: Vec<String> = found
        .entered
        .iter()
        .map(|entry| format!("{} {}", entry_words(&entry.of), percent(entry.share)))
        .collect();
    let mut lead = Vec::new();
    if !found.missing.is_empty() {
        let lack = found.missing.iter();
        let lack = lack
            .map(|missing| format!("{} on {}", entry_words(&missing.of), listed(&missing.rigs)));
        lead.push(format!(
            "Refused over all of it: there is no verdict in {}. What follows is over what all rigs have.",
            listed(&lack.collect::<Vec<_>>())
        ));
    }
    if !found.without_ratio.is_empty() {
        lead.push(format!(
            "Left out, since values of zero have no ratio: {}.",
            listed(&found.without_ratio.iter().map(entry_words).collect::<Vec<_>>())
        ));
    }
    lead.extend(capped_words(&found.capped));
    lead.push(match (weighed.is_empty(), found.rows.is_empty()) {
        (true, _) => {
            "There is nothing that all rigs have: lap compare says what is missing.".to_owned()
        }
        (_, true) => "There is one rig alone, and nothing to hold it against.".to_owned(),
        _ => format!("For these workloads and weights: {}.", weighed.join(", ")),
    });
    Group {
        heading: Some(format!("overall: {}", over_words(&index.over))),
        lead,
        columns: vec![
            Column::machine("over"),
            Column::text("rig", "rig"),
            Column::figure("index", "index"),
            Column::text("interval", "95 % CI").people(),
            Column::machine("index_low"),
            Column::machine("index_high"),
            Column::text("verdict", "verdict"),
            Column::machine("ground"),
            Column::text("most_moved_by", "moved most by").spare(3),
            Column::figure("without_it", "without it").spare(2),
            Column::figure("with_twice_its_weight", "with twice its weight").spare(1),
            Column::machine("each_workload"),
        ],
        rows: found.rows.iter().map(|row| cells(index, row)).collect(),
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: Vec::new(),
    }
}

fn moved_words(moved: &Moved) -> String {
    format!(
        "{}× without {}, {}× with twice its weight",
        significant(moved.without, 3),
        moved.workload,
        significant(moved.doubled, 3)
    )
}

fn cells(index: &Index, row: &OverallRow) -> Vec<Cell> {
    let difference = row.against.as_ref();
    let end = |end: fn(&honest_lap_core::stat::Interval) -> f64| {
        let found = difference.and_then(|d| d.interval).map(|interval| end(&interval));
        Cell::or_missing(found, |value| Cell::number(value, significant(value, 4)))
    };
    let times = |value: f64| Cell::number(value, format!("{}×", significant(value, 3)));
    let moved = row.moved.first();
    vec![
        Cell::text(over_words(&index.over)),
        Cell::text(&row.rig),
        Cell::or_missing(difference.and_then(|d| d.speed.zip(speed(d))), |(value, text)| {
            Cell::number(value, text)
        }),
        Cell::or_missing(difference.and_then(speed_interval), Cell::text),
        end(|interval| interval.low),
        end(|interval| interval.high),
        verdict(row),
        Cell::or_missing(difference, |d| Cell::text(ground_name(d))),
        Cell::or_missing(moved, |moved| Cell::text(&moved.workload)),
        Cell::or_missing(moved, |moved| times(moved.without)),
        Cell::or_missing(moved, |moved| times(moved.doubled)),
        Cell::list(row.moved.iter().map(moved_words).collect()),
    ]
}

fn verdict(row: &OverallRow) -> Cell {
    let Some(difference) = &row.against else {
        return Cell::text("baseline").role(Role::Quiet);
    };
    let role = verdict_role(difference.verdict);
    let words = verdict_words(difference.verdict, OF_INDEX);
    let shown = match difference.ground {
        Ground::ThisSessionOnly if !matches!(difference.verdict, Verdict::Refused(_)) => {
            format!("{words}, 1 session")
        }
        Ground::AssumedSpread if !matches!(difference.verdict, Verdict::Refused(_)) => {
            format!("{words}, assumed")
        }
        _ => words.clone(),
    };
    Cell::text(words).shown(shown).role(role)
}

fn method(indexes: &[Index], views: &[WorkloadView], margin: f64) -> Vec<String> {
    let mut notes = vec![format!(
        "An index is the weighted geometric mean of how many times better a rig is than the baseline; \
         above 1× is better. Ahead or behind: its 95 % interval excludes 1. Same: the 90 % interval \
         lies within ±{}; the verdicts of a table share one chance of error. A workload's weight is shared equally by its variants and measures.",
        display_share(margin)
    )];
    let rows = indexes.iter().flat_map(|index| &index.found.rows);
    let grounds: Vec<Ground> = rows.filter_map(|row| row.against.map(|d| d.ground)).collect();
    if grounds.iter().any(|ground| matches!(ground, Ground::Sessions(_))) {
        notes.push(
            "Each session that holds all of it is one value: its workloads share the day."
                .to_owned(),
        );
    }
    let one = [Ground::ThisSessionOnly, Ground::AssumedSpread];
    if one.iter().any(|ground| grounds.contains(ground)) {
        notes.push(format!(
            "This session only: widened by a between-session variation of {}, as one that all workloads share.",
            between_sessions(views)
        ));
    }
    if grounds.contains(&Ground::AssumedSpread) {
        notes.extend(assumed_spread(views));
    }
    notes
}
