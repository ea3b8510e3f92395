//! What is read from a lap: `readings`, `splits`, and outside meters.

use crate::keys::{METER, READING, SPLIT};
use crate::launch::launch;
use crate::places::Places;
use crate::section::{Mistakes, Section, Value};
use honest_lap_core::record::{
    Better, Find, MOST_PATTERN_BYTES, Meter, ReadingRule, Source, SplitRule, Splits, TIME,
    Template, is_rig_name,
};
use honest_lap_core::unit::{Decimals, seconds_in};
use regex::{Regex, RegexBuilder};
use std::collections::BTreeSet;
use toml::Spanned;

/// Returns the rules under `readings`; `by_hand` says that people run the workload.
pub(crate) fn readings(section: &Section, places: &mut Places, by_hand: bool) -> Vec<ReadingRule> {
    let items = section.list("readings").unwrap_or_default();
    items.iter().filter_map(|item| reading(section, item, places, by_hand)).collect()
}

fn reading(
    section: &Section,
    item: &Value<'_>,
    places: &mut Places,
    by_hand: bool,
) -> Option<ReadingRule> {
    let what = format!("`readings` of {}", section.what);
    let inner = Section::open(section.mistakes, what, item, &READING)?;
    let name = inner.text("name");
    if inner.get("name").is_none() {
        let remedy =
            "name the measure: { name = \"score\", after = \"Score:\", better = \"more\" }";
        inner.mistakes.add(
            item.span(),
            format!("{} has an entry without name", inner.what),
            remedy,
        );
    }
    let unit = inner.text("unit").unwrap_or_default().to_owned();
    let reports_time = inner.text("reports").is_some_and(|what| {
        if what != TIME {
            let span = inner.get("reports").map_or(0..0, Spanned::span);
            let remedy = "write reports = \"time\" where the program says its own time";
            inner.mistakes.add(span, format!("`{what}` is nothing that is measured"), remedy);
        }
        what == TIME
    });
    let timed = seconds_in(&unit).is_some();
    if reports_time && !timed {
        let remedy = "say in which unit of time the program reports: unit = \"s\"";
        inner.mistakes.add(item.span(), "a report of the time has no unit of time", remedy);
    }
    let better = better(&inner, item, timed);
    let find = find(&inner, item, by_hand)?;
    let source = source(&inner, places)?;
    let decimals = decimals(&inner);
    let name = named(&inner, name?, item)?;
    let optional = inner.flag("optional").unwrap_or_default();
    Some(ReadingRule {
        name,
        unit,
        better: better?,
        source,
        find,
        decimals,
        reports_time,
        optional,
    })
}

fn named(inner: &Section, name: &str, item: &Value<'_>) -> Option<String> {
    if name == TIME || !is_rig_name(name) {
        let span = inner.get("name").map_or(item.span(), Spanned::span);
        let remedy = "use 1 to 40 letters, digits, `-` and `_`; `time` is the tool's own measure";
        inner.mistakes.add(span, format!("\"{name}\" cannot name a measure"), remedy);
        return None;
    }
    Some(name.to_owned())
}

fn better(inner: &Section, item: &Value<'_>, timed: bool) -> Option<Better> {
    let Some(word) = inner.text("better") else {
        if timed {
            return Some(Better::Less);
        }
        let remedy = "say which way is better: better = \"more\" or better = \"less\"";
        inner.mistakes.add(
            item.span(),
            format!("{} has an entry without better", inner.what),
            remedy,
        );
        return None;
    };
    match word {
        "more" => Some(Better::More),
        "less" => Some(Better::Less),
        other => {
            let span = inner.get("better").map_or(0..0, Spanned::span);
            let remedy = "write better = \"more\" or better = \"less\"";
            inner.mistakes.add(span, format!("`{other}` is no way to be better"), remedy);
            None
        }
    }
}

/// Returns how something is found: after a text, by a pattern, at a pointer; `by_hand`, by whoever reads it off.
pub(crate) fn find(inner: &Section, item: &Value<'_>, by_hand: bool) -> Option<Find> {
    let ways = ["after", "pattern", "pointer"];
    let given: Vec<&str> = ways.into_iter().filter(|way| inner.get(way).is_some()).collect();
    let text = |key| inner.text(key).map(str::to_owned);
    match given.as_slice() {
        [] if by_hand => Some(Find::Eyes),
        ["after"] => text("after").map(Find::After),
        ["pattern"] => {
            let pattern = text("pattern")?;
            let span = inner.get("pattern").map_or(0..0, Spanned::span);
            let wants_value = |regex: &Regex| {
                let named = regex.capture_names().flatten().any(|name| name == "value");
                named || regex.captures_len() == 2
            };
            check_pattern(inner.mistakes, &pattern, span.clone()).filter(|regex| {
                if !wants_value(regex) {
                    let remedy = "put brackets around the number, 'Score: ([0-9.]+)', or name the \
                                  group: 'in ([0-9]+) runs: (?<value>[0-9.]+)'";
                    let problem = "`pattern` does not say which part of it is the number";
                    inner.mistakes.add(span, problem, remedy);
                }
                wants_value(regex)
            })?;
            Some(Find::Pattern(pattern))
        }
        ["pointer"] => {
            let pointer = text("pointer")?;
            if !pointer.is_empty() && !pointer.starts_with('/') {
                let span = inner.get("pointer").map_or(0..0, Spanned::span);
                let remedy = "write the way through the JSON with slashes: \"/results/0/score\"";
                inner.mistakes.add(span, format!("`{pointer}` is not a JSON pointer"), remedy);
                return None;
            }
            Some(Find::Pointer(pointer))
        }
        [] => {
            let remedy = "say where the number is: after = \"Score:\", pattern = '…(…)…' or \
                          pointer = \"/score\"";
            let problem = format!("{} has an entry that says not where its number is", inner.what);
            inner.mistakes.add(item.span(), problem, remedy);
            None
        }
        several => {
            let problem = format!("{} are given, and one of them is wanted", several.join(" and "));
            inner.mistakes.add(item.span(), problem, "keep the one that finds the number");
            None
        }
    }
}

/// Returns the regular expression that `pattern` writes, or tells why it is none.
pub(crate) fn check_pattern(
    mistakes: &Mistakes,
    pattern: &str,
    span: std::ops::Range<usize>,
) -> Option<Regex> {
    match RegexBuilder::new(pattern).size_limit(MOST_PATTERN_BYTES).build() {
        Ok(regex) => Some(regex),
        Err(err) => {
            let why = err.to_string();
            let last = why.lines().last().unwrap_or_default().trim_start_matches("error: ");
            let remedy =
                "write a regular expression; in single quotes TOML leaves backslashes alone";
            mistakes.add(span, format!("`{pattern}` is not a pattern: {last}"), remedy);
            None
        }
    }
}

/// Returns where it is found: in a stream of the program, or in a file.
pub(crate) fn source(inner: &Section, places: &mut Places) -> Option<Source> {
    if inner.get("file").is_some() {
        return places.keep(inner.template("file")).map(Source::File);
    }
    match inner.text("in").unwrap_or("output") {
        "output" => Some(Source::Output),
        "errors" => Some(Source::Errors),
        other => {
            let span = inner.get("in").map_or(0..0, Spanned::span);
            let remedy =
                "write in = \"output\" or in = \"errors\"; a file is named by file = \"…\"";
            inner.mistakes.add(span, format!("`{other}` is no stream of a program"), remedy);
            None
        }
    }
}

fn decimals(inner: &Section) -> Decimals {
    match inner.text("decimal") {
        None => Decimals::Shown,
        Some(".") => Decimals::Point,
        Some(",") => Decimals::Comma,
        Some(other) => {
            let span = inner.get("decimal").map_or(0..0, Spanned::span);
            let remedy = "write decimal = \".\" or decimal = \",\"";
            inner.mistakes.add(span, format!("`{other}` stands before no decimals"), remedy);
            Decimals::Shown
        }
    }
}

/// Returns how laps are divided, from `splits`, `splits_in` and `counts`.
pub(crate) fn splits(section: &Section, places: &mut Places, by_hand: bool) -> Option<Splits> {
    let source = match section.get("splits_in") {
        Some(_) => places.keep(section.template("splits_in")).map(Source::File),
        None => Some(Source::Output),
    };
    let items = section.list("splits");
    for key in ["splits_in", "counts"] {
        if let (None, Some(value)) = (items, section.get(key)) {
            let remedy = "name the parts: splits = [{ part = \"load\" }, { part = \"draw\", from = 'drawing' }]";
            section.mistakes.add(value.span(), format!("`{key}` without `splits`"), remedy);
        }
    }
    let items = items?;
    let mut parts: Vec<SplitRule> = Vec::new();
    for (place, item) in items.iter().enumerate() {
        let what = format!("`splits` of {}", section.what);
        let inner = Section::open(section.mistakes, what, item, &SPLIT)?;
        let from = inner.text("from").map(str::to_owned);
        if let (Some(pattern), Some(value)) = (&from, inner.get("from")) {
            check_pattern(section.mistakes, pattern, value.span())?;
        }
        // Whoever holds a stopwatch says when a part begins.
        if place > 0 && from.is_none() && !by_hand {
            let remedy = "say at which line it begins: { part = \"draw\", from = 'scene loaded' }";
            let problem = "only the first part may begin with the lap";
            section.mistakes.add(item.span(), problem, remedy);
        }
        if let Some(part) = inner.text("part").and_then(|name| named(&inner, name, item)) {
            parts.push(SplitRule { part, from });
        } else if inner.get("part").is_none() {
            section.mistakes.add(item.span(), "a part without a name", "write part = \"load\"");
        }
    }
    let counts = counts(section, &parts);
    Some(Splits { parts, source: source?, counts })
}

fn counts(section: &Section, parts: &[SplitRule]) -> Vec<String> {
    let mut counted = Vec::new();
    for item in section.list("counts").unwrap_or_default() {
        let Some(name) = section.text_of("counts", item) else { continue };
        if parts.iter().any(|part| part.part == name) {
            counted.push(name.to_owned());
        } else {
            let names: Vec<&str> = parts.iter().map(|part| part.part.as_str()).collect();
            let remedy = format!("the parts are: {}", names.join(", "));
            section.mistakes.add(item.span(), format!("no part is called \"{name}\""), remedy);
        }
    }
    counted
}

/// Tells names that two measures of a workload share.
pub(crate) fn check_names(section: &Section, readings: &[ReadingRule], splits: Option<&Splits>) {
    let parts = splits.iter().flat_map(|splits| &splits.parts).map(|part| &part.part);
    let mut seen = BTreeSet::new();
    for name in parts.chain(readings.iter().map(|rule| &rule.name)) {
        if !seen.insert(name) {
            let problem = format!("two measures of {} are called \"{name}\"", section.what);
            section.mistakes.add(section.span.clone(), problem, "give each a name of its own");
        }
    }
}

/// Returns the meter of a `[meter.NAME]` table.
pub(crate) fn meter(mistakes: &Mistakes, name: &str, value: &Value<'_>) -> Option<Meter> {
    let inner = Section::open(mistakes, format!("meter \"{name}\""), value, &METER)?;
    for key in ["command", "unit"] {
        if inner.get(key).is_none() {
            let problem = format!("{} has no {key}", inner.what);
            let remedy =
                "write command = [\"read-meter\"], which prints a number a line, and unit = \"W\"";
            mistakes.add(value.span(), problem, remedy);
        }
    }
    let placed = launch(&inner, "command")?;
    for place in placed.launch.templates().iter().flat_map(Template::places) {
        if place != "lap" && place != "study_dir" {
            let remedy =
                "use only {lap} and {study_dir} there: a meter runs through a whole session";
            mistakes.add(
                placed.span.clone(),
                format!("`{{{place}}}` has no value in a meter"),
                remedy,
            );
        }
    }
    let (unit, decimals) = (inner.text("unit")?.to_owned(), decimals(&inner));
    Some(Meter { name: name.to_owned(), command: placed.launch, unit, decimals })
}
