//! Doubts as footnotes: numbered by workload, marked in the rows that they concern.

use super::shown::Shown;
use crate::words::finding::{name, rigs_of, seen, to_resolve};
use honest_lap_core::finding::{Concerned, Finding};
use honest_lap_core::judge::Row;
use honest_lap_core::record::{Remark, RemarkKind, Subject};

/// The doubts about one workload.
pub struct Doubted<'a> {
    /// Those about figures as a whole.
    of_all: Vec<&'a Finding>,
    /// Those about laps, numbered.
    doubts: Vec<(usize, &'a Finding)>,
    /// What other commands must be told to read the same laps.
    reads: &'a str,
}

impl<'a> Doubted<'a> {
    /// Returns the doubts of `shown` about `workload`.
    pub fn about(workload: &str, shown: &Shown<'a>) -> Self {
        let doubts = shown.analysis.findings.iter().filter(|doubt| doubt.workload == workload);
        let (of_all, of_laps): (Vec<&Finding>, Vec<&Finding>) =
            doubts.partition(|doubt| doubt.laps.is_empty());
        // Doubts of one kind share a number: 26 rigs of one lap each are one footnote.
        let mut kinds: Vec<&str> = Vec::new();
        let mut number = |finding: &Finding| {
            let of = name(&finding.doubt);
            let known = kinds.iter().position(|kind| *kind == of);
            known.unwrap_or_else(|| {
                kinds.push(of);
                kinds.len() - 1
            }) + 1
        };
        Self {
            of_all,
            doubts: of_laps.into_iter().map(|finding| (number(finding), finding)).collect(),
            reads: shown.reads,
        }
    }

    /// Returns those that concern the laps of `row`, the first of each kind.
    pub fn of(&self, row: &Row) -> Vec<(usize, &'a Finding)> {
        let of_row = |cell: &Concerned| cell.rig == row.rig && cell.settings == row.settings;
        let concerns = |(_, finding): &&(usize, &Finding)| finding.cells.iter().any(of_row);
        one_a_kind(self.doubts.iter().filter(concerns).copied().collect())
    }

    /// Returns those that concern figures as a whole, in sentences.
    pub fn of_all(&self) -> Vec<String> {
        self.of_all.iter().map(|doubt| sentence(doubt)).collect()
    }

    /// Returns the doubts about a table of `rows` in one line, and where their evidence is; nothing where there are none.
    pub fn in_short(&self, workload: &str, rows: &[Row]) -> Option<String> {
        let numbered = one_a_kind(self.of_rows(rows)).into_iter();
        let numbered = numbered
            .map(|(number, finding)| format!("{} {}", raised(number), name(&finding.doubt)));
        let of_all = self.of_all.iter().map(|finding| {
            let rigs = rigs_of(finding);
            let of =
                if rigs.is_empty() { String::new() } else { format!(" ({})", rigs.join(", ")) };
            format!("{}{of}", name(&finding.doubt))
        });
        let all: Vec<String> = numbered.chain(of_all).collect();
        (!all.is_empty()).then(|| {
            format!("Doubts: {}. Evidence: lap doubts {workload}{}", all.join(", "), self.reads)
        })
    }

    /// Returns the doubts that concern any of `rows`, each once, with its number.
    fn of_rows(&self, rows: &[Row]) -> Vec<(usize, &'a Finding)> {
        let concerns = |(_, finding): &&(usize, &Finding)| {
            let of_row = |cell: &Concerned| {
                rows.iter().any(|row| cell.rig == row.rig && cell.settings == row.settings)
            };
            finding.cells.iter().any(of_row)
        };
        let mut here: Vec<(usize, &Finding)> =
            self.doubts.iter().filter(concerns).copied().collect();
        here.sort_by_key(|(number, _)| *number);
        here
    }

    /// Returns the footnotes below a table of `rows`.
    pub fn footnotes(&self, rows: &[Row]) -> Vec<String> {
        self.of_rows(rows)
            .into_iter()
            .map(|(number, doubt)| format!("{} {}", raised(number), sentence(doubt)))
            .collect()
    }
}

/// Returns the first of each number.
fn one_a_kind(mut doubts: Vec<(usize, &Finding)>) -> Vec<(usize, &Finding)> {
    doubts.sort_by_key(|(number, _)| *number);
    doubts.dedup_by_key(|(number, _)| *number);
    doubts
}

fn sentence(doubt: &Finding) -> String {
    format!("Doubt, {}: {}. To resolve it: {}.", name(&doubt.doubt), seen(doubt), to_resolve(doubt))
}

/// Returns a footnote's number, raised.
pub(super) fn raised(number: usize) -> String {
    const DIGITS: [char; 10] = ['⁰', '¹', '²', '³', '⁴', '⁵', '⁶', '⁷', '⁸', '⁹'];
    let digit = |c: char| c.to_digit(10).map_or(c, |digit| DIGITS[digit as usize]);
    number.to_string().chars().map(digit).collect()
}

/// Returns how a workload felt to people: what no figure says.
pub(super) fn felt(remarks: &[Remark], workload: &str) -> Vec<String> {
    let of = |remark: &&Remark| {
        remark.kind == RemarkKind::Felt && remark.subject == Subject::Workload(workload.to_owned())
    };
    remarks.iter().filter(of).map(|remark| format!("How it felt: {}", remark.text)).collect()
}
