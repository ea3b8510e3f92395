//! Doubts as footnotes: numbered by workload, marked in the rows that they concern.

use super::shown::Shown;
use crate::words::finding::{name, seen, to_resolve};
use honest_lap_core::finding::{Concerned, Finding};
use honest_lap_core::judge::Row;
use honest_lap_core::record::{Remark, RemarkKind, Subject};

/// The doubts about one workload.
pub struct Doubted<'a> {
    /// Those about figures as a whole.
    of_all: Vec<&'a Finding>,
    /// Those about laps, numbered.
    doubts: Vec<(usize, &'a Finding)>,
}

impl<'a> Doubted<'a> {
    /// Returns the doubts of `shown` about `workload`.
    pub fn about(workload: &str, shown: &Shown<'a>) -> Self {
        let doubts = shown.analysis.findings.iter().filter(|doubt| doubt.workload == workload);
        let (of_all, of_laps): (Vec<&Finding>, Vec<&Finding>) =
            doubts.partition(|doubt| doubt.laps.is_empty());
        Self { of_all, doubts: (1..).zip(of_laps).collect() }
    }

    /// Returns those that concern the laps of `row`.
    pub fn of(&self, row: &Row) -> Vec<(usize, &'a Finding)> {
        let of_row = |cell: &Concerned| cell.rig == row.rig && cell.settings == row.settings;
        let concerns = |(_, finding): &&(usize, &Finding)| finding.cells.iter().any(of_row);
        self.doubts.iter().filter(concerns).copied().collect()
    }

    /// Returns those that concern figures as a whole, in sentences.
    pub fn of_all(&self) -> Vec<String> {
        self.of_all.iter().map(|doubt| sentence(doubt)).collect()
    }

    /// Returns the footnotes below a table of `rows`.
    pub fn footnotes(&self, rows: &[Row]) -> Vec<String> {
        let mut here: Vec<(usize, &Finding)> = rows.iter().flat_map(|row| self.of(row)).collect();
        here.sort_by_key(|(number, _)| *number);
        here.dedup_by_key(|(number, _)| *number);
        here.into_iter()
            .map(|(number, doubt)| format!("{} {}", raised(number), sentence(doubt)))
            .collect()
    }
}

fn sentence(doubt: &Finding) -> String {
    format!("Doubt, {}: {}. To settle it: {}.", name(&doubt.doubt), seen(doubt), to_resolve(doubt))
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
