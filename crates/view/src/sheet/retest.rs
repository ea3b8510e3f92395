//! `lap doubts --retest`: the laps that would resolve what is open, rig by rig.

use super::time_cell::time_cell;
use crate::table::{Cell, Column, Group, Layout, Sheet};
use crate::words::finding::name;
use crate::words::{count, listed};
use honest_lap_core::plan::{Resolves, Retest};
use honest_lap_core::unit::{Nanos, display_span};

/// Returns the sheet of `retests`.
pub fn retests(retests: &[Retest]) -> Sheet {
    let known: u64 = retests.iter().filter_map(|retest| retest.time).map(|time| time.0).sum();
    let unknown = retests.iter().filter(|retest| retest.time.is_none()).count();
    let and = match unknown {
        0 => String::new(),
        n => format!(", and {} of which no lap tells how long it takes", count(n, "part")),
    };
    let lead = match retests.len() {
        0 => "No further lap would resolve anything.".to_owned(),
        _ => format!("What laps can resolve takes {}{and}.", rounded(Nanos(known))),
    };
    let notes = match retests.is_empty() {
        true => Vec::new(),
        false => vec![
            "On each rig: lap run --retest. Where more than one session is wanted, run them on \
             different days: laps of one day share what it does to them."
                .to_owned(),
        ],
    };
    Sheet {
        schema: "honest-lap/retest",
        version: 2,
        title: None,
        lead: vec![lead],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("rig", "on"),
                Column::text("workload", "workload"),
                Column::figure("laps", "laps"),
                Column::figure("sessions", "sessions"),
                Column::figure("time_ns", "a session takes"),
                Column::text("resolves", "resolves").wrap(20),
            ],
            rows: retests.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes,
    }
}

fn row(retest: &Retest) -> Vec<Cell> {
    let mut resolved: Vec<String> =
        retest.resolves.iter().map(resolves_words).map(str::to_owned).collect();
    resolved.sort();
    resolved.dedup();
    vec![
        Cell::text(&retest.rig),
        Cell::text(&retest.workload),
        Cell::whole(u64::from(retest.laps)),
        Cell::whole(retest.sessions as u64),
        Cell::or_missing(retest.time, |time| time_cell(time, rounded(time))),
        Cell::list(resolved.clone()).shown(listed(&resolved)),
    ]
}

/// Returns what laps would resolve, in words.
pub fn resolves_words(resolves: &Resolves) -> &'static str {
    match resolves {
        Resolves::Doubt(doubt) => name(doubt),
        Resolves::TooClose => "too close to call",
    }
}

/// Returns a time as a plan needs it: whole seconds.
fn rounded(time: Nanos) -> String {
    display_span(Nanos::from_seconds(time.seconds().ceil() as u64))
}
