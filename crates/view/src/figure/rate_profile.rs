//! Endurance laps over their time, with what the machine did on the same axis.

use crate::chart::{Beside, Level, RateProfileFigure, RateProfilePanel};
use crate::number::significant;
use crate::words::listed;
use honest_lap_core::endurance::{Endured, RateProfile, Stretches};
use honest_lap_core::record::{LapName, Quantity, Traces};
use honest_lap_core::unit::{Nanos, display_span};

/// An endurance lap with what its machine did meanwhile: the last of its rig and variant.
pub struct EnduranceRun {
    /// Whose it is: `wren threads=2`.
    pub of: String,
    /// The workload.
    pub workload: String,
    /// The lap.
    pub lap: LapName,
    /// How many such laps its rig and variant have.
    pub laps: usize,
    /// What it comes to.
    pub endured: Endured,
    /// Its rate, stretch by stretch.
    pub stretches: Stretches,
    /// What was seen meanwhile.
    pub traces: Traces,
}

/// How the channels of a quantity become one.
type Fold = fn(&[f64]) -> f64;

/// A strip: its name with its unit, and what it is made of.
pub(super) type Row = (&'static str, Quantity, Fold);

/// What is drawn below the rate, in this order, where anything is known of it.
const BESIDE: [Row; 7] = [
    ("clock, MHz", Quantity::CoreClock, mean),
    ("hottest part, °C", Quantity::Temperature, most),
    ("power, W", Quantity::Power, sum),
    ("fan, rpm", Quantity::Fan, most),
    ("graphics clock, MHz", Quantity::GraphicsClock, most),
    ("battery, % of full", Quantity::Charge, per_cent),
    ("from the battery, W", Quantity::BatteryPower, sum),
];

pub(super) fn mean(values: &[f64]) -> f64 {
    sum(values) / values.len() as f64
}

pub(super) fn most(values: &[f64]) -> f64 {
    values.iter().copied().fold(f64::NEG_INFINITY, f64::max)
}

pub(super) fn sum(values: &[f64]) -> f64 {
    values.iter().sum()
}

pub(super) fn per_cent(values: &[f64]) -> f64 {
    100.0 * mean(values)
}

/// Laps up to this many seconds are drawn in seconds, and up to so many in minutes.
const SECONDS: f64 = 300.0;
const MINUTES: f64 = 3.0 * 3600.0;

/// Returns the unit in which so many seconds are drawn, and how many seconds it has.
pub(super) fn unit_of_time(longest: f64) -> (&'static str, f64) {
    match longest {
        some if some <= SECONDS => ("seconds", 1.0),
        some if some <= MINUTES => ("minutes", 60.0),
        _ => ("hours", 3600.0),
    }
}

/// Returns the figure of the laps of `workload` among `runs`; `None` if there are none.
pub fn rate_profile(workload: &str, runs: &[EnduranceRun]) -> Option<RateProfileFigure> {
    let runs: Vec<&EnduranceRun> = runs.iter().filter(|run| run.workload == workload).collect();
    let longest = runs.iter().map(|run| run.endured.lasted).fold(0.0, f64::max);
    let (time, each) = unit_of_time(longest);
    let unit = runs.first()?.endured.unit.clone();
    let found = runs.iter().filter_map(|run| {
        Some(format!("{} {}", run.of, went(run.endured.course.as_ref()?, &unit)))
    });
    Some(RateProfileFigure {
        title: format!("{workload}: the rate over the time"),
        finding: listed(&found.collect::<Vec<_>>()),
        unit,
        time,
        panels: runs.iter().map(|run| panel(run, each)).collect(),
    })
}

/// Returns in words how a rate went: `settles at 3.12 still/s, 24 % below its first`.
pub fn went(course: &RateProfile, unit: &str) -> String {
    let fell = course.fell();
    let level = format!("{} {unit}", significant(course.settled, 3));
    match course.changed {
        None => format!("keeps {level}"),
        Some(_) => {
            let share = crate::number::percent(fell.abs());
            let way = if fell >= 0.0 { "below" } else { "above" };
            format!("settles at {level}, {share} {way} its first")
        }
    }
}

fn panel(run: &EnduranceRun, each: f64) -> RateProfilePanel {
    let EnduranceRun { endured, stretches, .. } = run;
    let end = endured.lasted;
    let course = endured.course.as_ref();
    let begin = course.and_then(|course| course.start_up).unwrap_or(0.0);
    let levels = course.map(|course| match course.changed {
        None => vec![level((begin, end), course, each, true)],
        Some(changed) => vec![
            Level { span: (begin / each, changed / each), at: course.first, ends: None },
            level((course.since, end), course, each, true),
        ],
    });
    let mut changes: Vec<f64> = course
        .and_then(|course| Some([course.changed?, course.since]))
        .into_iter()
        .flatten()
        .map(|at| at / each)
        .collect();
    changes.dedup();
    RateProfilePanel {
        name: run.of.clone(),
        says: says(run),
        rates: stretches
            .moments
            .iter()
            .map(|at| at / each)
            .zip(stretches.rates.iter().copied())
            .collect(),
        levels: levels.unwrap_or_default(),
        changes,
        beside: beside(&run.traces, each, endured.drain.is_some()),
    }
}

fn level(span: (f64, f64), course: &RateProfile, each: f64, ends: bool) -> Level {
    let interval = (course.interval.low, course.interval.high);
    Level {
        span: (span.0 / each, span.1 / each),
        at: course.settled,
        ends: ends.then_some(interval),
    }
}

fn says(run: &EnduranceRun) -> String {
    let of = match run.laps {
        1 => run.lap.to_string(),
        many => format!("{}, the last of {many} laps", run.lap),
    };
    let Some(course) = &run.endured.course else {
        return format!("{of}: too short for a rate over time");
    };
    let span = |seconds: f64| display_span(Nanos((seconds.max(0.0) * 1e9) as u64));
    let after = match course.changed {
        Some(_) => format!(" after {}", span(course.since)),
        None => String::new(),
    };
    format!("{of}: {}{after}", went(course, &run.endured.unit))
}

fn beside(traces: &Traces, each: f64, on_battery: bool) -> Vec<Beside> {
    // What a battery says on mains is of its charging.
    let wanted =
        |row: &&Row| on_battery || !matches!(row.1, Quantity::Charge | Quantity::BatteryPower);
    let wanted: Vec<Row> = BESIDE.iter().filter(wanted).copied().collect();
    strips(traces, each, &wanted)
}

/// Returns a strip for each of `rows` of which anything is known.
pub(super) fn strips(traces: &Traces, each: f64, rows: &[Row]) -> Vec<Beside> {
    let strip = |(name, quantity, fold): &Row| {
        let values = traces.across_moments(*quantity, fold);
        let at = traces.at_ms.iter().map(|&ms| ms as f64 / 1e3 / each);
        let points = at.zip(values).filter_map(|(at, value)| Some((at, value?)));
        Beside { name: (*name).to_owned(), points: points.collect() }
    };
    rows.iter().map(strip).filter(|strip| !strip.points.is_empty()).collect()
}
