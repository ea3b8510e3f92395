//! What others say: `[[claim]]`, sentences to be checked, and `[[elsewhere]]`, numbers not measured here.

use crate::keys::{CLAIM, ELSEWHERE};
use crate::section::{Mistakes, Section, Value, number};
use honest_lap_core::record::{Better, Elsewhere, PublishedClaim, SECONDS, Settings, TIME};
use honest_lap_core::unit::{parse_amount, parse_span};
use toml::de::DeValue;

/// Returns the tables of the list under `key`.
fn tables<'a, 'i>(top: &Section<'a, 'i>, key: &str) -> &'a [Value<'i>] {
    top.list(key).unwrap_or_default()
}

pub(crate) fn claims<'a>(mistakes: &'a Mistakes, top: &Section<'a, '_>) -> Vec<PublishedClaim> {
    let claim = |value| {
        let section = Section::open(mistakes, "[[claim]]", value, &CLAIM)?;
        let says = needed(&section, "says", "\"heron is at least 20% faster than wren\"")?;
        Some(PublishedClaim { says, who: section.text("who").map(str::to_owned) })
    };
    tables(top, "claim").iter().filter_map(claim).collect()
}

pub(crate) fn elsewhere<'a>(mistakes: &'a Mistakes, top: &Section<'a, '_>) -> Vec<Elsewhere> {
    let one = |value| {
        let section = Section::open(mistakes, "[[elsewhere]]", value, &ELSEWHERE)?;
        let rig = needed(&section, "rig", "\"osprey\"");
        let workload = needed(&section, "workload", "\"dome-still\"");
        let source = needed(&section, "source", "\"the maker's leaflet, spring\"");
        let measure = section.text("measure").unwrap_or(TIME).to_owned();
        let better = better(&section, &measure);
        let (value, unit) = quantity(&section, &measure)?;
        let (rig, workload, source) = (rig?, workload?, source?);
        let settings = settings(&section);
        Some(Elsewhere { rig, workload, settings, measure, better: better?, value, unit, source })
    };
    tables(top, "elsewhere").iter().filter_map(one).collect()
}

fn needed(section: &Section, key: &str, example: &str) -> Option<String> {
    if section.get(key).is_none() {
        let remedy = format!("add one, such as {key} = {example}");
        section.mistakes.add(
            section.span.clone(),
            format!("{} has no `{key}`", section.what),
            remedy,
        );
    }
    section.text(key).map(str::to_owned)
}

fn better(section: &Section, measure: &str) -> Option<Better> {
    match (section.get("better"), section.text("better")) {
        (None, _) if measure == TIME => Some(Better::Less),
        (_, Some("less")) => Some(Better::Less),
        (_, Some("more")) => Some(Better::More),
        (value, _) => {
            let span = value.map_or(section.span.clone(), |value| value.span());
            let problem = format!("which way `{measure}` is better is not said");
            section.mistakes.add(span, problem, "write better = \"more\" or \"less\"");
            None
        }
    }
}

fn quantity(section: &Section, measure: &str) -> Option<(f64, String)> {
    let Some(value) = section.get("value") else {
        needed(section, "value", if measure == TIME { "\"41.5 s\"" } else { "812" });
        return None;
    };
    if measure == TIME {
        let span = section.quantity("value", parse_span)?;
        return Some((span.seconds(), SECONDS.to_owned()));
    }
    match number(value) {
        Some(bare) => Some((bare, String::new())),
        None => section.quantity("value", parse_amount).map(|amount| (amount.value, amount.unit)),
    }
}

fn settings(section: &Section) -> Settings {
    let pair = |(name, _, value): (&str, _, &Value<'_>)| {
        let text = match value.get_ref() {
            DeValue::String(text) => text.to_string(),
            DeValue::Integer(number) => number.as_str().to_owned(),
            DeValue::Float(number) => number.as_str().to_owned(),
            DeValue::Boolean(flag) => flag.to_string(),
            _ => {
                section.wrong_type("settings", value, "a text or a number");
                return None;
            }
        };
        Some((name.to_owned(), text))
    };
    Settings::new(section.entries("settings").filter_map(pair).collect())
}
