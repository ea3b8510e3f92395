//! `frames`, `refresh` and `plays_at`: where a workload's frame times are, and what they are held
//! against.

use crate::keys::{FRAMES, PRESENTED};
use crate::places::Places;
use crate::section::{Section, Value, number};
use honest_lap_core::record::{
    Choice, Display, Ends, FrameLog, FrameSource, KindName, Presented, Source,
};
use honest_lap_core::unit::{Dimension, Nanos, Unit, parse_span};
use toml::Spanned;

/// Units that logs of frames may be in, as a remedy tells them.
const UNITS: [&str; 4] = ["s", "ms", "us", "ns"];
const READINGS: [&str; 2] = ["durations", "moments"];
/// Displays and sources that there are, with room on both sides.
const HZ: std::ops::RangeInclusive<f64> = 5.0..=2_000.0;

const EXAMPLE: &str = "say where its frame times are: frames = \"presented\" has the tool note every frame that the \
                       program shows; frames = { file = \"{lap_dir}/frames.csv\" } reads what it writes down";

/// Reads `frames`.
pub(crate) fn frames(
    section: &Section,
    places: &mut Places,
    kind: Option<KindName>,
) -> Option<FrameSource> {
    let Some(value) = section.get("frames") else {
        if kind == Some(KindName::Frames) && section.get("command").is_some() {
            section.mistakes.add(
                section.span.clone(),
                format!("{} yields no frames", section.what),
                EXAMPLE,
            );
        }
        return None;
    };
    if kind.is_some_and(|kind| !kind.may_draw()) {
        let remedy = "write kind = \"frames\", or take `frames` away";
        let problem = "only workloads of kinds `frames`, `capacity` and `endurance` have frames";
        section.mistakes.add(value.span(), problem, remedy);
    }
    if section.get("command").is_none() {
        let remedy = "take it away: `lap import` is told how a log is read";
        section.mistakes.add(value.span(), "what people do writes no log by itself", remedy);
    }
    if let Some(word) = value.get_ref().as_str() {
        if word != "presented" {
            section.mistakes.add(value.span(), format!("`frames` cannot be `{word}`"), EXAMPLE);
        }
        return Some(FrameSource::Presented(Presented::default()));
    }
    let what = format!("`frames` of {}", section.what);
    let inner = Section::open(section.mistakes, what, value, &FRAMES)?;
    if let Some(value) = inner.get("presented") {
        let others = || FRAMES.names().filter(|key| *key != "presented");
        if let Some(key) = others().find(|key| inner.get(key).is_some()) {
            let remedy = "what is presented is in no log: keep one of them";
            inner.mistakes.add(value.span(), format!("`presented` stands beside `{key}`"), remedy);
        }
        return presented(&inner, value).map(FrameSource::Presented);
    }
    let source = source(&inner, places);
    let one_of = |key: &'static str, known: &[&str], is: &dyn Fn(&str) -> bool| -> Option<String> {
        let text = inner.text(key)?;
        if !is(text) {
            let span = inner.get(key).map_or(0..0, Spanned::span);
            let remedy = format!("write one of: {}", known.join(", "));
            inner.mistakes.add(span, format!("`{key}` cannot be `{text}`"), remedy);
        }
        Some(text.to_owned())
    };
    let unit = one_of("unit", &UNITS, &is_frame_unit);
    let reading = one_of("as", &READINGS, &|word| READINGS.contains(&word));
    let column = |key| inner.text(key).map(str::to_owned);
    Some(FrameSource::Log(FrameLog {
        source: source?,
        column: column("column"),
        unit,
        reading,
        processor: column("processor"),
        graphics: column("graphics"),
    }))
}

/// Returns whether `word` is a unit of time that frames may be told in, however it is spelled.
fn is_frame_unit(word: &str) -> bool {
    Unit::of(word)
        .is_some_and(|unit| unit.dimension == Dimension::Time && unit.scale <= Nanos::PER_SECOND)
}

/// Reads `presented`: which window, and when the pass is over.
fn presented(section: &Section, value: &Value<'_>) -> Option<Presented> {
    if let Some(flag) = value.get_ref().as_bool() {
        if !flag {
            section.mistakes.add(value.span(), "`presented` is false", EXAMPLE);
        }
        return Some(Presented::default());
    }
    let inner = Section::open(section.mistakes, "`presented`", value, &PRESENTED)?;
    let frames = inner.whole("frames", 1..=100_000_000).map(u64::from);
    let time = inner.quantity("for", parse_span);
    if frames.is_some() && time.is_some() {
        let remedy = "keep one: frames = 600, or for = \"30s\"";
        inner.mistakes.add(
            value.span(),
            "a pass ends twice: after `frames` and after `for`",
            remedy,
        );
    }
    Some(Presented {
        choice: Choice {
            window: inner.whole("window", 1..=1_000),
            program: inner.text("program").map(str::to_owned),
        },
        ends: Ends { frames, time, by_mark: inner.flag("by_mark").unwrap_or(false) },
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
pub(crate) fn display(section: &Section, kind: Option<KindName>) -> Option<Display> {
    let text = section.text("refresh")?;
    let span = section.get("refresh").map_or(0..0, Spanned::span);
    let number = text.trim().strip_suffix("Hz").map(str::trim_end);
    let hz = number.and_then(|number| number.parse().ok()).filter(|hz| HZ.contains(hz));
    if hz.is_none() {
        let remedy = "write the rate of the display: refresh = \"60 Hz\"";
        section.mistakes.add(span.clone(), format!("`{text}` is no display's rate"), remedy);
    }
    if kind.is_some_and(|kind| !kind.may_draw()) {
        let remedy = "take it away: it is what frames are held against";
        section.mistakes.add(span, "only a workload that has frames has a refresh", remedy);
    }
    hz.map(|hz| Display { hz })
}

/// Reads `plays_at`: the frames a second of what is played.
pub(crate) fn plays_at(section: &Section, kind: Option<KindName>) -> Option<f64> {
    let value = section.get("plays_at")?;
    let rate = number(value).filter(|rate| HZ.contains(rate));
    if rate.is_none() {
        let remedy =
            "write the frames a second of what is played: plays_at = 24, plays_at = 23.976";
        section.mistakes.add(value.span(), "`plays_at` is no rate of a recording", remedy);
    }
    if kind.is_some_and(|kind| !kind.may_draw()) {
        let remedy = "take it away: it is what frames are held against";
        section.mistakes.add(
            value.span(),
            "only a workload that has frames plays at a rate",
            remedy,
        );
    }
    rate
}
