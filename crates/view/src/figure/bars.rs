//! A comparison as sorted bars.

use super::tone::tone;
use crate::chart::{Bar, BarsFigure, Tone};
use crate::sheet::{Doubted, Scale, among, answer, heading, marked, places, sources};
use crate::words::{apart_words, ours_words, speed, time_saved, verdict_of, why_not};
use honest_lap_core::analysis::Published;
use honest_lap_core::judge::{Against, Ground, Group, HeldConstant, Row, Verdict, WorkloadView};
use honest_lap_core::record::{Better, TIME};

/// Returns the figure of one group of `view`, with the doubts about it.
pub fn bars(
    view: &WorkloadView,
    group: &Group,
    doubted: &Doubted<'_>,
    elsewhere: &[Published],
) -> BarsFigure {
    let scale = Scale::of(view, &group.rows);
    let typical = if view.measure.name == TIME { "Typical" } else { "Typical value" };
    let better = match (view.measure.is_time(), view.measure.better) {
        (true, _) => "Shorter is better.",
        (false, Better::Less) => "Less is better.",
        (false, Better::More) => "More is better.",
    };
    let theirs = among(elsewhere, view, group);
    let places = places(&theirs, group.rows.len());
    let mut bars: Vec<Bar> =
        group.rows.iter().map(|row| bar(view, group, row, doubted, &scale)).collect();
    // From the last on, so that those before keep their places.
    for (&place, published) in places.iter().zip(&theirs).rev() {
        bars.insert(place, from_elsewhere(published, &scale));
    }
    let moved = |row: usize| row + places.iter().filter(|place| **place <= row).count();
    let grey = if theirs.is_empty() { "" } else { " What others measured is grey." };
    let mut notes = doubted.footnotes(&group.rows);
    notes.extend(sources(&theirs, true));
    BarsFigure {
        title: heading(view, group),
        finding: answer(group, &view.measure).join(" "),
        answer: answer(group, &view.measure),
        how: format!(
            "{typical} with its 95 % interval. {better} The baseline is drawn hollow.{grey}"
        ),
        unit: view.measure.unit.clone(),
        time: view.measure.is_time(),
        bars,
        ties: group.ties.iter().map(|(first, last)| (moved(*first), moved(*last))).collect(),
        notes,
    }
}

/// Returns the bar of a number from elsewhere.
fn from_elsewhere(published: &Published, scale: &Scale) -> Bar {
    let value = published.number.value;
    Bar {
        name: published.number.rig.clone(),
        value: Some(value),
        ends: None,
        shown: format!("{} {}", scale.show(value, None), scale.symbol).trim_end().to_owned(),
        says: match ours_words(published) {
            Some(ours) => format!("elsewhere, {ours}"),
            None => "from elsewhere".to_owned(),
        },
        tone: Tone::Elsewhere,
        opens: false,
    }
}

fn bar(view: &WorkloadView, group: &Group, row: &Row, doubted: &Doubted<'_>, scale: &Scale) -> Bar {
    let name = match &group.held {
        HeldConstant::Variant(_) => row.rig.clone(),
        HeldConstant::Rigs => format!("{} {}", row.rig, row.settings),
    };
    let cell = row.cell.as_ref();
    let interval = cell.and_then(|cell| cell.interval().ok());
    let spread = interval.map(|interval| (interval.high - interval.low) / 2.0);
    let shown = cell.map(|cell| format!("{} {}", scale.show(cell.typical(), spread), scale.symbol));
    // Variants are sorted rig by rig: the first of each opens its group.
    let first = group.rows.iter().find(|other| other.rig == row.rig);
    let opens =
        group.held == HeldConstant::Rigs && first.is_some_and(|first| std::ptr::eq(first, row));
    Bar {
        name: marked(&name, &doubted.of(row)),
        value: cell.map(|cell| cell.typical()),
        ends: interval.map(|interval| (interval.low, interval.high)),
        shown: shown.unwrap_or_default().trim_end().to_owned(),
        says: says(view, row),
        tone: tone(&row.against),
        opens,
    }
}

/// Returns a row's ratio and verdict in words, or why it has none.
fn says(view: &WorkloadView, row: &Row) -> String {
    match &row.against {
        Against::Baseline => "baseline".to_owned(),
        Against::Alone => "nothing to compare with".to_owned(),
        Against::Other(difference) => {
            let verdict = verdict_of(&view.measure, difference.verdict);
            let verdict = match difference.ground {
                Ground::AssumedSpread => format!("{verdict}, assumed"),
                _ => verdict,
            };
            let failed = why_not(&row.counts);
            match (speed(difference), matches!(difference.verdict, Verdict::Refused(_))) {
                (None, _) if !row.has_values() && !failed.is_empty() => failed.join(", "),
                (Some(ratio), false) if difference.by_rate => format!("{ratio} by rate: {verdict}"),
                (Some(ratio), false) if view.measure.is_time() => {
                    let saved = time_saved(difference).unwrap_or_default();
                    format!("{ratio}, {saved} time: {verdict}")
                }
                (Some(ratio), _) => format!("{ratio}: {verdict}"),
                (None, _) => match &difference.apart {
                    Some(apart) => format!("{}: {verdict}", apart_words(apart, &view.measure)),
                    None => verdict,
                },
            }
        }
    }
}
