//! The measures of an endurance lap, in one table.

use super::LEAST;
use super::amounts::rate_unit;
use super::drain::Drain;
use super::endured::Endured;
use crate::record::{Better, EnduranceRule, Measure, Reading, SECONDS, Task};
use crate::unit::{Nanos, display_span};

/// The rate where it settles.
pub const RATE: &str = "settled rate";
/// The rate of the first minutes.
pub const FIRST: &str = "first rate";
/// The settled rate over the first one, in per cent.
pub const KEPT: &str = "rate kept";
/// How long it took to settle.
pub const SETTLED: &str = "settled after";
/// How much the settled rate varies, in per cent.
pub const STEADY: &str = "settled spread";
/// Charge of the battery that was used in an hour, in per cent of a full one.
pub const CHARGE: &str = "charge an hour";
/// Mean power that the battery gave.
pub const BATTERY_POWER: &str = "power from battery";
/// Hours that a full charge would last.
pub const HOURS: &str = "hours on battery";

/// The unit of a measure: one of its own, or that of the rates of its task.
enum Of {
    Itself(&'static str),
    Rates,
}

/// What a measure comes to for a lap: its value, or why there is none; nothing where the lap says nothing of it.
type Found = Option<(Option<f64>, String)>;

/// A measure of endurance laps, and how it is worked out.
struct OfLap {
    name: &'static str,
    unit: Of,
    better: Better,
    /// Whether laps are compared by it unless others are asked for.
    headline: bool,
    /// Whether laps of this rule are about it.
    asked: fn(&EnduranceRule) -> bool,
    found: fn(&Endured) -> Found,
}

const fn headline(
    name: &'static str,
    unit: Of,
    asked: fn(&EnduranceRule) -> bool,
    found: fn(&Endured) -> Found,
) -> OfLap {
    OfLap { name, unit, better: Better::More, headline: true, asked, found }
}

const fn minor(
    name: &'static str,
    unit: Of,
    better: Better,
    asked: fn(&EnduranceRule) -> bool,
    found: fn(&Endured) -> Found,
) -> OfLap {
    OfLap { name, unit, better, headline: false, asked, found }
}

/// Every measure, in the order in which they are shown.
const ALL: [OfLap; 8] = [
    headline(RATE, Of::Rates, works, settled_rate),
    minor(FIRST, Of::Rates, Better::More, works, |lap| known(lap.course.as_ref()?.first)),
    headline(KEPT, Of::Itself("%"), works, |lap| {
        let course = lap.course.as_ref()?;
        known(100.0 * course.settled / course.first)
    }),
    minor(SETTLED, Of::Itself(SECONDS), Better::Less, works, |lap| {
        let course = lap.course.as_ref()?;
        course.changed.and_then(|_| known(course.since))
    }),
    minor(STEADY, Of::Itself("%"), Better::Less, works, |lap| {
        known(100.0 * lap.course.as_ref()?.spread)
    }),
    headline(HOURS, Of::Itself("h"), drains, |lap| {
        of_battery(lap, |drain| {
            let (full, ends) = drain.hours();
            (full, format!("{:.2} to {:.2} h of a full charge", ends.low, ends.high))
        })
    }),
    minor(CHARGE, Of::Itself("%/h"), Better::Less, drains, |lap| {
        of_battery(lap, |drain| {
            (100.0 * drain.an_hour, format!("{:.1} % used", 100.0 * drain.used))
        })
    }),
    minor(BATTERY_POWER, Of::Itself("W"), Better::Less, drains, |lap| known(lap.battery_w?)),
];

fn works(rule: &EnduranceRule) -> bool {
    !rule.idle
}

fn drains(rule: &EnduranceRule) -> bool {
    rule.on_battery
}

impl OfLap {
    /// Returns the measure, where rates are in `rate`.
    fn measure(&self, rate: &str) -> Measure {
        let unit = match self.unit {
            Of::Itself(unit) => unit,
            Of::Rates => rate,
        };
        Measure { name: self.name.to_owned(), unit: unit.to_owned(), better: self.better }
    }
}

/// Returns whether `name` is a measure of endurance laps.
pub fn is_measure(name: &str) -> bool {
    ALL.iter().any(|known| known.name == name)
}

/// Returns whether `name` is a measure of endurance laps that is compared only where it is asked for.
pub fn is_minor(name: &str) -> bool {
    ALL.iter().any(|known| known.name == name && !known.headline)
}

/// Returns the measures by which endurance laps of `task` are compared unless others are asked for.
pub fn measures(task: &Task, rule: &EnduranceRule) -> Vec<Measure> {
    let rate = rate_unit(task);
    let compared = ALL.iter().filter(|measure| measure.headline && (measure.asked)(rule));
    compared.map(|measure| measure.measure(&rate)).collect()
}

impl Endured {
    /// Returns what the lap yields.
    pub fn readings(&self) -> Vec<Reading> {
        let reading = |of: &OfLap| {
            let (value, seen) = (of.found)(self)?;
            let Measure { name, unit, better } = of.measure(&self.unit);
            Some(Reading { name, unit, better, value, step: None, seen, reports_time: false })
        };
        ALL.iter().filter(|of| (of.asked)(&self.rule)).filter_map(reading).collect()
    }
}

fn known(value: f64) -> Found {
    Some((Some(value), String::new()))
}

fn settled_rate(lap: &Endured) -> Found {
    let few = || {
        let values = lap.stretches;
        format!("refused: {values} values of a rate, and {LEAST} are needed; let it last longer")
    };
    Some(match &lap.course {
        Some(course) => (Some(course.settled), said(lap)),
        None => (None, few()),
    })
}

fn of_battery(lap: &Endured, told: impl FnOnce(&Drain) -> (f64, String)) -> Found {
    Some(match lap.drain.as_ref()? {
        Ok(drain) => {
            let (value, seen) = told(drain);
            (Some(value), seen)
        }
        Err(why) => (None, format!("refused: {why}")),
    })
}

/// Returns in words how a rate went.
fn said(endured: &Endured) -> String {
    let Some(course) = &endured.course else { return String::new() };
    let span = |seconds: f64| display_span(Nanos((seconds.max(0.0) * 1e9) as u64));
    let lasted = span(endured.lasted);
    let start_up = match course.start_up {
        Some(at) => format!(", but for a start-up of {}", span(at)),
        None => String::new(),
    };
    match course.changed {
        None => format!("one level over {lasted}{start_up}"),
        Some(at) => {
            let fell = course.fell();
            let way = if fell >= 0.0 { "below" } else { "above" };
            format!(
                "{:.1} % {way} the first {}, settled after {} of {lasted}{start_up}",
                100.0 * fell.abs(),
                span(at),
                span(course.since)
            )
        }
    }
}
