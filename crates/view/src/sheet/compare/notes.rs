//! What stands below a comparison: laps left out, what would resolve it, how it was made.

use crate::number::percent;
use crate::words::finding::unlike_words;
use crate::words::{
    assumed_spread, between_sessions, count, lap_of, listed_in_short, needed_words, why_not,
};
use honest_lap_core::analysis::Analysis;
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::endurance::{HOURS, RATE};
use honest_lap_core::frame::UNCAPPED_RATE;
use honest_lap_core::judge::{
    Against, AssumedSpread, Counts, Ground, Group, HeldConstant, Row, WorkloadView,
};
use honest_lap_core::lab::{Lap, LapSeries};
use honest_lap_core::record::Settings;
use honest_lap_core::unit::display_share;
use std::collections::BTreeMap;

/// Returns what a reader must know of single rows: laps left out, and what would resolve it.
pub(super) fn notes(group: &Group) -> Vec<String> {
    let name = |row: &Row| match &group.held {
        HeldConstant::Variant(_) => row.rig.clone(),
        HeldConstant::Rigs => format!("{} {}", row.rig, row.settings),
    };
    // What is said of several rows is said once.
    let mut said: Vec<(String, Vec<String>)> = Vec::new();
    let mut note = |row: &Row, text: String| match said.iter_mut().find(|(known, _)| *known == text)
    {
        Some((_, names)) => names.push(name(row)),
        None => said.push((text, vec![name(row)])),
    };
    for row in &group.rows {
        if matches!(&row.against, Against::Other(difference) if difference.is_by_chance()) {
            let text = "its interval excludes 1, but with this many rigs one may differ by chance";
            note(row, text.to_owned());
        }
        if row.capped {
            note(row, "shows a display or a limiter, and not the rig".to_owned());
        }
        if matches!(&row.against, Against::Other(difference) if difference.by_rate) {
            note(
                row,
                "judged by work in a second, since a lap does another amount of it".to_owned(),
            );
        }
        if !row.differs.is_empty() {
            let differs: Vec<String> = row.differs.iter().map(unlike_words).collect();
            let differs = differs.join("; ");
            let anyway = match row.is_refused() {
                true => "; lap compare --despite \"why\" compares anyway",
                false => "",
            };
            note(row, format!("not comparable, {differs}{anyway}"));
        }
        if let Some(known) = row.cell.as_ref().and_then(AssumedSpread::of) {
            let sd = percent(known.sd);
            note(row, format!("lap-to-lap variation assumed, {sd}; further laps would show it"));
        } else if let Some(open) = what_would_help(row) {
            note(row, open);
        }
    }
    let said = said.into_iter().map(|(text, names)| format!("{}: {text}", listed_in_short(&names)));
    not_counted(group, name).into_iter().chain(said).collect()
}

/// Returns why a workload is compared by what lies under its cap, where nobody asked for that.
pub(super) fn under_a_cap(view: &WorkloadView, analysis: &Analysis<'_>) -> Option<String> {
    let unasked = analysis.question.measures.is_empty();
    (unasked && view.measure.name == UNCAPPED_RATE).then(|| {
        "passes keep to a display or a limiter, so what the work alone would allow is compared; \
         --measure \"average rate\" compares what was shown"
            .to_owned()
    })
}

/// Returns which laps do not count, and why: `Not counted: kestrel 1 lap (wrong exit code)`.
fn not_counted(group: &Group, name: impl Fn(&Row) -> String) -> Option<String> {
    let of_row = |row: &Row| {
        let why = why_not(&row.counts);
        let laps = count(row.counts.not_counted() - row.counts.warm_up, "lap");
        // One reason for all of them need not count them again.
        let why = match why.as_slice() {
            [] => return None,
            [only] => only.split_once(' ').map_or(only.as_str(), |(_, words)| words).to_owned(),
            several => several.join(", "),
        };
        Some(format!("{} {laps} ({why})", name(row)))
    };
    let all: Vec<String> = group.rows.iter().filter_map(of_row).collect();
    (!all.is_empty()).then(|| format!("Not counted: {}", all.join(", ")))
}

/// Notes that a screen has room for.
const SOME: usize = 4;

/// Returns the first of those notes, and how many more there are.
pub(super) fn some_notes(group: &Group) -> Vec<String> {
    let mut all = notes(group);
    let more = all.len().saturating_sub(SOME);
    if more > 1 {
        all.truncate(SOME);
        all.push(format!("{more} further notes: --explain"));
    }
    all
}

/// Returns what each search for a load came to, where the rows are made of them; and of endurance laps how the last of
/// each row went.
pub(super) fn searched(series: &[&LapSeries], view: &WorkloadView, group: &Group) -> Vec<String> {
    let measure = view.measure.name.as_str();
    if ![CAPACITY, RATE, HOURS].contains(&measure) {
        return Vec::new();
    }
    let in_group = |one: &&&LapSeries| {
        let same = |row: &Row| row.rig == one.session.rig && row.settings == one.settings;
        one.workload == view.workload && group.rows.iter().any(same)
    };
    let laps = series.iter().filter(in_group).flat_map(|series| series.laps());
    let said = |lap: Lap<'_>| {
        let readings = lap.readings();
        let reading = readings.iter().find(|reading| reading.name == measure)?;
        let of = match measure {
            CAPACITY => lap_of(&lap.session().to_string(), lap.settings()),
            _ => lap_of(&lap.name().to_string(), lap.settings()),
        };
        Some(format!("{of}: {}", reading.seen))
    };
    if measure == CAPACITY {
        return laps.filter_map(said).collect();
    }
    let counted = laps.filter(|lap| lap.yields().value(measure).is_some());
    let last: BTreeMap<(&str, &Settings), Lap<'_>> =
        counted.map(|lap| ((lap.rig(), lap.settings()), lap)).collect();
    last.into_values().filter_map(said).collect()
}

/// Searches that a screen has room for.
const SEARCHES: usize = 3;

/// Returns what the searches of a group came to, where there are few.
pub(super) fn few_searched(
    series: &[&LapSeries],
    view: &WorkloadView,
    group: &Group,
) -> Vec<String> {
    let all = searched(series, view, group);
    // Of many rigs they would be a page; the table has what they come to.
    if all.len() > SEARCHES { Vec::new() } else { all }
}

/// Returns what would make a row say more, where it says too little.
fn what_would_help(row: &Row) -> Option<String> {
    if let Some(why) = &row.unsupported {
        return Some(format!("unsupported, by the study: {why}"));
    }
    match (&row.cell, &row.against) {
        (None, _) if row.counts == Counts::default() => None,
        (None, Against::Other(difference)) if row.plain.is_some() => {
            difference.needed.map(needed_words)
        }
        (None, _) if row.plain.is_some() => None,
        // What a person saw stands in its row.
        (None, _) if row.counts.failed_with.is_some() => None,
        (None, _) => Some(match &row.counts.failed_because {
            Some(why) => format!("no lap counts: {why}"),
            None => "no lap counts; `lap show` has the reason of each".to_owned(),
        }),
        (Some(_), Against::Other(difference)) => difference.needed.map(needed_words),
        (Some(cell), Against::Alone) if cell.laps() < 2 => {
            Some("one lap has no interval; run three or more".to_owned())
        }
        (Some(_), Against::Alone) => {
            Some("laps on another rig, or a varied setting, would give a comparison".to_owned())
        }
        (Some(_), Against::Baseline) => None,
    }
}

/// Returns what intervals allow for where a run ended by itself.
pub(super) fn ended_by_itself(analysis: &Analysis<'_>) -> Option<String> {
    let rows = analysis.views.iter().flat_map(|view| &view.groups).flat_map(|group| &group.rows);
    let looked = rows.filter_map(|row| row.cell.as_ref()).any(|cell| cell.allowances().looked);
    let said = "Sessions that ended by themselves looked at most three times, so their intervals are \
                given at 97.8 %, which is 95 % for all looks together.";
    looked.then(|| said.to_owned())
}

/// Returns how the figures were made, and what was assumed.
pub(super) fn method(analysis: &Analysis<'_>) -> Vec<String> {
    let views = analysis.views.as_slice();
    let grounds: Vec<Ground> = views
        .iter()
        .flat_map(|view| &view.groups)
        .flat_map(|group| &group.rows)
        .filter_map(|row| match &row.against {
            Against::Other(difference) if difference.speed.is_some() => Some(difference.ground),
            _ => None,
        })
        .collect();
    if views.is_empty() {
        return Vec::new();
    }
    let mut notes = vec![
        "Of times shorter is better. Typical is the geometric mean, exp(mean ln time), with its 95 % t interval; CV is \
         the standard deviation over the mean; warm-ups are not counted."
            .to_owned(),
    ];
    if !grounds.is_empty() {
        notes.push(format!(
            "Speed is the baseline's time over the row's. Faster or slower: the 95 % interval excludes 1. \
             Same: the 90 % interval lies within ±{}.",
            display_share(analysis.assume.margin)
        ));
    }
    if views.iter().any(|view| !view.measure.is_time()) {
        notes.push(
            "Of other measures the ratio is above 1 where the row is better: the row's value over the \
             baseline's where more is better, the baseline's over the row's where less is."
                .to_owned(),
        );
    }
    let cells = || {
        views.iter().flat_map(|v| &v.groups).flat_map(|g| &g.rows).filter_map(|r| r.cell.as_ref())
    };
    if cells().any(|cell| cell.allowances().reading > 0.0) {
        notes.push(
            "What was read off or printed in steps is known to half a step either way; its intervals \
             are widened by that."
                .to_owned(),
        );
    }
    notes.extend(ended_by_itself(analysis));
    let fewest = |sessions: std::ops::RangeInclusive<usize>| {
        grounds.iter().any(|ground| matches!(ground, Ground::Sessions(n) if sessions.contains(n)))
    };
    if fewest(3..=usize::MAX) {
        notes.push(
            "With three or more sessions on both sides each session is one value.".to_owned(),
        );
    }
    let one = [Ground::ThisSessionOnly, Ground::AssumedSpread];
    if fewest(2..=2) || one.iter().any(|ground| grounds.contains(ground)) {
        notes.push(format!(
            "One session on a side (this session only), or two (provisional): the interval is made with a \
             between-session variation of {}.",
            between_sessions(views)
        ));
    }
    notes.extend(assumed_spread(views));
    let joined = analysis.shared_days.iter();
    let joined: Vec<String> =
        joined.map(|(session, day)| format!("{session} with {day}")).collect();
    if !joined.is_empty() {
        notes.push(format!(
            "Sessions that began within six hours of each other on an unchanged machine are one in these figures: {}.",
            some(&joined)
        ));
    }
    if views.iter().flat_map(|view| &view.groups).any(super::naming::ranked) {
        notes.push(
            "The verdicts of a table share one chance of error of 5 %; each interval is of 95 % by itself."
                .to_owned(),
        );
        notes.push(
            "A place is one more than the rigs surely ahead, up to all but those surely behind; the \
             chance of any false order in a table is 5 % at most."
                .to_owned(),
        );
    }
    if grounds.iter().any(|ground| matches!(ground, Ground::Pairs(_))) {
        notes.push(
            "Variants that were run in turn are judged by their pairs: session by session from three \
             sessions on; with fewer, a variant is assumed to have a quarter of what days differ by of its own on a day."
                .to_owned(),
        );
    }
    notes
}

/// Returns the first few of `items` and how many more there are.
fn some(items: &[String]) -> String {
    const MOST: usize = 6;
    match items.len() {
        ..=MOST => items.join(", "),
        all => format!("{} and {} more", items[..MOST].join(", "), all - MOST),
    }
}
