//! Finding the one place where a number stands.

use super::number::{Read, leading, read, unit_behind};
use crate::spool::Line;
use honest_lap_core::record::{Find, ReadingRule};
use regex::Regex;

/// Characters of a line that are quoted in a message.
const QUOTED: usize = 80;

/// Returns the number in the one line of `lines` that `find` leads to.
pub(super) fn in_lines(
    find: &Find,
    lines: &[Line],
    place: &str,
    rule: &ReadingRule,
) -> Result<Read, String> {
    let (what, seek) = seeker(find)?;
    let mut found = lines.iter().filter_map(|line| seek(&line.text).map(|hit| (hit, &line.text)));
    let Some((hit, line)) = found.next() else {
        return Err(format!("no line of {place} has {what}"));
    };
    if let Some((_, second)) = found.next() {
        let (first, second) = (quoted(line), quoted(second));
        return Err(format!("{what} is in {place} twice: {first} and {second}"));
    }
    let hit = hit.map_err(|why| format!("{why}, in {}", quoted(line)))?;
    read(&hit.number, hit.unit.as_deref().or(unit_behind(&hit.rest, &rule.unit)), rule)
        .map_err(|why| format!("{why}, in {}", quoted(line)))
}

/// What was found in a line: a number, its unit where the pattern names it, and the rest.
struct Hit {
    number: String,
    unit: Option<String>,
    rest: String,
}

type Seek = Box<dyn Fn(&str) -> Option<Result<Hit, String>>>;

/// Returns what is sought, in words, and how.
fn seeker(find: &Find) -> Result<(String, Seek), String> {
    match find {
        Find::After(text) => {
            let wanted = text.clone();
            let seek = move |line: &str| after(line, &wanted);
            Ok((format!("`{text}`"), Box::new(seek)))
        }
        Find::Pattern(pattern) => {
            let regex = Regex::new(pattern).map_err(|_| format!("`{pattern}` is no pattern"))?;
            Ok((format!("a match of `{pattern}`"), Box::new(move |line| matched(&regex, line))))
        }
        Find::Pointer(_) | Find::Eyes => Err("there is nothing to look for".to_owned()),
    }
}

fn after(line: &str, wanted: &str) -> Option<Result<Hit, String>> {
    let (_, behind) = line.split_once(wanted)?;
    if behind.contains(wanted) {
        return Some(Err(format!("`{wanted}` stands there twice")));
    }
    let behind = behind.trim_start_matches([' ', '\t', ':', '=']);
    let Some((number, rest)) = leading(behind) else {
        return Some(Err(format!("no number follows `{wanted}`")));
    };
    // `812 900` may be one number or two; only a person can tell.
    let next = rest.strip_prefix(' ').and_then(leading).map(|(next, _)| next);
    if next.is_some_and(|next| next.split(['.', ',']).next().map(str::len) == Some(3)) {
        let (next, help) = (next.unwrap_or_default(), "use a pattern");
        return Some(Err(format!("`{number} {next}` may be one number or two: {help}")));
    }
    Some(Ok(Hit { number: number.to_owned(), unit: None, rest: rest.to_owned() }))
}

fn matched(regex: &Regex, line: &str) -> Option<Result<Hit, String>> {
    let mut all = regex.captures_iter(line);
    let caught = all.next()?;
    if all.next().is_some() {
        return Some(Err("it matches there twice".to_owned()));
    }
    let Some(number) = caught.name("value").or_else(|| caught.get(1)) else {
        return Some(Err("the part that is the number matched nothing".to_owned()));
    };
    let unit = caught.name("unit").map(|unit| unit.as_str().to_owned());
    let rest = line[number.end()..].to_owned();
    Some(Ok(Hit { number: number.as_str().to_owned(), unit, rest }))
}

/// Returns the number that `pointer` leads to in `json`.
///
/// Source: RFC 6901, <https://www.rfc-editor.org/rfc/rfc6901>.
pub(super) fn at_pointer(
    json: &Result<Vec<u8>, String>,
    pointer: &str,
    place: &str,
    rule: &ReadingRule,
) -> Result<Read, String> {
    let bytes = json.as_ref().map_err(|why| format!("{place}: {why}"))?;
    let document: serde_json::Value =
        serde_json::from_slice(bytes).map_err(|err| format!("{place} is not JSON: {err}"))?;
    match document.pointer(pointer) {
        None => Err(format!("`{pointer}` leads nowhere in {place}")),
        Some(serde_json::Value::Number(number)) => {
            let text = number.to_string();
            let plain =
                ReadingRule { decimals: honest_lap_core::unit::Decimals::Point, ..rule.clone() };
            // JSON prints as many digits as it likes: they say nothing of how well it is known.
            read(&text, None, &plain).map(|read| Read { step: None, ..read })
        }
        Some(serde_json::Value::String(text)) => {
            let (number, rest) = leading(text.trim())
                .ok_or_else(|| format!("`{pointer}` in {place} is the text {}", quoted(text)))?;
            read(number, unit_behind(rest, &rule.unit), rule)
        }
        Some(other) => {
            Err(format!("`{pointer}` in {place} is no number: {}", quoted(&other.to_string())))
        }
    }
}

fn quoted(line: &str) -> String {
    let plain = honest_lap_core::record::plain_line(line.trim());
    let short: String = plain.chars().take(QUOTED).collect();
    let more = if plain.chars().count() > QUOTED { "…" } else { "" };
    format!("`{short}{more}`")
}
