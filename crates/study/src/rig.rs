//! The `[rig.NAME]` tables.

use crate::keys::{POWER, RIG};
use crate::mistake::nearest;
use crate::part::parts;
use crate::section::{Mistakes, Section, Value};
use honest_lap_core::record::{
    KEY_DIGITS, Peak, Rig, Settings, StatedPower, Unsupported, Workload, parse_rate,
};
use honest_lap_core::unit::{Amount, parse_amount};
use std::ops::Range;
use toml::de::DeValue;

pub(crate) fn rig<'i>(
    mistakes: &Mistakes,
    name: &str,
    value: &Value<'i>,
    workloads: &[Workload],
) -> Option<Rig> {
    let section = Section::open(mistakes, format!("rig \"{name}\""), value, &RIG)?;
    Some(Rig {
        name: name.to_owned(),
        title: section.text("title").map(str::to_owned),
        about: section.text("about").map(str::to_owned),
        price: section.quantity("price", parse_amount),
        sells_for: section.quantity("sells_for", parse_amount),
        owned: section.flag("owned").unwrap_or(false),
        model: section.text("model").map(str::to_owned),
        parts: parts(&section),
        unsupported: unsupported(&section, workloads),
        keys: keys(&section),
        reach: reach(&section),
        apart: section.flag("apart").unwrap_or(false),
        peaks: peaks(&section, workloads),
        power: section
            .get("power")
            .and_then(|value| {
                let what = format!("`power` of rig \"{name}\"");
                Section::open(mistakes, what, value, &POWER)
            })
            .map(|section| power(&section))
            .unwrap_or_default(),
    })
}

/// Reads what the rig cannot do: `{ fly-through = "…" }`, or of some variants only, `{ "tunnel quality=high" = "…" }`.
fn unsupported(section: &Section, workloads: &[Workload]) -> Vec<Unsupported> {
    let one = |(name, span, value): (&str, Range<usize>, &Value<'_>)| {
        let why = section.text_of(name, value)?.to_owned();
        let mut words = name.split([' ', ',']).filter(|word| !word.is_empty());
        let named = words.next().unwrap_or_default();
        let wrong = |problem: String, remedy: String| {
            section.mistakes.add(span.clone(), problem, remedy);
            None
        };
        let Some(workload) = workloads.iter().find(|workload| workload.name == named) else {
            let names = workloads.iter().map(|workload| workload.name.as_str());
            let remedy = match nearest(named, names.clone()) {
                Some(near) => format!("did you mean \"{near}\"?"),
                None => format!("the study has: {}", names.collect::<Vec<_>>().join(", ")),
            };
            return wrong(format!("no workload is called \"{named}\""), remedy);
        };
        let mut pairs = Vec::new();
        for word in words {
            let pair = word.split_once('=');
            let varies = |(key, value): &(&str, &str)| {
                let values = workload.vary.iter().find(|(name, _)| name == key);
                values.is_some_and(|(_, values)| values.iter().any(|known| known == value))
            };
            match pair.filter(varies) {
                Some((key, value)) => pairs.push((key.to_owned(), value.to_owned())),
                None => {
                    let variants: Vec<String> =
                        workload.variants().iter().map(ToString::to_string).collect();
                    let remedy = format!("its variants are: {}", variants.join("; "));
                    return wrong(format!("{named} has no variants with `{word}`"), remedy);
                }
            }
        }
        Some(Unsupported { workload: named.to_owned(), settings: Settings::new(pairs), why })
    };
    section.entries("unsupported").filter_map(one).collect()
}

/// Reads the command line that runs a command there.
fn reach(section: &Section) -> Option<String> {
    let line = section.text("reach")?.trim();
    if line.is_empty() || line.contains(['\n', '\0']) {
        let span = section.get("reach").map(Value::span).unwrap_or_default();
        let remedy =
            "write a command line that takes a command as its last word: \"ssh lab@heron\"";
        section.mistakes.add(span, "`reach` is no command line", remedy);
        return None;
    }
    Some(line.to_owned())
}

/// Reads `key`, one or several.
fn keys(section: &Section) -> Vec<String> {
    let Some(value) = section.get("key") else { return Vec::new() };
    let texts: Vec<&str> = match value.get_ref() {
        DeValue::Array(_) => {
            let items = section.list("key").unwrap_or_default().iter();
            items.filter_map(|item| section.text_of("key", item)).collect()
        }
        _ => section.text("key").into_iter().collect(),
    };
    let is_key = |text: &&str| {
        text.len() == KEY_DIGITS && text.bytes().all(|b| matches!(b, b'0'..=b'9' | b'a'..=b'f'))
    };
    if let Some(bad) = texts.iter().find(|text| !is_key(text)) {
        let problem = format!("`{bad:.20}` is no key");
        let remedy = "copy the 64 digits that `lap rig` shows on that rig";
        section.mistakes.add(value.span(), problem, remedy);
    }
    texts.into_iter().filter(is_key).map(str::to_owned).collect()
}

/// Reads `peak`, one rate or several, of all variants or by a setting, and `peak_from`, where they come from.
fn peaks(section: &Section, workloads: &[Workload]) -> Vec<Peak> {
    let Some(value) = section.get("peak") else {
        if let Some(value) = section.get("peak_from") {
            let remedy = "state the peak: peak = \"1.9 TFLOP/s\"";
            section.mistakes.add(value.span(), "`peak_from` stands without a peak", remedy);
        }
        return Vec::new();
    };
    let from = section.text("peak_from").map(str::trim).filter(|from| !from.is_empty());
    if from.is_none() {
        let remedy =
            "say where the figure comes from: peak_from = \"the maker's data sheet, page 4\"";
        section.mistakes.add(value.span(), "a paper peak names no paper", remedy);
    }
    let from = from.unwrap_or_default();
    let mut all = Vec::new();
    let mut add = |rates: Vec<Amount>, of: Option<(&str, &str)>| {
        let of = of.map(|(name, value)| (name.to_owned(), value.to_owned()));
        let peak = |a_second| Peak { a_second, from: from.to_owned(), of: of.clone() };
        all.extend(rates.into_iter().map(peak));
    };
    match value.get_ref() {
        DeValue::Table(_) => {
            for (name, _, values) in section.entries("peak") {
                let Some(table) = values.get_ref().as_table() else {
                    let remedy =
                        "write it value by value: peak = { precision = { fp64 = \"80 GFLOP/s\" } }";
                    let problem = format!("`{name}` of `peak` is no table of values");
                    section.mistakes.add(values.span(), problem, remedy);
                    continue;
                };
                for (is, rate) in table {
                    let (at, is): (_, &str) = (is.span(), is.get_ref());
                    let has = |(known, values): &(String, Vec<String>)| {
                        known == name && values.iter().any(|value| value == is)
                    };
                    if !workloads.iter().any(|workload| workload.vary.iter().any(has)) {
                        let remedy = "name a setting that a workload varies, and one of its values";
                        let problem = format!("no workload has variants with `{name}={is}`");
                        section.mistakes.add(at, problem, remedy);
                    }
                    add(rates(section, rate), Some((name, is)));
                }
            }
        }
        _ => add(rates(section, value), None),
    }
    all
}

/// Reads a rate, or several.
fn rates(section: &Section, value: &Value<'_>) -> Vec<Amount> {
    match value.get_ref() {
        DeValue::Array(items) => {
            items.iter().filter_map(|item| section.quantity_of("peak", item, parse_rate)).collect()
        }
        _ => section.quantity_of("peak", value, parse_rate).into_iter().collect(),
    }
}

fn power(section: &Section) -> StatedPower {
    let watts = |key| {
        let amount: Amount = section.quantity(key, parse_amount)?;
        if amount.unit != "W" {
            let span = section.get(key).map_or(0..0, |value| value.span());
            let problem = format!("`{key}` is in {}, and power is in W", amount.unit);
            section.mistakes.add(span, problem, "write it in watts, such as \"85 W\"");
            return None;
        }
        Some(amount.value)
    };
    StatedPower { mean: watts("mean"), peak: watts("peak"), idle: watts("idle") }
}
