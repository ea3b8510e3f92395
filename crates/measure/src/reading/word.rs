//! Finding what a program says of its own setting: a word or a few, and not a number.

use super::budget::Budgeted;
use super::find::quoted;
use super::text::{Text, bytes, lines};
use honest_lap_core::record::{Find, ModeRule, plain_line};
use std::collections::BTreeSet;
use std::path::Path;

/// Letters of a setting that are kept.
const MOST_CHARS: usize = 80;

/// Returns what `rule` finds in `text`, which lies at `place`; where it is there several times, it says the same.
///
/// * Errors: it is not there, says several things, or cannot be read.
pub(crate) fn word(rule: &ModeRule, text: &Text, place: &str) -> Result<String, String> {
    let found = match &rule.find {
        Find::Pointer(pointer) => pointed(text, pointer, place)?,
        Find::After(wanted) => in_lines(text, place, &|line| Ok(behind(line, wanted)))?,
        Find::Pattern(pattern) => {
            let pattern = Budgeted::new(pattern)?;
            in_lines(text, place, &|line| {
                pattern.check()?;
                let caught = pattern.regex().captures(line);
                let value = caught.as_ref().and_then(|all| all.name("value").or(all.get(1)));
                Ok(value.map(|value| value.as_str().to_owned()))
            })?
        }
        Find::Eyes => return Err("there is nothing to look for".to_owned()),
    };
    let plain = plain_line(found.trim());
    match plain.is_empty() {
        true => Err(format!("nothing stands there in {place}")),
        false => Ok(plain.chars().take(MOST_CHARS).collect()),
    }
}

/// Returns what the rule finds in the file at `path`.
pub(crate) fn word_in_file(rule: &ModeRule, path: &Path, place: &str) -> Result<String, String> {
    word(rule, &Text::File(path.to_owned()), place)
}

/// What looks at a line: an error where looking takes too long.
type Look<'a> = &'a dyn Fn(&str) -> Result<Option<String>, String>;

fn in_lines(text: &Text, place: &str, look: Look<'_>) -> Result<String, String> {
    let lines = lines(text).map_err(|why| format!("{place}: {why}"))?;
    let mut all = BTreeSet::new();
    for line in &lines {
        all.extend(look(&line.text)?);
    }
    let mut all = all.into_iter();
    match (all.next(), all.next()) {
        (None, _) => Err(format!("no line of {place} tells it")),
        (Some(one), None) => Ok(one),
        (Some(one), Some(other)) => {
            Err(format!("{place} says both {} and {}", quoted(&one), quoted(&other)))
        }
    }
}

/// Returns what stands behind the first `wanted` of a line, without the sign that joins the two and without quotes.
fn behind(line: &str, wanted: &str) -> Option<String> {
    let (_, behind) = line.split_once(wanted)?;
    let value = behind.trim_start_matches([' ', '\t', ':', '=']).trim();
    Some(value.trim_matches(['"', '\'']).to_owned())
}

/// Returns what `pointer` leads to.
///
/// Source: RFC 6901, <https://www.rfc-editor.org/rfc/rfc6901>.
fn pointed(text: &Text, pointer: &str, place: &str) -> Result<String, String> {
    let bytes = bytes(text).map_err(|why| format!("{place}: {why}"))?;
    let document: serde_json::Value =
        serde_json::from_slice(&bytes).map_err(|err| format!("{place} is not JSON: {err}"))?;
    match document.pointer(pointer) {
        None => Err(format!("`{pointer}` leads nowhere in {place}")),
        Some(serde_json::Value::String(text)) => Ok(text.clone()),
        Some(other) => Ok(other.to_string()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::Source;

    fn found(find: Find, text: &str) -> Result<String, String> {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("settings");
        std::fs::write(&path, text).unwrap();
        let rule = ModeRule { name: "render".into(), source: Source::Output, find };
        word_in_file(&rule, &path, "settings")
    }

    #[test]
    fn words_are_found_behind_a_text_by_a_pattern_and_in_json() {
        let after = |text: &str| found(Find::After("Mode".into()), text);
        assert_eq!(after("[render]\nMode = \"graphics\"\r\nSize=3\n").unwrap(), "graphics");
        assert_eq!(after("Mode: ray traced, fine  \n").unwrap(), "ray traced, fine");
        assert_eq!(after("Mode: a\nother\nMode: a\n").unwrap(), "a", "said twice, and the same");
        assert_eq!(after("Mode: a\nMode: b\n").unwrap_err(), "settings says both `a` and `b`");
        assert_eq!(after("Size=3").unwrap_err(), "no line of settings tells it");
        assert_eq!(after("Mode =\n").unwrap_err(), "nothing stands there in settings");
        let pattern = |text: &str| found(Find::Pattern("device (\\w+)".into()), text);
        assert_eq!(pattern("using device L4 now").unwrap(), "L4");
        let pointer = |text: &str| found(Find::Pointer("/render/mode".into()), text);
        assert_eq!(pointer(r#"{"render":{"mode":"graphics"}}"#).unwrap(), "graphics");
        assert_eq!(pointer(r#"{"render":{"mode":true}}"#).unwrap(), "true");
        assert!(pointer("{}").unwrap_err().contains("leads nowhere"));
        let hostile = found(Find::After("Mode:".into()), "Mode: \u{1b}[31mred\u{202e}").unwrap();
        assert!(!hostile.contains(['\u{1b}', '\u{202e}']), "{hostile:?}");
    }
}
