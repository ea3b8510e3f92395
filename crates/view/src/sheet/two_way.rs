//! `lap compare --across SETTING`: what a setting gains on each rig, and whether it gains alike.

use crate::number::{percent, significant};
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{
    OF_GAIN, interval_words, lap_of, listed, speed, speed_interval, verdict_of, verdict_role,
    verdict_words,
};
use honest_lap_core::analysis::Crossed;
use honest_lap_core::judge::{Difference, Gain, Verdict};
use honest_lap_core::record::{Study, TIME};
use honest_lap_core::stat::Ranged;

/// Returns the sheet of what `setting` gains.
pub fn two_way(study: &Study, setting: &str, all: &[Crossed]) -> Sheet {
    let mut notes = vec![
        "A gain is the speed with a value over the speed with the first, on the same rig; laps of the \
         same rounds are paired. Against the baseline rig: the gain over its gain; values that were \
         run in turn share their days."
            .to_owned(),
    ];
    if all.iter().flat_map(|one| &one.found.gains).any(|gain| gain.efficiency.is_some()) {
        notes.push(format!(
            "Efficiency is the gain over how many times as much there is of {setting}: 1.62× on twice as \
             much is 81 %."
        ));
    }
    Sheet {
        schema: "honest-lap/two-way",
        version: 1,
        title: study.title.clone(),
        lead: study.question.iter().cloned().collect(),
        groups: all.iter().map(|one| group(setting, one)).collect(),
        notes,
    }
}

fn group(setting: &str, one: &Crossed) -> Group {
    let Crossed { workload, measure, found } = one;
    let of = match measure.name == TIME {
        true => workload.clone(),
        false => format!("{workload} · {}", measure.name),
    };
    let scales = found.gains.iter().any(|gain| gain.efficiency.is_some());
    let mut efficiency = Column::figure("efficiency", "efficiency").spare(1);
    let mut ends = Column::text("efficiency_said", "95 % CI").people().spare(2);
    if !scales {
        efficiency = Column::machine("efficiency");
        ends.spare = Some(0);
    }
    let mut columns = vec![
        Column::machine("workload"),
        Column::machine("measure"),
        Column::machine("held"),
        Column::machine("setting"),
        Column::text("rig", "rig"),
        Column::text("value", setting),
        Column::figure("gain", "gain"),
        Column::text("gain_said", "95 % CI").people(),
        Column::machine("gain_low"),
        Column::machine("gain_high"),
        Column::text("verdict", "verdict").wrap(20),
        efficiency,
        ends,
        Column::machine("efficiency_low"),
        Column::machine("efficiency_high"),
        Column::figure("against_baseline", format!("against {}", found.baseline)).spare(4),
        Column::text("against_said", "95 % CI").people().spare(3),
        Column::machine("against_low"),
        Column::machine("against_high"),
        Column::text("gains_alike", "the gain is").wrap(20),
    ];
    let mut rows: Vec<Vec<Cell>> =
        found.gains.iter().map(|gain| cells(setting, one, gain)).collect();
    if !scales {
        let at = columns.iter().position(|column| column.key == "efficiency_said");
        if let Some(at) = at {
            columns.remove(at);
            rows.iter_mut().for_each(|row| drop(row.remove(at)));
        }
    }
    Group {
        heading: Some(lap_of(&format!("{of}: {setting} on each rig"), &found.held)),
        lead: lead(setting, one),
        columns,
        rows,
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: found.gains.iter().flat_map(|gain| by_chance(setting, gain)).collect(),
    }
}

/// Returns a line where an interval excludes 1 and the verdict, which shares its chance of error, does not.
fn by_chance(setting: &str, gain: &Gain) -> Vec<String> {
    let of = [("gain", &gain.gain), ("ratio of gains", &gain.against)];
    let chance = |difference: &Option<Difference>| difference.is_some_and(|d| d.is_by_chance());
    let told = of.into_iter().filter(|(_, difference)| chance(difference));
    let line = |(what, _): (&str, _)| {
        format!(
            "{} {setting}={}: the interval of its {what} excludes 1, but with this many compared one may \
             differ by chance",
            gain.rig, gain.value
        )
    };
    told.map(line).collect()
}

/// Returns what a gain is, beside that of the baseline rig.
pub fn gain_words(verdict: Verdict) -> String {
    verdict_words(verdict, OF_GAIN)
}

/// Returns whether the gain differs between rigs, in a sentence.
fn lead(setting: &str, one: &Crossed) -> Vec<String> {
    let baseline = &one.found.baseline;
    let differing: Vec<String> = one
        .found
        .gains
        .iter()
        .filter_map(|gain| {
            let words = gain_words(gain.against?.verdict);
            let told = words.starts_with("larger") || words.starts_with("smaller");
            told.then(|| format!("{} is {words} on {}", gain.value, gain.rig))
        })
        .collect();
    let judged = one.found.gains.iter().any(|gain| gain.against.is_some_and(|d| !d.is_refused()));
    vec![match (differing.is_empty(), judged) {
        (false, _) => format!(
            "The gain of {setting} differs between rigs: against {baseline}, that of {}.",
            listed(&differing)
        ),
        (true, true) => format!("The gain of {setting} is not shown to differ between rigs."),
        (true, false) => {
            format!("Whether the gain of {setting} differs between rigs cannot be said.")
        }
    }]
}

fn cells(setting: &str, one: &Crossed, gain: &Gain) -> Vec<Cell> {
    let number = |value: f64| Cell::number(value, significant(value, 4));
    let ratio = |difference: Option<&Difference>| {
        let shown = difference.and_then(|d| d.speed.zip(speed(d)));
        Cell::or_missing(shown, |(value, text)| Cell::number(value, text))
    };
    let said = |difference: Option<&Difference>| {
        Cell::or_missing(difference.and_then(speed_interval), Cell::text)
    };
    let end = |difference: Option<&Difference>, low: bool| {
        let interval = difference.and_then(|d| d.interval);
        Cell::or_missing(interval, |i| number(if low { i.low } else { i.high }))
    };
    let (own, against) = (gain.gain.as_ref(), gain.against.as_ref());
    vec![
        Cell::text(&one.workload),
        Cell::text(&one.measure.name),
        Cell::text(one.found.held.to_string()),
        Cell::text(setting),
        Cell::text(&gain.rig),
        Cell::text(&gain.value),
        ratio(own),
        said(own),
        end(own, true),
        end(own, false),
        match own {
            None => Cell::text("the first").role(Role::Quiet),
            Some(own) => {
                Cell::text(verdict_of(&one.measure, own.verdict)).role(verdict_role(own.verdict))
            }
        },
        Cell::or_missing(gain.efficiency, |share| Cell::number(share.value, percent(share.value))),
        Cell::or_missing(gain.efficiency, |Ranged { interval, .. }| {
            Cell::text(interval_words(&percent(interval.low), &percent(interval.high)))
        }),
        Cell::or_missing(gain.efficiency, |share| number(share.interval.low)),
        Cell::or_missing(gain.efficiency, |share| number(share.interval.high)),
        ratio(against),
        said(against),
        end(against, true),
        end(against, false),
        Cell::or_missing(against, |d| {
            Cell::text(gain_words(d.verdict)).role(verdict_role(d.verdict))
        }),
    ]
}
