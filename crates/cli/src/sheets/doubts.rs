//! `lap doubts`: each with its laps, its evidence and what would settle it.

use super::words::count;
use honest_lap_core::doubt::Doubt;
use honest_lap_core::lap::LapHead;
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet};

/// Laps of a doubt that people see by name.
const NAMED: usize = 3;

/// Returns the sheet of `doubts`, raised on `laps`.
pub fn doubts(doubts: &[Doubt], laps: &[LapHead]) -> Sheet {
    let laps = count(laps.len(), "lap");
    let lead = match doubts.len() {
        0 => format!("No doubts about {laps}."),
        n => format!("{} about {laps}.", count(n, "doubt")),
    };
    let by_test = doubts.iter().any(|doubt| doubt.false_alarms.is_some());
    let note = "First lap, odd lap and not steady are tests: each accuses at most one clean series of \
                laps in twenty. The others state facts.";
    Sheet {
        schema: "honest-lap/doubts",
        version: 1,
        title: None,
        lead: vec![lead],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("workload", "workload"),
                Column::text("doubt", "doubt"),
                Column::text("evidence", "seen").wrap(46),
                Column::text("laps", "laps").spare(1),
                Column::text("settle", "to settle it").wrap(40),
                Column::machine("false_alarms"),
            ],
            rows: doubts.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: if by_test { vec![note.to_owned()] } else { Vec::new() },
    }
}

fn row(doubt: &Doubt) -> Vec<Cell> {
    let names: Vec<String> = doubt.laps.iter().map(ToString::to_string).collect();
    let shown = match names.len() {
        0 => "all".to_owned(),
        n if n <= NAMED => names.join(", "),
        n => format!("{} … {}, {n} laps", names[0], names[n - 1]),
    };
    vec![
        Cell::text(&doubt.workload),
        Cell::text(doubt.name).role(Role::Open),
        Cell::text(&doubt.evidence),
        Cell::list(names).shown(shown),
        Cell::text(&doubt.settle),
        Cell::or_missing(doubt.false_alarms, |rate| Cell::number(rate, rate.to_string())),
    ]
}
