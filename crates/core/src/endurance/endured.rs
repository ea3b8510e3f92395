//! What an endurance lap comes to: its rate over time, the heat beside it, the battery.

use super::amounts::{Amounts, amounts};
use super::drain::{Drain, drain};
use super::rate_profile::{RateProfile, rate_profile};
use crate::record::{EnduranceRule, Quantity, Repeat, Settings, Task, Traces, battery_energy};
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What is on record of an endurance lap.
#[derive(Clone, Copy, Debug)]
pub struct Evidence<'a> {
    /// The repetitions of its task, in order.
    pub repeats: &'a [Repeat],
    /// Its frames, in nanoseconds, where it draws them.
    pub frames: &'a [u64],
    /// What was seen meanwhile.
    pub traces: &'a Traces,
}

/// A clock that is lower where the rate has settled than it was at first, in more heat.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Throttle {
    /// The clock ahead of the first change and behind the last one, in MHz.
    pub clock_mhz: (f64, f64),
    /// The hottest part when it began, and at its hottest, in °C.
    pub heat_c: (f64, f64),
}

/// How fast the work went, stretch by stretch.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Stretches {
    /// When each began, in seconds since the lap did.
    pub moments: Vec<f64>,
    /// The rate over each.
    pub rates: Vec<f64>,
}

/// What an endurance lap comes to: kept, so that no comparison reads its repetitions, frames and samples again. One that
/// another version worked out is worked out again when it is read.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Endured {
    /// The version of the way in which it was worked out.
    pub version: u32,
    /// What its workload says.
    pub rule: EnduranceRule,
    /// The unit of its rates.
    pub unit: String,
    /// How many stretches its rate was worked out in.
    pub stretches: usize,
    /// How its rate went; `None` where it has too few values.
    pub course: Option<RateProfile>,
    /// How long it lasted, in seconds: to the end of its last repetition, frame or look.
    pub lasted: f64,
    /// Whether heat held it back.
    pub throttle: Option<Throttle>,
    /// What the battery lost, or why that is not known; `None` of a lap that is not about it.
    pub drain: Option<Result<Drain, String>>,
    /// The mean power that the battery gave, in watts; `None` of a lap that is not about it, or where it does not say.
    pub battery_w: Option<f64>,
}

/// More stretches than these show and tell nothing more.
const STRETCHES: usize = 720;
/// Fewer frames than these are no rate.
const FRAMES: usize = 10;
/// A clock that falls by less only breathes, and less heat than this is no cause.
const LEAST_FALL: f64 = 0.05;
const LEAST_RISE_C: f64 = 3.0;

impl Stretches {
    /// Returns the stretches of a lap of `task` with these settings.
    ///
    /// ```text
    /// rate of a stretch = work of its repetitions / their time      stretches of ⌈n/720⌉ repetitions
    /// rate of a stretch = frames / their time                       stretches of max(10, ⌈n/720⌉) frames
    /// ```
    /// What lies between two repetitions, and the untimed steps about them, is in no rate.
    ///
    /// * Units: work a second, or frames a second.
    /// * Source: a definition of this tool.
    pub fn of(task: &Task, settings: &Settings, evidence: &Evidence<'_>) -> Self {
        let (moments, rates) = match evidence.frames.is_empty() {
            true => of_repeats(evidence.repeats, amounts(task, settings).of_repeat),
            false => of_frames(evidence.frames),
        };
        Self { moments, rates }
    }
}

impl Endured {
    /// The version of the way in which endurance laps are worked out now. It grows with every change of a figure.
    pub const VERSION: u32 = 1;

    /// Returns whether it was worked out as endurance laps are now.
    pub fn is_current(&self) -> bool {
        self.version == Self::VERSION
    }

    /// Returns what a lap of `task` with these settings comes to; `None` where it is no endurance lap.
    pub fn of(task: &Task, settings: &Settings, evidence: &Evidence<'_>) -> Option<Self> {
        let rule = task.kind.endurance()?;
        let Amounts { unit, .. } = amounts(task, settings);
        let Stretches { moments, rates } = Stretches::of(task, settings, evidence);
        let frames: u64 = evidence.frames.iter().sum();
        let ended = evidence.repeats.last().map(|last| last.began.plus(last.took).seconds());
        let looked = evidence.traces.at_ms.last().map(|&ms| ms as f64 / 1e3);
        let lasted = ended.or((frames > 0).then_some(Nanos(frames).seconds())).or(looked);
        let course = rate_profile(&moments, &rates);
        let throttle = course.as_ref().and_then(|course| throttle(course, evidence.traces));
        let drain = rule.on_battery.then(|| charge(evidence.traces));
        let lasted = lasted.unwrap_or(0.0);
        let energy = drain.as_ref().and_then(|_| battery_energy(evidence.traces));
        let looked = looked.filter(|seconds| *seconds > 0.0);
        let battery_w = energy.zip(looked).map(|(joules, seconds)| joules / seconds);
        let rule = rule.clone();
        let (version, stretches) = (Self::VERSION, rates.len());
        Some(Self { version, rule, unit, stretches, course, lasted, throttle, drain, battery_w })
    }
}

fn of_repeats(repeats: &[Repeat], work: f64) -> (Vec<f64>, Vec<f64>) {
    let each = repeats.len().div_ceil(STRETCHES).max(1);
    let one = |some: &[Repeat]| {
        let time: f64 = some.iter().map(|repeat| repeat.took.seconds()).sum();
        (some[0].began.seconds(), work * some.len() as f64 / time)
    };
    repeats.chunks(each).map(one).filter(|(_, rate)| rate.is_finite()).unzip()
}

fn of_frames(frames: &[u64]) -> (Vec<f64>, Vec<f64>) {
    let each = frames.len().div_ceil(STRETCHES).max(FRAMES);
    let mut at = 0;
    let one = |some: &[u64]| {
        let (begun, time) = (Nanos(at).seconds(), some.iter().sum::<u64>());
        at += time;
        (begun, some.len() as f64 / Nanos(time).seconds())
    };
    // What is left over at the end is too few frames for a rate.
    frames.chunks_exact(each).map(one).unzip()
}

/// Returns whether the clock is lower behind the last change than ahead of the first, and it grew hotter meanwhile.
fn throttle(course: &RateProfile, traces: &Traces) -> Option<Throttle> {
    let changed = course.changed.filter(|_| course.fell() > 0.0)?;
    let seconds: Vec<f64> = traces.at_ms.iter().map(|&ms| ms as f64 / 1e3).collect();
    let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
    let clocks = traces.across_moments(Quantity::CoreClock, mean);
    let within = |wanted: &dyn Fn(f64) -> bool| {
        let at = seconds.iter().zip(&clocks).filter(|(at, _)| wanted(**at));
        let known: Vec<f64> = at.filter_map(|(_, clock)| *clock).collect();
        (!known.is_empty()).then(|| mean(&known))
    };
    let clock_mhz = within(&|at| at < changed).zip(within(&|at| at >= course.since))?;
    let hottest = |values: &[f64]| values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let heat = traces.across_moments(Quantity::Temperature, hottest);
    let mut known = heat.into_iter().flatten();
    let begin = known.next()?;
    let heat_c = (begin, known.fold(begin, f64::max));
    let fell = 1.0 - clock_mhz.1 / clock_mhz.0;
    (fell > LEAST_FALL && heat_c.1 - heat_c.0 >= LEAST_RISE_C)
        .then_some(Throttle { clock_mhz, heat_c })
}

/// Returns what the batteries lost together; where several are told, each counts as much.
fn charge(traces: &Traces) -> Result<Drain, String> {
    let seconds: Vec<f64> = traces.at_ms.iter().map(|&ms| ms as f64 / 1e3).collect();
    let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
    drain(&seconds, &traces.across_moments(Quantity::Charge, mean))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Endurance, Framed, Kind, Launch, Template, Trace};
    use crate::unit::parse_amount;

    fn task(on_battery: bool) -> Task {
        let command = Launch::Direct(vec![Template::parse("night-shift").unwrap()]);
        let (lasts, look_every) = (Nanos::from_seconds(600), Nanos::from_seconds(1));
        let rule = EnduranceRule { lasts, look_every, on_battery, idle: false };
        Task {
            kind: Kind::Endurance(Endurance { rule, framed: Framed::default() }),
            work: Some(parse_amount("2 still").unwrap().into()),
            ..Task::of(command)
        }
    }

    fn trace(quantity: Quantity, of: impl Fn(f64) -> f64) -> Trace {
        let values = (0..600).map(|second| Some(of(f64::from(second)))).collect();
        Trace { quantity, which: String::new(), unit: String::new(), values }
    }

    #[test]
    fn a_fall_in_the_heat_is_seen_with_its_clock_and_the_battery_beside_it() {
        let slow = |at: f64| if at < 200.0 { 1.0 } else { 1.25 };
        let mut at = 0.0;
        let mut repeats = Vec::new();
        while at < 600.0 {
            let took = slow(at) * (1.0 + 0.002 * ((at as u64 * 37 % 11) as f64 - 5.0));
            let nanos = |seconds: f64| Nanos((seconds * 1e9) as u64);
            repeats.push(Repeat { began: nanos(at), took: nanos(took) });
            at += took + 0.1;
        }
        let traces = Traces {
            at_ms: (0..600).map(|second| second * 1000).collect(),
            channels: vec![
                trace(Quantity::CoreClock, |at| 4_000.0 / slow(at)),
                trace(Quantity::Temperature, |at| 50.0 + 40.0 * (at / 200.0).min(1.0)),
                trace(Quantity::Charge, |at| 0.9 - 0.0001 * at),
            ],
        };
        let evidence = Evidence { repeats: &repeats, frames: &[], traces: &traces };
        let found = Endured::of(&task(true), &Settings::default(), &evidence).unwrap();
        let course = found.course.as_ref().unwrap();
        assert_eq!(found.unit, "still/s");
        assert!((course.first - 2.0).abs() < 0.01 && (course.settled - 1.6).abs() < 0.01);
        assert!((course.since - 200.0).abs() < 3.0 && (course.fell() - 0.2).abs() < 0.005);
        let throttle = found.throttle.unwrap();
        assert!((throttle.clock_mhz.1 - 3_200.0).abs() < 1.0 && throttle.heat_c == (50.0, 90.0));
        let drain = found.drain.unwrap().unwrap();
        assert!((drain.an_hour - 0.36).abs() < 1e-6, "{drain:?}");
        assert_eq!(
            Endured::of(&Task { kind: Kind::Task, ..task(true) }, &Settings::default(), &evidence),
            None
        );
    }

    #[test]
    fn frames_make_rates_of_ten_or_more_and_many_values_few_stretches() {
        let frames = vec![20_000_000; 1_005];
        let traces = Traces::default();
        let evidence = Evidence { repeats: &[], frames: &frames, traces: &traces };
        let found = Endured::of(&task(false), &Settings::default(), &evidence).unwrap();
        assert!(found.drain.is_none());
        let found = Stretches::of(&task(false), &Settings::default(), &evidence);
        assert_eq!(found.rates.len(), 100);
        assert!((found.rates[99] - 50.0).abs() < 1e-9 && (found.moments[99] - 19.8).abs() < 1e-9);
        let (began, took) = (Nanos(0), Nanos(500_000_000));
        let repeats = vec![Repeat { began, took }; 7_201];
        let evidence = Evidence { repeats: &repeats, frames: &[], ..evidence };
        let found = Stretches::of(&task(false), &Settings::default(), &evidence);
        assert_eq!((found.rates.len(), found.rates[0]), (655, 4.0));
    }
}
