//! Findings of one kind, said once.

use super::{name, rigs_of};
use crate::number::percent;
use crate::words::{count, listed};
use honest_lap_core::finding::{Doubt, Finding, Impact};
use std::collections::BTreeSet;

/// Everything of one kind that was found, what could change most first.
pub struct Kind<'a> {
    /// What it is called.
    pub name: &'static str,
    pub findings: Vec<&'a Finding>,
}

/// Names of rigs or workloads that a line has room for.
const NAMED: usize = 3;

/// Returns `findings` by their kinds, in the order in which the first of each kind comes.
pub fn kinds<'a>(findings: impl IntoIterator<Item = &'a Finding>) -> Vec<Kind<'a>> {
    let mut all: Vec<Kind<'a>> = Vec::new();
    for finding in findings {
        let of = name(&finding.doubt);
        match all.iter_mut().find(|kind| kind.name == of) {
            Some(kind) => kind.findings.push(finding),
            None => all.push(Kind { name: of, findings: vec![finding] }),
        }
    }
    all
}

impl Kind<'_> {
    /// Returns whom it is about: `wren and here, 10 laps of 2 workloads`.
    pub fn concerns(&self) -> String {
        let of = match self.workloads() {
            of if of.is_empty() => String::new(),
            of => format!(" of {of}"),
        };
        let laps: BTreeSet<_> = self.findings.iter().flat_map(|finding| &finding.laps).collect();
        let what = match (self.laps_each(), laps.len()) {
            (Some(each), _) => format!("{} each{of}", count(each, "lap")),
            (None, 0) => of.trim_start_matches(" of ").to_owned(),
            (None, laps) => format!("{}{of}", count(laps, "lap")),
        };
        self.with_rigs(&what, ", ")
    }

    /// Returns whom it is about, without its laps: `wren and here on 2 workloads`.
    pub fn concerns_in_short(&self) -> String {
        match self.laps_each() {
            Some(each) => self.with_rigs(&format!("{} each", count(each, "lap")), ", "),
            None => self.with_rigs(&self.workloads(), " on "),
        }
    }

    fn with_rigs(&self, what: &str, join: &str) -> String {
        let rigs = self.rigs();
        match (rigs.is_empty(), what.is_empty()) {
            (true, true) => "the study".to_owned(),
            (true, false) => what.to_owned(),
            (false, true) => some(&rigs, "rig"),
            (false, false) => format!("{}{join}{what}", some(&rigs, "rig")),
        }
    }

    /// Returns which workloads it is about, or how many; nothing where it is about the study.
    fn workloads(&self) -> String {
        let all: BTreeSet<&str> =
            self.findings.iter().map(|finding| finding.workload.as_str()).collect();
        let mut named = all.into_iter().filter(|workload| !workload.is_empty());
        match (named.next(), named.count()) {
            (None, _) => String::new(),
            (Some(only), 0) => only.to_owned(),
            (Some(_), more) => count(more + 1, "workload"),
        }
    }

    /// Returns the rigs that it is about, each once.
    pub fn rigs(&self) -> Vec<&str> {
        let mut rigs: Vec<&str> = Vec::new();
        for rig in self.findings.iter().flat_map(|finding| rigs_of(finding)) {
            if !rigs.contains(&rig) {
                rigs.push(rig);
            }
        }
        rigs
    }

    /// Returns how many laps every cell has, of too few laps where that is one number.
    fn laps_each(&self) -> Option<usize> {
        let mut counts = BTreeSet::new();
        for finding in &self.findings {
            let Doubt::TooFewLaps { cells, .. } = &finding.doubt else { return None };
            counts.extend(cells.iter().map(|cell| cell.laps));
        }
        counts.first().copied().filter(|_| counts.len() == 1)
    }

    /// Returns what the first of it could change, in words.
    pub fn could_change(&self) -> String {
        self.findings.first().map(|first| impact_words(first.impact)).unwrap_or_default()
    }
}

/// Returns what a finding could change, in words.
pub fn impact_words(impact: Impact) -> String {
    match impact {
        Impact::Turns(verdicts) => count(verdicts, "verdict"),
        Impact::Unknown(0) => "no verdict yet".to_owned(),
        Impact::Unknown(verdicts) => format!("up to {}", count(verdicts, "verdict")),
        // Kept together where the cell wraps.
        Impact::Moves(share) => format!("a figure by {}", percent(share).replace(' ', "\u{a0}")),
    }
}

/// Returns all of `names`, or how many there are of `thing` where that is shorter.
fn some(names: &[&str], thing: &str) -> String {
    match names.len() {
        0..=NAMED => listed(&names.iter().map(|name| (*name).to_owned()).collect::<Vec<_>>()),
        many => count(many, thing),
    }
}
