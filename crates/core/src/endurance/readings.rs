//! The measures of an endurance lap.

use super::LEAST;
use super::amounts::rate_unit;
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

/// Those that are compared only where they are asked for.
pub const MINOR: [&str; 5] = [FIRST, SETTLED, STEADY, CHARGE, BATTERY_POWER];

/// Returns whether `name` is a measure of endurance laps.
pub fn is_measure(name: &str) -> bool {
    [RATE, KEPT, HOURS].contains(&name) || MINOR.contains(&name)
}

fn measure(name: &str, unit: &str, better: Better) -> Measure {
    Measure { name: name.to_owned(), unit: unit.to_owned(), better }
}

/// Returns the measures by which endurance laps of `task` are compared unless others are asked for.
pub fn measures(task: &Task, rule: &EnduranceRule) -> Vec<Measure> {
    let mut all = Vec::new();
    if !rule.idle {
        all.push(measure(RATE, &rate_unit(task), Better::More));
        all.push(measure(KEPT, "%", Better::More));
    }
    if rule.on_battery {
        all.push(measure(HOURS, "h", Better::More));
    }
    all
}

impl Endured {
    /// Returns what the lap yields.
    pub fn readings(&self) -> Vec<Reading> {
        readings(self)
    }
}

fn readings(endured: &Endured) -> Vec<Reading> {
    let rule = &endured.rule;
    let mut all = Vec::new();
    let mut add = |measure: Measure, value: Option<f64>, seen: String| {
        let Measure { name, unit, better } = measure;
        let (step, reports_time) = (None, false);
        all.push(Reading { name, unit, better, value, step, seen, reports_time });
    };
    if !rule.idle {
        let unit = &endured.unit;
        let rate = measure(RATE, unit, Better::More);
        match &endured.course {
            Some(course) => {
                let nothing = String::new;
                add(rate, Some(course.settled), said(endured));
                add(measure(FIRST, unit, Better::More), Some(course.first), nothing());
                let kept = 100.0 * course.settled / course.first;
                add(measure(KEPT, "%", Better::More), Some(kept), nothing());
                if course.changed.is_some() {
                    let settled = measure(SETTLED, SECONDS, Better::Less);
                    add(settled, Some(course.since), nothing());
                }
                let spread = 100.0 * course.spread;
                add(measure(STEADY, "%", Better::Less), Some(spread), nothing());
            }
            None => {
                let few = format!(
                    "refused: {} values of a rate, and {LEAST} are needed; let it last longer",
                    endured.rates.len()
                );
                add(rate, None, few);
            }
        }
    }
    if let Some(drain) = &endured.drain {
        let (hours, charge) =
            (measure(HOURS, "h", Better::More), measure(CHARGE, "%/h", Better::Less));
        match drain {
            Ok(drain) => {
                let (full, ends) = drain.hours();
                let seen = format!("{:.2} to {:.2} h of a full charge", ends.low, ends.high);
                add(hours, Some(full), seen);
                add(
                    charge,
                    Some(100.0 * drain.an_hour),
                    format!("{:.1} % used", 100.0 * drain.used),
                );
            }
            Err(why) => {
                add(hours, None, format!("refused: {why}"));
                add(charge, None, format!("refused: {why}"));
            }
        }
    }
    if let Some(watts) = endured.battery_w {
        add(measure(BATTERY_POWER, "W", Better::Less), Some(watts), String::new());
    }
    all
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
