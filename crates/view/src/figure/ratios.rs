//! Ratios against 1: an index with its parts, and what a change brought.

use super::tone::tone;
use crate::chart::{Ratio, RatiosFigure};
use crate::number::percent;
use crate::sheet::{gain_words, heading, over_words};
use crate::words::{
    OF_INDEX, entry_words, lap_of, listed, speed, time_saved, verdict_of, verdict_words,
};
use honest_lap_core::analysis::{Crossed, Index};
use honest_lap_core::judge::{
    Against, Difference, Group, HeldConstant, Row, Verdict, WorkloadView,
};
use honest_lap_core::record::{Measure, TIME};
use std::collections::BTreeSet;

/// Returns an index with what enters it, rig by rig.
pub fn index(index: &Index, views: &[WorkloadView], margin: f64) -> RatiosFigure {
    let mut rows = Vec::new();
    let mut said = Vec::new();
    for found in &index.found.rows {
        let Some(difference) = &found.against else { continue };
        let words = verdict_words(difference.verdict, OF_INDEX);
        said.push(format!("{} is {words}", found.rig));
        let name = format!("{}, overall", found.rig);
        rows.push(ratio(name, difference, words, true));
        for entered in &index.found.entered {
            let part = views.iter().filter(|view| view.workload == entered.of.workload);
            let part = part.flat_map(|view| view.groups.iter().map(move |group| (view, group)));
            let named = |(view, group): &(&WorkloadView, &Group)| match &group.held {
                HeldConstant::Variant(settings) => {
                    *settings == entered.of.settings && view.measure.name == entered.of.measure
                }
                HeldConstant::Rigs => false,
            };
            let row = part.filter(named).find_map(|(view, group)| {
                group.rows.iter().find(|row| row.rig == found.rig).map(|row| (view, row))
            });
            if let Some((view, Row { against: Against::Other(part), .. })) = row {
                let words = verdict_of(&view.measure, part.verdict);
                rows.push(ratio(entry_words(&entered.of), part, words, false));
            }
        }
    }
    let base = index.found.rows.iter().find(|row| row.against.is_none());
    let base = base.map_or("the baseline", |row| row.rig.as_str());
    RatiosFigure {
        title: format!("Overall: {}", over_words(&index.over)),
        finding: said.join("; "),
        how: format!(
            "How many times as fast or as good as {base}, with 95 % intervals; to the right is better. \
             Diamond: the index for these workloads and weights; discs: what enters it. Shaded: \
             within the margin."
        ),
        rows,
        margin,
        notes: Vec::new(),
    }
}

/// Returns what `setting` gains on every rig.
pub fn two_way(setting: &str, crossed: &Crossed, margin: f64) -> RatiosFigure {
    let Crossed { workload, measure, found } = crossed;
    let of = match measure.name == TIME {
        true => lap_of(workload, &found.held),
        false => lap_of(&format!("{workload} · {}", measure.name), &found.held),
    };
    let mut rows: Vec<Ratio> = Vec::new();
    let (mut said, mut beside, mut scales) = (Vec::new(), Vec::new(), false);
    for gain in &found.gains {
        let Some(difference) = &gain.gain else { continue };
        let verdict = verdict_of(measure, difference.verdict);
        let mut words = verdict.clone();
        if let Some(efficiency) = gain.efficiency {
            scales = true;
            words = format!("{words}; efficiency {}", percent(efficiency.value));
        }
        if let Some(against) = &gain.against {
            let of = format!("{}'s with {setting}={}", gain.rig, gain.value);
            beside.push(format!("{of}: {}", gain_words(against.verdict)));
        }
        said.push(format!("{} with {setting}={} is {verdict}", gain.rig, gain.value));
        let name = format!("{}, {setting}={}", gain.rig, gain.value);
        let opens = rows.is_empty()
            || !rows.iter().any(|row| row.name.starts_with(&format!("{}, ", gain.rig)));
        rows.push(Ratio { whole: opens, ..ratio(name, difference, words, false) });
    }
    // Rigs with several values are groups; with one each, no row stands above the others.
    let values = found.gains.iter().filter(|gain| gain.gain.is_some());
    if values.map(|gain| gain.value.as_str()).collect::<BTreeSet<_>>().len() < 2 {
        rows.iter_mut().for_each(|row| row.whole = false);
    }
    let efficiency = match scales {
        true => format!(" Efficiency: the gain over how many times as much {setting} there is."),
        false => String::new(),
    };
    RatiosFigure {
        title: format!("{of}: what {setting} gains on each rig"),
        finding: listed(&said),
        how: format!(
            "How many times as fast or as good as with {setting}={} on the same rig, with 95 % intervals; \
             to the right is better. Shaded: within the margin.{efficiency}",
            found.first
        ),
        rows,
        margin,
        notes: match beside.is_empty() {
            true => Vec::new(),
            false => vec![format!("Beside the gain of {}: {}.", found.baseline, beside.join("; "))],
        },
    }
}

/// Returns what a change brought, measure by measure; `changed` says what is on record of it.
pub fn change(rig: &str, views: &[WorkloadView], changed: &str, margin: f64) -> RatiosFigure {
    let mut rows = Vec::new();
    for view in views {
        for group in
            view.groups.iter().filter(|group| matches!(group.held, HeldConstant::Variant(_)))
        {
            for row in &group.rows {
                if let Against::Other(difference) = &row.against {
                    let words = verdict_of(&view.measure, difference.verdict);
                    let words = with_time(words, difference, &view.measure);
                    rows.push(ratio(heading(view, group), difference, words, false));
                }
            }
        }
    }
    let of = |row: &Ratio| format!("{}: {}", row.name, row.says);
    RatiosFigure {
        title: format!("{rig}, before and after"),
        finding: listed(&rows.iter().map(of).collect::<Vec<_>>()),
        how: "How many times as fast or as good after the change as before it, with 95 % intervals; to \
              the right is better. Shaded: within the margin."
            .to_owned(),
        rows,
        margin,
        notes: vec![changed.to_owned()],
    }
}

fn with_time(words: String, difference: &Difference, measure: &Measure) -> String {
    match time_saved(difference).filter(|_| measure.is_time()) {
        Some(saved) => format!("{saved} time: {words}"),
        None => words,
    }
}

fn ratio(name: String, difference: &Difference, says: String, whole: bool) -> Ratio {
    let refused = matches!(difference.verdict, Verdict::Refused(_));
    Ratio {
        name,
        value: difference.speed,
        ends: difference.interval.map(|interval| (interval.low, interval.high)),
        shown: speed(difference).unwrap_or_default(),
        says,
        tone: if refused { Default::default() } else { tone(&Against::Other(*difference)) },
        whole,
    }
}
