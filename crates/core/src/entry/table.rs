//! Readings made by hand: a table of texts in, checked laps out.

use crate::record::{Better, LapHead, Measure, Reading, SECONDS, Settings, Study, TIME, Workload};
use crate::stat::median;
use crate::unit::{Decimals, Nanos, parse_number, read_time, same_unit, seconds_in, written};

/// A lap that somebody read off.
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    /// The rig.
    pub rig: String,
    /// The workload.
    pub workload: String,
    /// The variant.
    pub settings: Settings,
    /// Its time and the step in which it was read, if that was.
    pub time: Option<(Nanos, Nanos)>,
    /// What else was read.
    pub readings: Vec<Reading>,
    /// The row of the table it stands in, from 1; the heading is not counted.
    pub row: usize,
}

/// What is wrong with a table, where, and what to do about it.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{place}: {problem}")]
pub struct EntryError {
    /// The row and column.
    pub place: String,
    /// What is wrong.
    pub problem: String,
    /// What to do.
    pub remedy: String,
}

fn wrong(place: String, problem: impl Into<String>, remedy: impl Into<String>) -> EntryError {
    EntryError { place, problem: problem.into(), remedy: remedy.into() }
}

/// What a table leaves out, because it is the same for every row.
#[derive(Clone, Debug, Default)]
pub struct Common {
    /// The rig.
    pub rig: Option<String>,
    /// The workload.
    pub workload: Option<String>,
    /// Settings.
    pub settings: Vec<(String, String)>,
}

/// Returns the laps in `rows`, whose cells stand under `headings`.
///
/// A heading is `rig`, `workload`, a varied setting's name, `time`, or a measure's name, each with
/// its unit behind it if one likes: `time [s]`, `score [points]`.
pub fn entries(
    study: &Study,
    headings: &[String],
    rows: &[Vec<String>],
    common: &Common,
) -> Result<Vec<Entry>, EntryError> {
    let headings: Vec<Heading> = headings.iter().map(|text| Heading::of(text)).collect();
    let mut entries = Vec::new();
    for (row, number) in rows.iter().zip(1..) {
        if row.iter().all(|cell| cell.trim().is_empty()) {
            continue;
        }
        if row.len() != headings.len() {
            return Err(wrong(
                format!("row {number}"),
                format!("{} cells stand under {} headings", row.len(), headings.len()),
                "give every row a cell for every heading; an empty one is nothing read",
            ));
        }
        entries.push(entry(study, &headings, row, number, common)?);
    }
    match entries.is_empty() {
        true => Err(wrong("the table".into(), "it has no rows", "put a row below the headings")),
        false => Ok(entries),
    }
}

struct Heading {
    name: String,
    unit: Option<String>,
}

impl Heading {
    fn of(text: &str) -> Self {
        let text = text.trim();
        let (name, unit) = match text.split_once(['[', '(']) {
            Some((name, unit)) => (name, Some(unit.trim_end_matches([']', ')']).trim().to_owned())),
            None => (text, None),
        };
        Self { name: name.trim().to_owned(), unit }
    }
}

fn entry(
    study: &Study,
    headings: &[Heading],
    row: &[String],
    number: usize,
    common: &Common,
) -> Result<Entry, EntryError> {
    let at = |name: &str| format!("row {number}, `{name}`");
    let cell = |name: &str| {
        let place = headings.iter().position(|heading| heading.name == name)?;
        Some(row[place].trim()).filter(|text| !text.is_empty())
    };
    let workload = cell("workload").or(common.workload.as_deref());
    let names: Vec<&str> = study.workloads.iter().map(|w| w.name.as_str()).collect();
    let remedy = format!("the study has: {}", names.join(", "));
    let Some(name) = workload else {
        return Err(wrong(at("workload"), "no workload is named", remedy));
    };
    let Some(workload) = study.workload(name) else {
        return Err(wrong(at("workload"), format!("the study has no workload `{name}`"), remedy));
    };
    let Some(rig) = cell("rig").or(common.rig.as_deref()) else {
        let remedy = "name it in a column `rig`, or with --rig";
        return Err(wrong(at("rig"), "no rig is named", remedy));
    };
    let settings = settings(workload, headings, &cell, common, &at)?;
    let (mut time, mut readings) = (None, Vec::new());
    for (heading, text) in headings.iter().zip(row) {
        let (name, text) = (heading.name.as_str(), text.trim());
        let is_setting = workload.vary.iter().any(|(key, _)| key == name);
        if name == "rig" || name == "workload" || is_setting || text.is_empty() {
            continue;
        }
        let measures = measures(workload);
        let Some(measure) = measures.iter().find(|measure| measure.name == name) else {
            let known: Vec<&str> = measures.iter().map(|m| m.name.as_str()).collect();
            let remedy = format!("{} yields: {}", workload.name, known.join(", "));
            return Err(wrong(at(name), format!("`{name}` is nothing that is read of it"), remedy));
        };
        let read = value(text, heading.unit.as_deref(), measure)
            .map_err(|(problem, remedy)| wrong(at(name), problem, remedy))?;
        if name == TIME {
            time = Some((nanos(read.0), nanos(read.1)));
        } else {
            readings.push(Reading {
                name: name.to_owned(),
                unit: measure.unit.clone(),
                better: measure.better,
                value: Some(read.0),
                step: Some(read.1),
                seen: text.to_owned(),
                reports_time: false,
            });
        }
    }
    if time.is_none() && readings.is_empty() {
        let remedy = "put a value under `time` or a measure's name";
        return Err(wrong(format!("row {number}"), "nothing was read", remedy));
    }
    let (rig, workload) = (rig.to_owned(), workload.name.clone());
    Ok(Entry { rig, workload, settings, time, readings, row: number })
}

fn nanos(seconds: f64) -> Nanos {
    Nanos((seconds * 1e9).round() as u64)
}

/// Returns what may be read of a workload: its time too, whatever its kind.
fn measures(workload: &Workload) -> Vec<Measure> {
    let mut all = workload.task.measures();
    if !all.iter().any(|measure| measure.name == TIME) {
        all.insert(0, Measure::time());
    }
    all
}

fn settings<'a>(
    workload: &Workload,
    headings: &[Heading],
    cell: &impl Fn(&str) -> Option<&'a str>,
    common: &Common,
    at: &impl Fn(&str) -> String,
) -> Result<Settings, EntryError> {
    let mut pairs = Vec::new();
    for (name, values) in &workload.vary {
        let given = common.settings.iter().find(|(key, _)| key == name).map(|(_, v)| v.as_str());
        let value = match (cell(name).or(given), values.as_slice()) {
            (Some(value), _) => value.to_owned(),
            (None, [only]) => only.clone(),
            (None, _) => {
                let remedy = format!(
                    "say which in a column `{name}`, or --with {name}=…: {}",
                    values.join(", ")
                );
                return Err(wrong(at(name), format!("`{name}` is varied, and not given"), remedy));
            }
        };
        if !values.contains(&value) {
            let remedy = format!("the study varies it over: {}", values.join(", "));
            return Err(wrong(at(name), format!("`{value}` is no value of `{name}`"), remedy));
        }
        pairs.push((name.clone(), value));
    }
    let unknown =
        common.settings.iter().find(|(key, _)| !workload.vary.iter().any(|(n, _)| n == key));
    if let (Some((name, _)), false) = (unknown, headings.is_empty()) {
        let remedy = "leave it out, or vary it in the study";
        return Err(wrong(at(name), format!("{} does not vary `{name}`", workload.name), remedy));
    }
    Ok(Settings::new(pairs))
}

/// Returns the value of `text` in the measure's own unit and its step; or the problem and remedy.
fn value(
    text: &str,
    unit: Option<&str>,
    measure: &Measure,
) -> Result<(f64, f64), (String, String)> {
    const HOW: &str = "write it as it stands there: 5:41, 0:52.4, 3h20m, 341.2 s";
    if measure.unit == SECONDS {
        let bare = !text.contains(|c: char| c.is_alphabetic() || c == ':' || c == 'µ');
        let text = match (bare, unit) {
            (true, Some(unit)) if seconds_in(unit).is_some() => format!("{text} {unit}"),
            _ => text.to_owned(),
        };
        let (span, step) = read_time(&text).map_err(|err| (err.problem, HOW.to_owned()))?;
        if span == Nanos(0) {
            return Err((format!("`{text}` is no time at all"), HOW.to_owned()));
        }
        return Ok((span.seconds(), step.seconds()));
    }
    const PLAIN: &str = "write it with decimals only: 1234.5";
    let none = || (format!("`{text}` is not a number"), PLAIN.to_owned());
    let found = written(text.trim(), &measure.unit).ok_or_else(none)?;
    let found = found.map_err(|err| (err.problem, PLAIN.to_owned()))?;
    // What stands behind a number in a cell is its unit, or the cell is no number.
    let behind = found.rest.trim();
    let seen = found.unit.or((!behind.is_empty()).then_some(behind)).or(unit);
    if let Some(seen) = seen.filter(|seen| !same_unit(seen, &measure.unit)) {
        let declared = if measure.unit.is_empty() { "no unit" } else { &measure.unit };
        let remedy = format!("the study reads {} in {declared}", measure.name);
        return Err((format!("`{text}` is in `{seen}`"), remedy));
    }
    if !behind.is_empty() && found.unit.is_some() {
        return Err(none());
    }
    let read = parse_number(found.number, Decimals::Shown)
        .map_err(|err| (err.problem, PLAIN.to_owned()))?;
    Ok((read.value, read.step))
}

/// A value so far off its neighbours that a digit may have slipped.
#[derive(Clone, Debug, PartialEq)]
pub struct Slip {
    /// The row it stands in.
    pub row: usize,
    /// The measure.
    pub measure: String,
    /// What was read.
    pub value: f64,
    /// What its neighbours lie about.
    pub usual: f64,
    /// The unit of both.
    pub unit: String,
}

/// A value this many times its neighbours is questioned: ten is a slipped digit, and laps differ.
const SLIPPED: f64 = 8.0;

/// Returns the values of `entries` that lie far off their neighbours: counted laps of the same cell
/// in `laps`, of the same variant on any rig where there are none, and each other.
pub fn slips(entries: &[Entry], laps: &[LapHead]) -> Vec<Slip> {
    let mut found = Vec::new();
    for entry in entries {
        let time = entry.time.map(|(time, _)| (TIME, SECONDS, Better::Less, time.seconds()));
        let read = entry.readings.iter().filter_map(|reading| {
            Some((reading.name.as_str(), reading.unit.as_str(), reading.better, reading.value?))
        });
        for (measure, unit, _, value) in time.into_iter().chain(read) {
            let usual = neighbours(entry, measure, entries, laps);
            if let Some(usual) = usual.filter(|usual| off(value, *usual)) {
                let (measure, unit) = (measure.to_owned(), unit.to_owned());
                found.push(Slip { row: entry.row, measure, value, usual, unit });
            }
        }
    }
    found
}

fn off(value: f64, usual: f64) -> bool {
    let ratio = value / usual;
    !(1.0 / SLIPPED..=SLIPPED).contains(&ratio)
}

/// Returns the median of a value's neighbours, its own cell's before others'.
fn neighbours(entry: &Entry, measure: &str, entries: &[Entry], laps: &[LapHead]) -> Option<f64> {
    let same = |lap: &&LapHead| lap.workload == entry.workload && lap.settings == entry.settings;
    let of = |here: bool| -> Vec<f64> {
        let laps =
            laps.iter().filter(same).filter(|lap| !here || lap.name.session.rig == entry.rig);
        laps.filter_map(|lap| lap.value(measure)).collect()
    };
    let typed = entries.iter().filter(|other| {
        other.row != entry.row
            && (&other.workload, &other.settings, &other.rig)
                == (&entry.workload, &entry.settings, &entry.rig)
    });
    let typed = typed.filter_map(|other| match measure {
        TIME => other.time.map(|(time, _)| time.seconds()),
        name => other.readings.iter().find(|reading| reading.name == name)?.value,
    });
    let mut known: Vec<f64> = of(true).into_iter().chain(typed).collect();
    if known.is_empty() {
        known = of(false);
    }
    known.sort_by(f64::total_cmp);
    median(&known).ok().filter(|usual| *usual != 0.0)
}

#[cfg(test)]
#[path = "table_tests.rs"]
pub(crate) mod tests;
