//! Outside meters: commands that print a number a line, such as a wall power meter's reader.
//!
//! Each runs under a starter of its own for the length of a session, so that it ends with the tool
//! however that ends. Its output is spooled with the moment of every line.

use crate::error::MeasureError;
use crate::fill::Values;
use crate::os::now;
use crate::place::Place;
use crate::spool::Tail;
use crate::starter::{self, Order, Spools};
use crate::stop::Stop;
use honest_lap_core::record::{Meter, Quantity, Samples, Settings, Trace, plain_line};
use honest_lap_core::unit::{Decimals, Nanos, Stamp, Unit, parse_number, same_unit, written};
use rustix::event::{EventfdFlags, eventfd};
use std::os::fd::OwnedFd;
use std::path::PathBuf;
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::thread::JoinHandle;
use std::time::Duration;

/// A session's limit is nobody's business here.
const FOR_EVER: Nanos = Nanos(u64::MAX / 2);
/// A value older than this says nothing of the present.
const STALE_NS: u64 = 15 * Nanos::PER_SECOND;
/// How long the first value of every meter is waited for: most print one a second.
const FIRST: Nanos = Nanos(4 * Nanos::PER_SECOND);
/// How often it is looked for then.
const LOOK: Duration = Duration::from_millis(50);

/// Why nothing is known of what a meter measures.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Silence {
    /// It has printed nothing.
    Nothing,
    /// It prints lines that tell no value in its unit; the last of them.
    NoValue(String),
    /// It has ended.
    Ended,
}

/// A meter from which nothing comes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SilentMeter {
    /// Its name.
    pub name: String,
    /// Its unit.
    pub unit: String,
    /// Why.
    pub why: Silence,
}

/// The meters of a session, running.
#[derive(Debug, Default)]
pub(crate) struct Meters {
    running: Vec<Running>,
}

#[derive(Debug)]
struct Running {
    name: String,
    unit: String,
    decimals: Decimals,
    spool: PathBuf,
    latest: Mutex<Latest>,
    stop: OwnedFd,
    thread: Mutex<Option<JoinHandle<()>>>,
}

#[derive(Debug)]
struct Latest {
    tail: Tail,
    value: Option<(f64, Stamp)>,
    /// The last line that told no value.
    unread: Option<String>,
    /// Whether its silence has been told.
    told: bool,
}

impl Meters {
    /// Starts `meters`; each is read from as soon as it prints.
    pub(crate) fn start(meters: &[Meter], place: &Place, mark: &str) -> Result<Self, MeasureError> {
        let mut running = Vec::new();
        for (number, meter) in meters.iter().enumerate() {
            running.push(start(meter, number, place, mark)?);
        }
        Ok(Self { running })
    }

    /// Returns an empty trace for every meter.
    pub(crate) fn traces(&self) -> Vec<Trace> {
        let trace = |meter: &Running| Trace {
            quantity: Quantity::Meter,
            which: meter.name.clone(),
            unit: meter.unit.clone(),
            values: Samples::default(),
        };
        self.running.iter().map(trace).collect()
    }

    /// Waits until every meter has told a value, for some seconds at most and no longer than `stop` allows.
    pub(crate) fn await_first(&self, stop: &Stop) {
        let begun = now();
        let waits = |meter: &Running| {
            let ended = meter.has_ended();
            let mut latest = meter.latest();
            latest.take(meter);
            latest.value.is_none() && !ended
        };
        while self.running.iter().any(waits)
            && now().since(begun).is_some_and(|waited| waited < FIRST)
            && !stop.requested()
        {
            std::thread::sleep(LOOK);
        }
    }

    /// Returns the meters from which nothing comes, each once.
    pub(crate) fn newly_silent(&self) -> Vec<SilentMeter> {
        let silent = |meter: &Running| {
            let ended = meter.has_ended();
            let mut latest = meter.latest();
            latest.take(meter);
            let current = latest.value.is_some_and(|(_, seen)| is_current(seen, now()));
            if latest.told || (current && !ended) {
                return None;
            }
            latest.told = true;
            let why = match (&latest.unread, ended) {
                (_, true) => Silence::Ended,
                (Some(line), false) => Silence::NoValue(line.clone()),
                (None, false) => Silence::Nothing,
            };
            Some(SilentMeter { name: meter.name.clone(), unit: meter.unit.clone(), why })
        };
        self.running.iter().filter_map(silent).collect()
    }

    /// Puts the mean of what each meter printed since `before` into `out`; its last value where it
    /// printed nothing since.
    pub(crate) fn read(&self, before: Stamp, out: &mut Vec<Option<f64>>) {
        for meter in &self.running {
            let mut latest = meter.latest();
            let at = now();
            let fresh = latest.take(meter);
            let current = latest.value.filter(|(_, seen)| is_current(*seen, at));
            // One that has ended tells nothing any more: its last value is of then.
            let held = current.filter(|_| !(fresh.is_empty() && meter.has_ended()));
            let mean = fresh.iter().sum::<f64>() / fresh.len() as f64;
            // Before the first sample of a lap only the last value is of it.
            let several = fresh.len() > 1 && before < at;
            out.push(if several { Some(mean) } else { held.map(|(value, _)| value) });
        }
    }
}

/// Returns whether a value that was seen then still says something.
fn is_current(seen: Stamp, at: Stamp) -> bool {
    at.0.saturating_sub(seen.0) < STALE_NS
}

impl Latest {
    /// Reads what `meter` has printed since the last look, and returns the values in it.
    fn take(&mut self, meter: &Running) -> Vec<f64> {
        let mut fresh = Vec::new();
        for line in self.tail.lines() {
            let line = plain_line(&line).to_string();
            match told(&line, &meter.unit, meter.decimals) {
                Some(value) => {
                    fresh.push(value);
                    self.value = Some((value, now()));
                    self.unread = None;
                }
                None => self.unread = Some(line),
            }
        }
        fresh
    }
}

impl Running {
    fn latest(&self) -> MutexGuard<'_, Latest> {
        // A panic elsewhere leaves the latest value as it was.
        self.latest.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn has_ended(&self) -> bool {
        let thread = self.thread.lock().unwrap_or_else(PoisonError::into_inner);
        thread.as_ref().is_none_or(JoinHandle::is_finished)
    }
}

impl Drop for Meters {
    fn drop(&mut self) {
        for meter in &self.running {
            let _ = rustix::io::write(&meter.stop, &1u64.to_ne_bytes());
        }
        for meter in &self.running {
            let thread = meter.thread.lock().unwrap_or_else(PoisonError::into_inner).take();
            let _ = thread.map(JoinHandle::join);
            let _ = std::fs::remove_file(&meter.spool);
        }
    }
}

/// Returns what a meter's line tells in its declared unit: `81.5`, `81.5 W`, `watts: 81.5`, `12:04:33 0.0815 kW`. A line
/// with several numbers tells the one that has the unit.
fn told(line: &str, declared: &str, decimals: Decimals) -> Option<f64> {
    let mut with_unit = Vec::new();
    let mut without = Vec::new();
    let mut before: Option<&str> = None;
    for (at, word) in words(line) {
        match written(&line[at..], declared).and_then(Result::ok) {
            None => before = Some(word.trim_end_matches([':', '='])),
            Some(found) => {
                let number = parse_number(found.number, decimals).ok().map(|number| number.value);
                let unit = found.unit.or(before.take());
                let scale = unit.and_then(|unit| in_declared(unit, declared));
                with_unit.extend(number.zip(scale).map(|(number, scale)| number * scale));
                // Of another unit it is another quantity.
                let bare = found.unit.is_none() && number.is_some();
                without.extend(number.filter(|_| bare));
            }
        }
    }
    match (with_unit.as_slice(), without.as_slice()) {
        ([one], _) | ([], [one]) => Some(*one),
        _ => None,
    }
}

/// Returns the words of a line and where they begin.
fn words(line: &str) -> impl Iterator<Item = (usize, &str)> {
    line.split_whitespace().map(|word| (word.as_ptr() as usize - line.as_ptr() as usize, word))
}

/// Returns how many of the declared unit one of `unit` is, where it is that or measures the same.
fn in_declared(unit: &str, declared: &str) -> Option<f64> {
    if same_unit(unit, declared) {
        return Some(1.0);
    }
    Unit::of(unit)?.in_units_of(Unit::of(declared)?)
}

fn start(meter: &Meter, number: usize, place: &Place, mark: &str) -> Result<Running, MeasureError> {
    let starter = |source| MeasureError::Starter { source };
    let settings = Settings::default();
    let values = Values::of(place, &settings);
    let command =
        values.command(&meter.command).map_err(|err| starter(std::io::Error::other(err)))?;
    let spool = place.spool(&format!("meter-{number}"))?;
    let order = Order {
        command,
        folder: place.study().to_owned(),
        environment: Vec::new(),
        stdin: None,
        limit: FOR_EVER,
        spools: Spools { stdout: Some(spool.clone()), ..Spools::default() },
        noted: None,
        terminal: false,
        watched: false,
    };
    let stop = eventfd(0, EventfdFlags::CLOEXEC).map_err(|err| starter(err.into()))?;
    let until = Stop::new(stop.try_clone().map_err(starter)?);
    let mark = mark.to_owned();
    let thread = std::thread::Builder::new().name("lap-meter".into());
    let thread = thread.spawn(move || {
        // A meter that fails is one whose channel stays empty.
        let _ = starter::run(&order, &mark, &until);
    });
    let thread = thread.map_err(starter)?;
    let spool = PathBuf::from(spool);
    let latest = Latest { tail: Tail::of(&spool), value: None, unread: None, told: false };
    Ok(Running {
        name: meter.name.clone(),
        unit: meter.unit.clone(),
        decimals: meter.decimals,
        spool,
        latest: Mutex::new(latest),
        stop,
        thread: Mutex::new(Some(thread)),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_of_a_meter_tells_one_value_in_the_declared_unit() {
        for (line, declared, value) in [
            ("81.5", "W", Some(81.5)),
            ("81.5 W", "W", Some(81.5)),
            ("watts: 81.5", "W", Some(81.5)),
            ("0.0815 kW", "W", Some(81.5)),
            ("81500 mW", "W", Some(81.5)),
            ("2026-11-30 12:04:33 81.5 W", "W", Some(81.5)),
            ("230.1 V 0.35 A 81.5 W", "W", Some(81.5)),
            ("1 Wh", "J", Some(3_600.0)),
            ("8.15e1", "W", Some(81.5)),
            ("230.1 81.5", "W", None),
            ("81.5 J", "W", None),
            ("81.5x", "W", None),
            ("off", "W", None),
            ("-0", "", Some(0.0)),
        ] {
            let found = told(line, declared, Decimals::Shown);
            let near = match (found, value) {
                (Some(found), Some(value)) => (found - value).abs() < 1e-9,
                (found, value) => found == value,
            };
            assert!(near, "{line}: {found:?}");
        }
    }
}
