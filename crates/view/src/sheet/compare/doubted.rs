//! Doubts as footnotes: numbered by workload, marked in the rows that they concern.

use super::Shown;
use honest_lap_core::finding::Doubt;
use honest_lap_core::judge::Row;
use honest_lap_core::record::{LapName, Remark, RemarkKind, Settings, Subject};
use std::collections::HashMap;

/// The doubts about one workload.
pub struct Doubted<'a> {
    /// Those about figures as a whole.
    of_all: Vec<&'a Doubt>,
    /// Those about laps, numbered.
    doubts: Vec<(usize, &'a Doubt)>,
    settings: HashMap<&'a LapName, &'a Settings>,
}

impl<'a> Doubted<'a> {
    /// Returns the doubts of `shown` about `workload`.
    pub fn about(workload: &str, shown: &Shown<'a>) -> Self {
        let doubts = shown.doubts.iter().filter(|doubt| doubt.workload == workload);
        let (of_all, of_laps): (Vec<&Doubt>, Vec<&Doubt>) =
            doubts.partition(|doubt| doubt.laps.is_empty());
        let laps = shown.laps.iter().filter(|lap| lap.workload == workload);
        let settings = laps.map(|lap| (&lap.name, &lap.settings)).collect();
        Self { of_all, doubts: (1..).zip(of_laps).collect(), settings }
    }

    /// Returns those that concern the laps of `row`.
    pub fn of(&self, row: &Row) -> Vec<(usize, &'a Doubt)> {
        let of_row = |lap: &LapName| {
            lap.session.rig == row.rig && self.settings.get(lap) == Some(&&row.settings)
        };
        let concerns = |(_, doubt): &&(usize, &Doubt)| doubt.laps.iter().any(of_row);
        self.doubts.iter().filter(concerns).copied().collect()
    }

    /// Returns those that concern figures as a whole, in sentences.
    pub fn of_all(&self) -> Vec<String> {
        self.of_all.iter().map(|doubt| sentence(doubt)).collect()
    }

    /// Returns the footnotes below a table of `rows`.
    pub fn footnotes(&self, rows: &[Row]) -> Vec<String> {
        let mut here: Vec<(usize, &Doubt)> = rows.iter().flat_map(|row| self.of(row)).collect();
        here.sort_by_key(|(number, _)| *number);
        here.dedup_by_key(|(number, _)| *number);
        here.into_iter()
            .map(|(number, doubt)| format!("{} {}", raised(number), sentence(doubt)))
            .collect()
    }
}

fn sentence(doubt: &Doubt) -> String {
    format!("Doubt, {}: {}. To settle it: {}.", doubt.name, doubt.evidence, doubt.settle)
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
