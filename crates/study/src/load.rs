//! The loads of `kind = "capacity"`: `load`, `strained`, `broke`, `searches`.

use crate::keys::{BROKE, LOAD, STRAINED};
use crate::reading::check_pattern;
use crate::section::{Section, number};
use honest_lap_core::record::{Broke, KindName, LoadRule, Loads, ReadingRule, Strained};
use honest_lap_core::unit::parse_share;
use std::collections::BTreeSet;
use toml::Spanned;
use toml::de::DeValue;

/// The most laps of a search, until its workload says otherwise.
const MOST_LAPS: u32 = 36;
/// More loads than this are a slip.
const MOST_STEPS: usize = 1_000_000;

/// Reads what a workload of this `kind` says of its loads.
pub(crate) fn load(
    section: &Section,
    kind: Option<KindName>,
    readings: &[ReadingRule],
    laps: Option<u32>,
) -> Option<LoadRule> {
    let wanted = kind == Some(KindName::Capacity);
    for key in ["load", "strained", "broke", "searches"] {
        if let (Some(value), false, true) = (section.get(key), wanted, kind.is_some()) {
            let remedy = "loads are tried by kind = \"capacity\"; remove it, or change the kind";
            section.mistakes.add(value.span(), format!("`{key}` belongs to another kind"), remedy);
        }
    }
    if !wanted {
        return None;
    }
    for key in ["strained", "broke"] {
        if let (Some(value), Some(_)) = (section.get(key), section.get("by_hand")) {
            let remedy = "remove it: lap clock asks whoever runs it, and lap enter has --held, --strained, --broke";
            section.mistakes.add(value.span(), format!("`{key}` is for a person to say"), remedy);
        }
    }
    // Every key tells its own mistakes, whatever is wrong with the others.
    let (strained, broke) = (strained(section, readings), broke(section));
    let Some(value) = section.get("load") else {
        section.mistakes.add(
            section.span.clone(),
            format!("{} says no load", section.what),
            "say which there are: load = { from = 1, to = 400, unit = \"layers\" }, or load = [\"half\", \"full\"]",
        );
        return None;
    };
    let (loads, unit) = match value.get_ref() {
        DeValue::Array(_) => (named(section, value.span())?, String::new()),
        _ => range(section)?,
    };
    Some(LoadRule { loads, unit, strained, broke, most: laps.unwrap_or(MOST_LAPS) })
}

/// Reads how many searches a session makes of each variant.
pub(crate) fn searches(section: &Section) -> u32 {
    section.whole("searches", 1..=100).unwrap_or(1)
}

fn named(section: &Section, span: std::ops::Range<usize>) -> Option<Loads> {
    let items = section.list("load")?;
    let names: Vec<String> =
        items.iter().filter_map(|item| section.text_of("load", item).map(str::to_owned)).collect();
    let distinct: BTreeSet<&String> = names.iter().collect();
    if names.len() < 2 || distinct.len() < names.len() || names.iter().any(String::is_empty) {
        let remedy = "name two steps or more, each once, smallest first: load = [\"quarter\", \"half\", \"full\"]";
        section.mistakes.add(span, "`load` names no steps to choose from", remedy);
        return None;
    }
    Some(Loads::Named(names))
}

fn range(section: &Section) -> Option<(Loads, String)> {
    let value = section.get("load")?;
    let what = format!("`load` of {}", section.what);
    let inner = Section::open(section.mistakes, what, value, &LOAD)?;
    let all = 0..=u32::MAX;
    let (from, to) = (inner.whole("from", all.clone()), inner.whole("to", all.clone()));
    let step = inner.whole("step", 1..=u32::MAX).unwrap_or(1);
    let unit = inner.text("unit").unwrap_or_default().to_owned();
    for (key, known) in [("from", inner.get("from")), ("to", inner.get("to"))] {
        if known.is_none() {
            let remedy = "say the smallest and the largest: load = { from = 1, to = 400 }";
            section.mistakes.add(value.span(), format!("`load` has no `{key}`"), remedy);
        }
    }
    let (from, to) = (from?, to?);
    let steps = if from < to { ((to - from) / step) as usize + 1 } else { 0 };
    if !(2..=MOST_STEPS).contains(&steps) {
        let remedy =
            "let `from` lie below `to`, with a step that leaves two loads or more between them";
        section.mistakes.add(value.span(), "`load` leaves no loads to choose from", remedy);
        return None;
    }
    Some((Loads::Range { from, to, step }, unit))
}

fn strained(section: &Section, readings: &[ReadingRule]) -> Option<Strained> {
    let value = section.get("strained")?;
    let what = format!("`strained` of {}", section.what);
    let inner = Section::open(section.mistakes, what, value, &STRAINED)?;
    let limit = |key: &str| inner.get(key).and_then(number);
    if inner.get("late_frames").is_some()
        && STRAINED.names().filter(|key| *key != "late_frames").all(|key| inner.get(key).is_none())
    {
        return late_frames(section, &inner);
    }
    match (inner.text("pattern"), inner.text("reading"), limit("above"), limit("below")) {
        (Some(pattern), None, None, None) => {
            let span = inner.get("pattern").map_or(0..0, Spanned::span);
            check_pattern(section.mistakes, pattern, span);
            Some(Strained::Pattern(pattern.to_owned()))
        }
        (None, Some(name), Some(above), None) => {
            known(&inner, name, readings);
            Some(Strained::Above(name.to_owned(), above))
        }
        (None, Some(name), None, Some(below)) => {
            known(&inner, name, readings);
            Some(Strained::Below(name.to_owned(), below))
        }
        _ => {
            let remedy = "write { pattern = \"dropped [1-9]\" }, { reading = \"dropped\", above = 0 }, or { late_frames = \"1%\" }";
            section.mistakes.add(value.span(), "`strained` says no strain", remedy);
            None
        }
    }
}

/// Reads `late_frames`: the share of frames that may come late.
fn late_frames(section: &Section, inner: &Section) -> Option<Strained> {
    let share = inner.quantity("late_frames", parse_share);
    if section.get("frames").is_none() || section.get("refresh").is_none() {
        let span = inner.get("late_frames").map_or(0..0, Spanned::span);
        let remedy = "say where they are and what they are held against: frames = \"presented\", refresh = \"60 Hz\"";
        section.mistakes.add(span, "no frames are known to be late", remedy);
    }
    share.map(Strained::LateFrames)
}

fn known(inner: &Section, name: &str, readings: &[ReadingRule]) {
    if !readings.iter().any(|rule| rule.name == name) {
        let span = inner.get("reading").map_or(0..0, Spanned::span);
        let remedy =
            "read it: readings = [{ name = \"dropped\", after = \"dropped:\", better = \"less\" }]";
        inner.mistakes.add(span, format!("the workload reads no `{name}`"), remedy);
    }
}

fn broke(section: &Section) -> Broke {
    let plain = Broke { exit_codes: Vec::new(), limit: true, signals: true };
    let Some(value) = section.get("broke") else { return plain };
    let what = format!("`broke` of {}", section.what);
    let Some(inner) = Section::open(section.mistakes, what, value, &BROKE) else {
        return plain;
    };
    let codes = inner.list("exit_codes").unwrap_or_default().iter();
    Broke {
        exit_codes: codes
            .filter_map(|item| inner.whole_of("exit_codes", item, 0..=255))
            .filter_map(|code| i32::try_from(code).ok())
            .collect(),
        limit: inner.flag("limit").unwrap_or(true),
        signals: inner.flag("signals").unwrap_or(true),
    }
}
