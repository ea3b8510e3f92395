//! Commands: a list is started as it is, a text goes through the shell.

use crate::section::{Section, Value};
use honest_lap_core::record::{Launch, standings};
use std::ops::Range;
use toml::de::DeValue;

/// A command and its place in the text.
pub(crate) struct Placed {
    pub(crate) launch: Launch,
    pub(crate) span: Range<usize>,
}

/// Returns the command under `key`.
pub(crate) fn launch(section: &Section, key: &str) -> Option<Placed> {
    section.get(key).and_then(|value| launch_of(section, key, value))
}

/// Returns the commands under `key`: one command, or a list of lists and texts.
pub(crate) fn launches(section: &Section, key: &str) -> Vec<Placed> {
    let Some(value) = section.get(key) else { return Vec::new() };
    let several = match value.get_ref() {
        DeValue::Array(items) if items.iter().any(|item| item.get_ref().is_array()) => items,
        _ => std::slice::from_ref(value),
    };
    several.iter().filter_map(|item| launch_of(section, key, item)).collect()
}

pub(crate) fn launch_of<'i>(
    section: &Section<'_, 'i>,
    key: &str,
    value: &Value<'i>,
) -> Option<Placed> {
    let span = value.span();
    let launch = match value.get_ref() {
        DeValue::String(line) if line.trim().is_empty() => return empty(section, key, span),
        DeValue::String(_) => {
            let line = section.template_of(key, value)?.into_inner();
            if let Err(why) = standings(&line) {
                let remedy = "let it stand among words or within quotes; a brace of the shell's own is written twice; or \
                              start the program itself: [\"program\", \"argument\"]";
                section.mistakes.add(span.clone(), why.to_string(), remedy);
            }
            Launch::Shell(line)
        }
        DeValue::Array(words) => {
            let words: Option<Vec<_>> = words
                .iter()
                .map(|word| section.template_of(key, word).map(toml::Spanned::into_inner))
                .collect();
            match words? {
                words if words.first().is_none_or(|program| program.source().is_empty()) => {
                    return empty(section, key, span);
                }
                words => Launch::Direct(words),
            }
        }
        _ => {
            let wanted =
                "a command as a list, [\"program\", \"argument\"], or as one text for the shell";
            section.wrong_type(key, value, wanted);
            return None;
        }
    };
    Some(Placed { launch, span })
}

fn empty(section: &Section, key: &str, span: Range<usize>) -> Option<Placed> {
    section.mistakes.add(
        span,
        format!("`{key}` in {} is an empty command", section.what),
        "name the program to start, such as [\"dome-still\", \"--out\", \"{lap_dir}/still.png\"]",
    );
    None
}
