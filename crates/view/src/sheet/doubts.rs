//! `lap doubts`: a paragraph a kind, with what was seen first and what would resolve it; each in full where asked for.

use crate::number::percent;
use crate::table::{Cell, Column, Group, Role, Sheet};
use crate::words::count;
use crate::words::finding::{Kind, impact_words, kinds, name, seen, seen_first, to_resolve};
use honest_lap_core::finding::{Finding, Impact};

/// Laps of a doubt that people see by name.
const NAMED: usize = 3;
/// Lines that doubts take in short, on a terminal of the least width.
const LINES: usize = 36;
const NARROW: usize = 80;

/// Returns the sheet of `findings`, raised on so many laps, each with its laps and evidence.
pub fn doubts(findings: &[Finding], laps: usize) -> Sheet {
    let by_test = findings.iter().any(|finding| finding.doubt.is_by_test());
    let note = "First lap, odd lap, not steady, sessions disagree, still falling, slipped digit, does not fit, repeated, sessions exchanged \
                and upside down are tests: all of them together accuse at most one clean lab in ten. The others state facts.";
    let order = "What could change most comes first: how many verdicts are others, or none, without the \
                 laps concerned; how many depend on it where its size is not known; by how much it moves a \
                 figure.";
    let columns = vec![
        Column::text("workload", "workload"),
        Column::text("doubt", "doubt"),
        Column::text("evidence", "seen").wrap(46),
        Column::text("laps", "laps").spare(1),
        Column::text("could_change", "could change").wrap(16),
        Column::machine("verdicts_turned"),
        Column::machine("verdicts_open"),
        Column::machine("moves_a_figure_by"),
        Column::text("resolve", "to resolve").wrap(40),
        Column::machine("by_test"),
    ];
    Sheet {
        groups: vec![Group::of(columns, findings.iter().map(row).collect())],
        notes: [(!findings.is_empty()).then_some(order), by_test.then_some(note)]
            .into_iter()
            .flatten()
            .map(str::to_owned)
            .collect(),
        ..headed(findings, laps)
    }
}

/// Returns the sheet of `findings` by their kinds, worst first; `reads` is what other commands must be told to read the same
/// laps.
pub fn doubts_in_short(findings: &[Finding], laps: usize, reads: &str) -> Sheet {
    let mut told: Vec<[String; 2]> = kinds(findings).iter().map(told).collect();
    let fitting = fitting(&told);
    let rest = told.len() - fitting;
    told.truncate(fitting);
    let mut notes = Vec::new();
    if !findings.is_empty() {
        let more =
            if rest > 0 { format!("{}. ", count(rest, "further kind")) } else { String::new() };
        notes.push(format!(
            "{more}Each in full: lap doubts{reads} --explain. What to run again: lap doubts{reads} --retest."
        ));
    }
    let told = told.into_iter().flatten().collect();
    Sheet {
        groups: vec![Group { notes: told, ..Group::of(Vec::new(), Vec::new()) }],
        notes,
        ..headed(findings, laps)
    }
}

fn headed(findings: &[Finding], laps: usize) -> Sheet {
    let laps = count(laps, "lap");
    let lead = match findings.len() {
        0 => format!("No doubts about {laps}."),
        n => format!("{} about {laps}, worst first.", count(n, "doubt")),
    };
    Sheet {
        schema: "honest-lap/doubts",
        version: 4,
        title: None,
        lead: vec![lead],
        groups: Vec::new(),
        notes: Vec::new(),
    }
}

/// Returns a kind of doubts in two lines: whom it concerns and what was seen first, and what would resolve that.
fn told(kind: &Kind<'_>) -> [String; 2] {
    let first = kind.findings[0];
    let change = match first.impact {
        Impact::Unknown(0) => String::new(),
        impact => format!("; could change {}", impact_words(impact)),
    };
    [
        format!("{}: {}{change}: {}", kind.name, kind.concerns(), seen_first(first)),
        format!("to resolve: {}", to_resolve(first)),
    ]
}

/// Returns how many of `told` a screen has room for.
fn fitting(told: &[[String; 2]]) -> usize {
    let lines = |pair: &[String; 2]| {
        pair.iter().map(|text| textwrap::wrap(text, NARROW - 2).len()).sum::<usize>()
    };
    let mut used = 0;
    let fits = |pair: &&[String; 2]| {
        used += lines(pair);
        used <= LINES
    };
    told.iter().take_while(fits).count()
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
