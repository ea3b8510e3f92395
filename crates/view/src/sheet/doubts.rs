//! `lap doubts`: each with its laps, its evidence and what would settle it.

use crate::number::percent;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::count;
use crate::words::finding::{name, seen, to_resolve};
use honest_lap_core::finding::{Finding, Impact};

/// Laps of a doubt that people see by name.
const NAMED: usize = 3;

/// Returns the sheet of `doubts`, raised on so many laps.
pub fn doubts(findings: &[Finding], laps: usize) -> Sheet {
    let laps = count(laps, "lap");
    let lead = match findings.len() {
        0 => format!("No doubts about {laps}."),
        n => format!("{} about {laps}.", count(n, "doubt")),
    };
    let by_test = findings.iter().any(|finding| finding.doubt.is_by_test());
    let note = "First lap, odd lap, not steady, sessions disagree, still falling, slipped digit and upside down are \
                tests: all of them together accuse at most one clean lab in ten. The others state facts.";
    let order = "What could change most comes first: how many verdicts are others, or none, without the \
                 laps concerned; how many stand on it where its size is not known; by how much it moves a \
                 figure.";
    Sheet {
        schema: "honest-lap/doubts",
        version: 3,
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
                Column::text("could_change", "could change").wrap(16),
                Column::machine("verdicts_turned"),
                Column::machine("verdicts_open"),
                Column::machine("moves_a_figure_by"),
                Column::text("settle", "to settle it").wrap(40),
                Column::machine("by_test"),
            ],
            rows: findings.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: [(!findings.is_empty()).then_some(order), by_test.then_some(note)]
            .into_iter()
            .flatten()
            .map(str::to_owned)
            .collect(),
    }
}

fn row(finding: &Finding) -> Vec<Cell> {
    let (turned, open, moved) = match finding.impact {
        Impact::Turns(verdicts) => (Some(verdicts), None, None),
        Impact::Unknown(verdicts) => (None, Some(verdicts), None),
        Impact::Moves(share) => (None, None, Some(share)),
    };
    let names: Vec<String> = finding.laps.iter().map(ToString::to_string).collect();
    let shown = match names.len() {
        0 => "all".to_owned(),
        n if n <= NAMED => names.join(", "),
        n => format!("{} … {}, {n} laps", names[0], names[n - 1]),
    };
    vec![
        match finding.workload.as_str() {
            "" => Cell::missing().shown("the study"),
            workload => Cell::text(workload),
        },
        Cell::text(name(&finding.doubt)).role(Role::Open),
        Cell::text(seen(finding)),
        Cell::list(names).shown(shown),
        Cell::text(impact_words(finding.impact)),
        Cell::or_missing(turned, |verdicts| Cell::whole(verdicts as u64)),
        Cell::or_missing(open, |verdicts| Cell::whole(verdicts as u64)),
        Cell::or_missing(moved, |share| Cell::number(share, percent(share))),
        Cell::text(to_resolve(finding)),
        Cell::flag(finding.doubt.is_by_test()),
    ]
}

fn impact_words(impact: Impact) -> String {
    match impact {
        Impact::Turns(verdicts) => count(verdicts, "verdict"),
        Impact::Unknown(0) => "no verdict yet".to_owned(),
        Impact::Unknown(verdicts) => format!("{}, size unknown", count(verdicts, "verdict")),
        // Kept together where the cell wraps.
        Impact::Moves(share) => format!("a figure by {}", percent(share).replace(' ', "\u{a0}")),
    }
}
