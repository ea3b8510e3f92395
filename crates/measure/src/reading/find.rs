//! Finding the one place where a number stands.

use super::budget::Budgeted;
use super::number::{Read, read};
use crate::spool::Line;
use honest_lap_core::record::{Find, ReadingRule};
use honest_lap_core::unit::{is_cut_out, unit_before, unit_behind, written};
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
    let (what, seek) = seeker(find, &rule.unit)?;
    let mut found = lines.iter().filter_map(|line| match seek(&line.text) {
        Ok(hit) => hit.map(|hit| Ok((hit, &line.text))),
        Err(why) => Some(Err(why)),
    });
    let Some((hit, line)) = found.next().transpose()? else {
        return Err(format!("no line of {place} has {what}"));
    };
    if let Some((_, second)) = found.next().transpose()? {
        let (first, second) = (quoted(line), quoted(second));
        return Err(format!("{what} is in {place} twice: {first} and {second}"));
    }
    let hit = hit.map_err(|why| format!("{why}, in {}", quoted(line)))?;
    read(&hit.number, hit.unit.as_deref(), rule)
        .map_err(|why| format!("{why}, in {}", quoted(line)))
}

/// What was found in a line: a number, and its unit.
struct Hit {
    number: String,
    unit: Option<String>,
}

/// What looks at a line: an error where looking takes too long.
type Seek = Box<dyn Fn(&str) -> Result<Option<Result<Hit, String>>, String>>;

/// Returns what is sought, in words, and how.
fn seeker(find: &Find, declared: &str) -> Result<(String, Seek), String> {
    match find {
        Find::After(text) => {
            let (wanted, declared) = (text.clone(), declared.to_owned());
            let seek = move |line: &str| Ok(after(line, &wanted, &declared));
            Ok((format!("`{text}`"), Box::new(seek)))
        }
        Find::Pattern(pattern) => {
            let pattern_of = Budgeted::new(pattern)?;
            let declared = declared.to_owned();
            let seek = move |line: &str| {
                pattern_of.check()?;
                Ok(matched(pattern_of.regex(), line, &declared))
            };
            Ok((format!("a match of `{pattern}`"), Box::new(seek)))
        }
        Find::Pointer(_) | Find::Eyes => Err("there is nothing to look for".to_owned()),
    }
}

fn after(line: &str, wanted: &str, declared: &str) -> Option<Result<Hit, String>> {
    let (_, behind) = line.split_once(wanted)?;
    if behind.contains(wanted) {
        return Some(Err(format!("`{wanted}` stands there twice")));
    }
    let behind = behind.trim_start_matches([' ', '\t', ':', '=']);
    let (before, behind) = match unit_before(behind, declared) {
        Some((unit, behind)) => (Some(unit), behind),
        None => (None, behind),
    };
    let found = match written(behind, declared) {
        None => return Some(Err(format!("no number follows `{wanted}`"))),
        Some(Err(err)) => return Some(Err(err.problem)),
        Some(Ok(found)) => found,
    };
    // `812 900` may be one number or two; only a person can tell.
    let number = found.number;
    let next = found.rest.strip_prefix(' ').filter(|_| found.unit.is_none());
    let next = next.and_then(|next| written(next, declared)?.ok()).map(|next| next.number);
    if next.is_some_and(|next| next.split(['.', ',']).next().map(str::len) == Some(3)) {
        let (next, help) = (next.unwrap_or_default(), "use a pattern");
        return Some(Err(format!("`{number} {next}` may be one number or two: {help}")));
    }
    let unit = found.unit.or(before).map(str::to_owned);
    Some(Ok(Hit { number: number.to_owned(), unit }))
}

fn matched(regex: &Regex, line: &str, declared: &str) -> Option<Result<Hit, String>> {
    let mut all = regex.captures_iter(line);
    let caught = all.next()?;
    if all.next().is_some() {
        return Some(Err("it matches there twice".to_owned()));
    }
    let Some(number) = caught.name("value").or_else(|| caught.get(1)) else {
        return Some(Err("the part that is the number matched nothing".to_owned()));
    };
    let (before, rest) = (&line[..number.start()], &line[number.end()..]);
    if is_cut_out(before, number.as_str(), rest) {
        return Some(Err(format!("`{}` is a part of a longer number", number.as_str())));
    }
    let unit = caught.name("unit").map(|unit| unit.as_str()).or(unit_behind(rest, declared));
    Some(Ok(Hit { number: number.as_str().to_owned(), unit: unit.map(str::to_owned) }))
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
            let other = || format!("`{pointer}` in {place} is the text {}", quoted(text));
            let found = written(text.trim(), &rule.unit).ok_or_else(other)?.map_err(|_| other())?;
            match found.rest.trim() {
                "" => read(found.number, found.unit, rule),
                _ => Err(other()),
            }
        }
        Some(other) => {
            Err(format!("`{pointer}` in {place} is no number: {}", quoted(&other.to_string())))
        }
    }
}

pub(super) fn quoted(line: &str) -> String {
    let plain = honest_lap_core::record::plain_line(line.trim());
    let short: String = plain.chars().take(QUOTED).collect();
    let more = if plain.chars().count() > QUOTED { "…" } else { "" };
    format!("`{short}{more}`")
}
