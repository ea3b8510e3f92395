//! The answer ahead of a report, from verdicts alone, and what they cannot say.

use crate::sheet::{answer as said, heading};
use crate::words::finding::unlike_words;
use crate::words::{
    OF_INDEX, count, entry_words, listed, settle, speed, speed_interval, verdict_words, why_not,
};
use honest_lap_core::analysis::Index;
use honest_lap_core::judge::{Against, Group, Held, Row, Verdict, WorkloadView};

/// Returns the answer: overall first, then workload by workload.
pub fn answer(index: Option<&Index>, views: &[WorkloadView]) -> Vec<String> {
    let mut lines: Vec<String> = index.map(overall).into_iter().flatten().collect();
    let rigs: Vec<_> = across_rigs(views).collect();
    // Where there is one rig, what is compared on it is the answer.
    let variants = || views.iter().flat_map(|view| view.groups.iter().map(move |g| (view, g)));
    let told = if rigs.is_empty() { variants().collect() } else { rigs };
    for (view, group) in told.into_iter().filter(|(_, group)| group.rows.len() > 1) {
        for line in said(group, &view.measure) {
            lines.push(format!("{}. {line}", heading(view, group)));
        }
    }
    if lines.is_empty() {
        lines.push(
            "Nothing can be held against anything yet: there is one rig, and one variant of each workload.".into(),
        );
    }
    lines
}

fn overall(index: &Index) -> Vec<String> {
    let base = index.found.rows.iter().find(|row| row.against.is_none());
    let Some(base) = base.filter(|_| index.found.rows.len() > 1) else { return Vec::new() };
    let row = |row: &honest_lap_core::judge::OverallRow| {
        let difference = row.against.as_ref()?;
        let (ratio, ends) = (speed(difference)?, speed_interval(difference)?);
        let words = match difference.verdict {
            Verdict::Refused(_) => return None,
            Verdict::Faster => format!("{} is ahead of {}", row.rig, base.rig),
            Verdict::Slower => format!("{} is behind {}", row.rig, base.rig),
            Verdict::TooClose => format!("{} and {} are too close to call", row.rig, base.rig),
            verdict => {
                let words = verdict_words(verdict, OF_INDEX);
                format!("{} against {}: {words}", row.rig, base.rig)
            }
        };
        Some(format!("{words}, {ratio} ({ends})"))
    };
    let rows: Vec<String> = index.found.rows.iter().filter_map(row).collect();
    let over = match index.found.missing.is_empty() {
        true => "Overall, for these workloads and weights".to_owned(),
        false => {
            format!("Over the {} that all rigs have", count(index.found.entered.len(), "measure"))
        }
    };
    if rows.is_empty() { Vec::new() } else { vec![format!("{over}: {}.", rows.join("; "))] }
}

/// Returns what cannot be said, and what would resolve it.
pub fn open(index: Option<&Index>, views: &[WorkloadView]) -> Vec<String> {
    let mut lines = Vec::new();
    if let Some(index) = index.filter(|index| !index.found.missing.is_empty()) {
        let lack = index.found.missing.iter();
        let lack = lack
            .map(|missing| format!("{} on {}", entry_words(&missing.of), listed(&missing.rigs)));
        lines.push(format!(
            "An index over everything: there is no verdict in {}.",
            listed(&lack.collect::<Vec<_>>())
        ));
    }
    for (view, group) in across_rigs(views) {
        let base = group.rows.iter().find(|row| row.against == Against::Baseline);
        let base = base.map_or("the baseline", |row| row.rig.as_str());
        for row in &group.rows {
            if let Some(why) = open_row(row) {
                lines.push(format!("{}: {} against {base}: {why}.", heading(view, group), row.rig));
            }
        }
    }
    lines
}

fn open_row(row: &Row) -> Option<String> {
    let Against::Other(difference) = &row.against else { return None };
    let help = difference.settle.map(|needed| format!("; {}", settle(needed))).unwrap_or_default();
    match difference.verdict {
        Verdict::TooClose => Some(format!("too close to call{help}")),
        Verdict::Refused(_) if !row.differs.is_empty() => Some(format!(
            "not comparable, {}",
            row.differs.iter().map(unlike_words).collect::<Vec<_>>().join("; ")
        )),
        Verdict::Refused(_) => match (&row.unsupported, why_not(&row.counts)) {
            (Some(why), _) => Some(format!("it cannot do this: {why}")),
            (None, why) if !row.has_values() && !why.is_empty() => Some(why.join(", ")),
            _ => Some(format!("{}{help}", verdict_words(difference.verdict, OF_INDEX))),
        },
        _ => None,
    }
}

fn across_rigs(views: &[WorkloadView]) -> impl Iterator<Item = (&WorkloadView, &Group)> {
    let groups = views.iter().flat_map(|view| view.groups.iter().map(move |group| (view, group)));
    groups.filter(|(_, group)| matches!(group.held, Held::Variant(_)) && group.rows.len() > 1)
}
