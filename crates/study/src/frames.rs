//! `frames` and `refresh`: where a workload's frame times are, and the display they are held against.

use crate::section::Section;
use crate::workload::Places;
use honest_lap_core::frame::Display;
use honest_lap_core::workload::{FrameLog, Kind, Source};
use toml::Spanned;

const KEYS: [&str; 8] =
    ["file", "output", "errors", "column", "unit", "as", "processor", "graphics"];
const UNITS: [&str; 5] = ["s", "ms", "us", "µs", "ns"];
const READINGS: [&str; 2] = ["durations", "moments"];
/// Displays that there are, with room on both sides.
const HZ: std::ops::RangeInclusive<f64> = 5.0..=2_000.0;

const EXAMPLE: &str = "say where its frame times are: frames = { file = \"{lap_dir}/frames.csv\" }, or \
                       frames = { output = true } where it prints one line a frame";

/// Reads `frames`.
pub(crate) fn frames(
    section: &Section,
    places: &mut Places,
    kind: Option<Kind>,
) -> Option<FrameLog> {
    let Some(value) = section.get("frames") else {
        if kind == Some(Kind::Frames) && section.get("command").is_some() {
            section.mistakes.add(
                section.span.clone(),
                format!("{} yields no frames", section.what),
                EXAMPLE,
            );
        }
        return None;
    };
    if kind.is_some_and(|kind| kind != Kind::Frames) {
        let remedy = "write kind = \"frames\", or take `frames` away";
        section.mistakes.add(value.span(), "only a workload of kind `frames` has frames", remedy);
    }
    if section.get("command").is_none() {
        let remedy = "take it away: `lap import` is told how a log is read";
        section.mistakes.add(value.span(), "what people do writes no log by itself", remedy);
    }
    let what = format!("`frames` of {}", section.what);
    let inner = Section::open(section.mistakes, what, value, &KEYS)?;
    let source = source(&inner, places);
    let one_of = |key: &'static str, known: &[&str]| -> Option<String> {
        let text = inner.text(key)?;
        if !known.contains(&text) {
            let span = inner.get(key).map_or(0..0, Spanned::span);
            let remedy = format!("write one of: {}", known.join(", "));
            inner.mistakes.add(span, format!("`{key}` cannot be `{text}`"), remedy);
        }
        Some(text.to_owned())
    };
    let (unit, reading) = (one_of("unit", &UNITS), one_of("as", &READINGS));
    let column = |key| inner.text(key).map(str::to_owned);
    Some(FrameLog {
        source: source?,
        column: column("column"),
        unit,
        reading,
        processor: column("processor"),
        graphics: column("graphics"),
    })
}

fn source(inner: &Section, places: &mut Places) -> Option<Source> {
    let flag = |key: &str| inner.flag(key).filter(|&flag| flag);
    let file = places.keep(inner.template("file")).map(Source::File);
    let all =
        [file, flag("output").map(|_| Source::Output), flag("errors").map(|_| Source::Errors)];
    let mut named = all.into_iter().flatten();
    let first = named.next();
    if first.is_none() || named.next().is_some() {
        let problem = format!("{} names no place, or more than one", inner.what);
        inner.mistakes.add(inner.span.clone(), problem, EXAMPLE);
    }
    first
}

/// Reads `refresh`: `60 Hz`.
pub(crate) fn display(section: &Section, kind: Option<Kind>) -> Option<Display> {
    let text = section.text("refresh")?;
    let span = section.get("refresh").map_or(0..0, Spanned::span);
    let number = text.trim().strip_suffix("Hz").map(str::trim_end);
    let hz = number.and_then(|number| number.parse().ok()).filter(|hz| HZ.contains(hz));
    if hz.is_none() {
        let remedy = "write the rate of the display: refresh = \"60 Hz\"";
        section.mistakes.add(span.clone(), format!("`{text}` is no display's rate"), remedy);
    }
    if kind.is_some_and(|kind| kind != Kind::Frames) {
        let remedy = "take it away: it is what frames are held against";
        section.mistakes.add(span, "only a workload of kind `frames` has a refresh", remedy);
    }
    hz.map(|hz| Display { hz })
}
