//! Varied settings: each combination of their values is a variant.

use crate::section::{Section, Value};
use honest_lap_core::record::is_name;
use std::ops::Range;
use toml::de::DeValue;

/// Placeholders that the tool fills in itself, and what they are.
pub(crate) const OWN_PLACES: [(&str, &str); 3] = [
    ("lap_dir", "a fresh folder for this lap alone"),
    ("study_dir", "the study's folder"),
    ("lap", "the tool itself"),
];

/// More variants than this are a slip, not a study.
const MOST_VARIANTS: usize = 1_000;

/// A varied setting, with the place of its name.
pub(crate) struct Varied {
    pub(crate) name: String,
    pub(crate) values: Vec<String>,
    pub(crate) span: Range<usize>,
}

/// Returns a value of a setting as it is passed on; `None` of what is none.
pub(crate) fn value_text(value: &Value<'_>) -> Option<String> {
    match value.get_ref() {
        DeValue::String(text) if !text.is_empty() && !text.chars().any(char::is_control) => {
            Some(text.to_string())
        }
        DeValue::Integer(number) => Some(number.to_string()),
        DeValue::Float(number) => Some(number.to_string()),
        DeValue::Boolean(flag) => Some(flag.to_string()),
        _ => None,
    }
}

/// Returns the settings under `vary`, in the order written.
pub(crate) fn vary(section: &Section) -> Vec<Varied> {
    if let Some(value) = section.get("vary")
        && value.get_ref().as_table().is_some_and(|table| table.is_empty())
    {
        let remedy =
            "name a setting and its values, vary = { threads = [1, 2] }, or remove the key";
        section.mistakes.add(value.span(), format!("`vary` in {} is empty", section.what), remedy);
    }
    let mut all: Vec<Varied> = Vec::new();
    for (name, span, value) in section.entries("vary") {
        if !is_name(name) || OWN_PLACES.iter().any(|(own, _)| *own == name) {
            let remedy = "a setting is named with letters, digits, `-` and `_`, and not lap_dir, study_dir or lap";
            section.mistakes.add(span, format!("`{name}` cannot name a varied setting"), remedy);
            continue;
        }
        let Some(items) = value.get_ref().as_array() else {
            section.wrong_type(name, value, "a list of values, such as [1, 2],");
            continue;
        };
        if items.is_empty() {
            let remedy = "give at least one value, such as [1, 2]";
            section.mistakes.add(value.span(), format!("`{name}` varies over nothing"), remedy);
            continue;
        }
        let mut values: Vec<String> = Vec::new();
        for item in items.iter() {
            let Some(text) = value_text(item) else {
                let wanted = "a value on one line: a text, a number, true or false";
                section.wrong_type(name, item, wanted);
                continue;
            };
            if values.contains(&text) {
                let remedy = "leave the second one out";
                section.mistakes.add(
                    item.span(),
                    format!("`{name}` has the value {text} twice"),
                    remedy,
                );
            } else {
                values.push(text);
            }
        }
        all.push(Varied { name: name.to_owned(), values, span });
    }
    let count = all.iter().try_fold(1usize, |n, v| n.checked_mul(v.values.len().max(1)));
    if let Some(first) = all.first()
        && count.is_none_or(|n| n > MOST_VARIANTS)
    {
        section.mistakes.add(
            first.span.clone(),
            format!("`vary` in {} makes more than {MOST_VARIANTS} variants", section.what),
            "vary fewer settings at once, or split the workload",
        );
    }
    all
}
