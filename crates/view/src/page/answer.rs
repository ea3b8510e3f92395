//! What a page says first: a conclusion of verdicts alone, and what is missing.

use crate::overview::{Columns, Line, Overview, Sign};
use crate::sheet::{answer as said, heading};
use crate::words::{
    OF_INDEX, count, entry_words, listed, listed_in_short, refusal_words, speed, speed_interval,
    verdict_words,
};
use honest_lap_core::analysis::Index;
use honest_lap_core::analysis::Unread;
use honest_lap_core::judge::{Refusal, Verdict, WorkloadView};
use honest_lap_core::record::Study;
use std::collections::BTreeMap;

/// Sentences of a conclusion, and lines of what is missing.
const SENTENCES: usize = 3;
const LINES: usize = 5;
/// Rigs whose index a sentence has room for.
const RIGS: usize = 4;

/// Returns the conclusion: overall first, then where it is different.
pub fn conclusion(index: Option<&Index>, seen: &Overview, views: &[WorkloadView]) -> Vec<String> {
    let mut all: Vec<String> = index.and_then(overall).into_iter().collect();
    match all.is_empty() {
        false => all.extend(exceptions(seen)),
        // Without an index, tables speak for themselves.
        true => all.extend(tables(views)),
    }
    if all.len() > SENTENCES {
        let more = all.len() - SENTENCES + 1;
        all.truncate(SENTENCES - 1);
        all.push(format!("The overview has {}.", count(more, "further table")));
    }
    if all.is_empty() {
        all.push(
            "There is nothing to compare yet: one rig, and one variant of each workload."
                .to_owned(),
        );
    }
    all
}

/// Returns what the index over everything says.
fn overall(index: &Index) -> Option<String> {
    let rows = &index.found.rows;
    let base = rows.iter().find(|row| row.against.is_none()).filter(|_| rows.len() > 1)?;
    let row = |row: &honest_lap_core::judge::OverallRow| {
        let difference = row.against.as_ref()?;
        let (ratio, ends) = (speed(difference)?, speed_interval(difference)?);
        let words = match difference.verdict {
            Verdict::Refused(_) => return None,
            verdict => format!("{} {}", row.rig, verdict_words(verdict, OF_INDEX)),
        };
        Some(format!("{words}, {ratio} {ends}"))
    };
    let all: Vec<String> = rows.iter().filter_map(row).collect();
    let more = all.len().saturating_sub(RIGS);
    let more =
        if more > 0 { format!("; {} more below", count(more, "rig")) } else { String::new() };
    let over = match index.found.missing.is_empty() {
        true => format!("Against {}, over all workloads", base.rig),
        false => {
            let of = count(index.found.entered.len(), "measure");
            format!("Against {}, over the {of} that all have", base.rig)
        }
    };
    let told = all.iter().take(RIGS).cloned().collect::<Vec<_>>().join("; ");
    (!all.is_empty()).then(|| format!("{over}: {told}{more}."))
}

/// Returns where single workloads say the opposite of the index.
fn exceptions(seen: &Overview) -> Option<String> {
    let index = seen.index.as_ref()?;
    let mut said = Vec::new();
    for (at, rig) in seen.columns.iter().enumerate() {
        let opposite = match index.cells[at].as_ref().map(|cell| cell.sign) {
            Some(Sign::Better) => (Sign::Worse, "behind"),
            Some(Sign::Worse) => (Sign::Better, "ahead"),
            _ => continue,
        };
        let is_so =
            |line: &&Line| line.cells[at].as_ref().is_some_and(|cell| cell.sign == opposite.0);
        let names: Vec<String> =
            seen.lines.iter().filter(is_so).map(|line| line.name.clone()).collect();
        if !names.is_empty() {
            said.push(format!("{rig} is {} in {}", opposite.1, listed_in_short(&names)));
        }
    }
    said.truncate(RIGS);
    (!said.is_empty()).then(|| format!("It is the other way round where {}.", said.join("; ")))
}

fn tables(views: &[WorkloadView]) -> Vec<String> {
    let groups = views.iter().flat_map(|view| view.groups.iter().map(move |group| (view, group)));
    let told = groups.filter(|(_, group)| group.rows.len() > 1);
    told.flat_map(|(view, group)| {
        let of = heading(view, group);
        said(group, &view.measure).into_iter().map(move |line| format!("{of}. {line}"))
    })
    .collect()
}

/// Returns what is missing, grouped: what cannot be said, of whom there are no laps, what could not be read.
pub fn missing(
    study: &Study,
    index: Option<&Index>,
    seen: &Overview,
    unread: &[Unread],
) -> Vec<String> {
    let mut lines = Vec::new();
    if let Some(index) = index.filter(|index| !index.found.missing.is_empty()) {
        let lack: Vec<String> = index
            .found
            .missing
            .iter()
            .map(|missing| format!("{} on {}", entry_words(&missing.of), listed(&missing.rigs)))
            .collect();
        lines.push(format!("No index over everything: no verdict in {}.", listed_in_short(&lack)));
    }
    lines.extend(open(seen));
    let known = |name: &String| seen.lines.iter().any(|line| line.workload == *name);
    let names = study.workloads.iter().map(|workload| workload.name.clone());
    let without: Vec<String> = names.filter(|name| !known(name)).collect();
    if !without.is_empty() {
        lines.push(format!("No laps of {}.", listed_in_short(&without)));
    }
    let is_there = |name: &String| seen.across == Columns::Variants || seen.columns.contains(name);
    let rigs = study.rigs.iter().map(|rig| rig.name.clone());
    let absent: Vec<String> = rigs.filter(|name| !is_there(name)).collect();
    if !absent.is_empty() {
        lines.push(format!("No laps on {}.", listed_in_short(&absent)));
    }
    if !unread.is_empty() {
        let each =
            |one: &Unread| format!("\u{201c}{}\u{201d} ({})", one.published.says, one.problem);
        let all: Vec<String> = unread.iter().map(each).collect();
        lines.push(format!("Claims that cannot be read: {}.", all.join("; ")));
    }
    let more = lines.len().saturating_sub(LINES);
    if more > 0 {
        lines.truncate(LINES - 1);
        lines.push(format!("{} further gaps, below.", more + 1));
    }
    lines
}

/// Returns what is too close to call and what has no verdict, each in a line, by reason.
fn open(seen: &Overview) -> Vec<String> {
    let mut close: BTreeMap<&str, usize> = BTreeMap::new();
    let mut refused: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for line in &seen.lines {
        for (cell, column) in line.cells.iter().zip(&seen.columns) {
            match cell.as_ref().map(|cell| (cell.sign, cell.refused)) {
                Some((Sign::TooClose, _)) => *close.entry(column).or_default() += 1,
                Some((_, Some(why))) => {
                    refused
                        .entry(reason(why))
                        .or_default()
                        .push(format!("{column} in {}", line.name));
                }
                _ => {}
            }
        }
    }
    let mut lines = Vec::new();
    if !close.is_empty() {
        let of = seen.lines.len();
        let each: Vec<String> =
            close.iter().map(|(column, n)| format!("{column} in {n} of {of}")).collect();
        lines.push(format!("Too close to call: {}.", listed_in_short(&each)));
    }
    let said = |(why, of): (String, Vec<String>)| format!("{why}: {}.", listed_in_short(&of));
    lines.extend(refused.into_iter().map(said));
    lines
}

/// Returns the reason in which cells without a verdict are grouped.
fn reason(why: Refusal) -> String {
    match why {
        Refusal::FewLaps(_) | Refusal::NoLaps => "Too few laps for a verdict".to_owned(),
        Refusal::NotComparable => "Not comparable".to_owned(),
        Refusal::Unsupported => "Unsupported, by the study".to_owned(),
        Refusal::NeverRun => "Not run".to_owned(),
        Refusal::Failed => "Failed".to_owned(),
        Refusal::NoRatio => {
            let words = refusal_words(why);
            let mut chars = words.chars();
            chars.next().map(|c| c.to_uppercase().chain(chars).collect()).unwrap_or_default()
        }
    }
}
