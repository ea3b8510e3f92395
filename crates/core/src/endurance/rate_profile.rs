//! How a rate goes over a long time, where it settles, how far and when it fell.

use super::wander::chance;
use crate::stat::{Interval, mean, normal_upper_tail, standard_deviation, t_quantile};
use serde::{Deserialize, Serialize};

/// How a rate went.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct RateProfile {
    /// When its start-up was over, where it had one: a level that lasted for a moment only. It is in no rate.
    pub start_up: Option<f64>,
    /// The rate of the first minutes: ahead of the first change, or of all where there is none.
    pub first: f64,
    /// Where it settled: behind the last change.
    pub settled: f64,
    /// The interval that holds where it settled with 95 %.
    pub interval: Interval,
    /// When it settled, in the unit of the moments; the beginning where it never changed.
    pub since: f64,
    /// When it first changed, if it did.
    pub changed: Option<f64>,
    /// How steady it was after that: the standard deviation over the mean.
    pub spread: f64,
    /// Whether it had little time left behind its last change.
    pub late: bool,
    /// How far it still fell over the last two fifths, as a share, where that is no luck and no step.
    pub falling: Option<f64>,
}

impl RateProfile {
    /// Returns how far it fell from the first minutes to where it settled, as a share; a rise is negative.
    pub fn fell(&self) -> f64 {
        1.0 - self.settled / self.first
    }
}

/// Values below which nothing is said of a rate.
pub const LEAST: usize = 20;
/// The fewest values on either side of a change.
const SIDE: usize = 5;
/// A change is claimed where luck makes so large a one once in so many steady series.
const ALPHA: f64 = 0.01;
/// The square of a difference of logs that is none.
const ROUNDING: f64 = 1e-24;
/// A first level that lasts for less than this share of the whole is a start-up.
const START_UP: f64 = 0.02;
/// A last stretch shorter than this share of the whole is no settling.
const SETTLED: f64 = 0.15;
/// The share of the values, from the end, in which a fall that goes on is looked for.
const LATELY: f64 = 0.4;
/// How long a step may take, as shares of the whole.
const WIDTHS: [f64; 4] = [0.0, 0.04, 0.08, 0.16];
/// A fall over them that is worth a word.
const WORTH: f64 = 0.01;

/// Returns how `rates` went, measured at `moments`; `None` below 20 values, or where one is not above 0.
///
/// ```text
/// y = ln rate       z(k) = |mean y(..k) − mean y(k..)| / (σ·√(1/k + 1/(n − k)))       k* = argmax z
/// σ² = variance about the two means · (1 + ρ)/(1 − ρ)      ρ: its correlation from value to value, if above 0
/// a change at k* where n·2·(1 − Φ(z)) < 0.01; then the same within each side
/// ```
/// So many values one after another are no independent ones: ρ widens what is luck. Of the changes those stay that a slow
/// wander of the level does not explain as well (its chance below 0.01/4n; four widths of a step are tried).
///
/// * Shape: n moments ascending, n rates; O(n · changes). Units: rates in any, moments in any.
/// * Source: Hinkley (1970), <https://doi.org/10.1093/biomet/57.1.1>, for the split; Scott and Knott (1974),
///   <https://doi.org/10.2307/2529204>, for splitting again; Bonferroni over the places.
pub fn rate_profile(moments: &[f64], rates: &[f64]) -> Option<RateProfile> {
    let n = rates.len();
    if n < LEAST || moments.len() != n || rates.iter().any(|rate| rate.is_nan() || *rate <= 0.0) {
        return None;
    }
    let logs: Vec<f64> = rates.iter().map(|rate| rate.ln()).collect();
    let mut changes = Vec::new();
    split(&logs, 0, &mut changes);
    changes.sort_unstable();
    keep_steps(&logs, &mut changes);
    let whole = moments[n - 1] - moments[0];
    let starts = |at: &usize| moments[*at] - moments[0] < START_UP * whole;
    let start_up = changes.first().copied().filter(starts);
    if start_up.is_some() {
        changes.remove(0);
    }
    let begin = start_up.unwrap_or(0);
    let (first, last) = (changes.first().copied(), changes.last().copied().unwrap_or(begin));
    let tail = &logs[last..];
    let level = mean(tail).ok()?;
    let deviation = standard_deviation(tail).ok()?;
    let effective = (tail.len() as f64 / inflation(&residuals(tail, 0))).max(2.0);
    let half = t_quantile(0.975, effective - 1.0).ok()? * deviation / effective.sqrt();
    Some(RateProfile {
        start_up: start_up.map(|at| moments[at]),
        first: mean(&logs[begin..first.unwrap_or(n)]).ok()?.exp(),
        settled: level.exp(),
        interval: Interval { low: (level - half).exp(), high: (level + half).exp() },
        since: moments[last],
        changed: first.map(|at| moments[at]),
        spread: deviation,
        late: first.is_some() && moments[n - 1] - moments[last] < SETTLED * whole,
        falling: falling(&logs[n - (n as f64 * LATELY) as usize..]),
    })
}

/// Returns how far `logs` fall from first to last, as a share, if that is beyond luck and worth a word, and a line
/// tells them better than two levels do.
fn falling(logs: &[f64]) -> Option<f64> {
    if logs.len() < 2 * SIDE {
        return None;
    }
    let at: Vec<f64> = (0..logs.len()).map(|at| at as f64).collect();
    let (middle, level) = (mean(&at).ok()?, mean(logs).ok()?);
    let squares: f64 = at.iter().map(|x| (x - middle).powi(2)).sum();
    let slope = at.iter().zip(logs).map(|(x, y)| (x - middle) * (y - level)).sum::<f64>() / squares;
    let rest: Vec<f64> =
        at.iter().zip(logs).map(|(x, y)| y - level - slope * (x - middle)).collect();
    let variance = rest.iter().map(|r| r * r).sum::<f64>() / (logs.len() - 2).max(1) as f64;
    let error = (variance * inflation(&rest) / squares).sqrt();
    let fell = -slope * (logs.len() - 1) as f64;
    let seldom = 2.0 * normal_upper_tail((slope / error).abs()) < ALPHA;
    let of_line: f64 = rest.iter().map(|r| r * r).sum();
    let of_step: f64 = residuals(logs, best_split(logs).1).iter().map(|r| r * r).sum();
    let told = fell >= WORTH && seldom && of_line < of_step && chance(logs, &[], &at) < ALPHA;
    told.then(|| 1.0 - (-fell).exp())
}

/// Takes out of `changes` what a slow wander would explain as well, the least likely first.
fn keep_steps(logs: &[f64], changes: &mut Vec<usize>) {
    // A machine that grows hot takes its time to fall: of so many widths the likeliest, all else sharp.
    let mut shapes: Vec<Vec<f64>> = changes.iter().map(|&at| step(logs.len(), at, 0.0)).collect();
    for (place, &at) in changes.iter().enumerate() {
        let others = [&shapes[..place], &shapes[place + 1..]].concat();
        let wide = WIDTHS.map(|share| step(logs.len(), at, share * logs.len() as f64));
        let luck = |shape: &Vec<f64>| chance(logs, &others, shape);
        let best = wide.into_iter().min_by(|a, b| luck(a).total_cmp(&luck(b)));
        shapes[place] = best.unwrap_or_default();
    }
    while !changes.is_empty() {
        let luck = (0..shapes.len()).map(|at| {
            let others = [&shapes[..at], &shapes[at + 1..]].concat();
            (at, chance(logs, &others, &shapes[at]))
        });
        let Some((at, most)) = luck.max_by(|a, b| a.1.total_cmp(&b.1)) else { return };
        if most * ((logs.len() * WIDTHS.len()) as f64) < ALPHA {
            return;
        }
        changes.remove(at);
        shapes.remove(at);
    }
}

/// Returns a step from 0 to 1 about place `at` of `n`, that takes `width` places.
fn step(n: usize, at: usize, width: f64) -> Vec<f64> {
    let risen = |place: usize| match width {
        0.0 => f64::from(place >= at),
        _ => ((place as f64 - at as f64) / width + 0.5).clamp(0.0, 1.0),
    };
    (0..n).map(risen).collect()
}

/// Notes where `logs`, which begin at place `from`, change, and within both sides of that again.
fn split(logs: &[f64], from: usize, changes: &mut Vec<usize>) {
    let n = logs.len();
    if n < 2 * SIDE {
        return;
    }
    let best = best_split(logs);
    let rest = residuals(logs, best.1);
    let variance = rest.iter().map(|r| r * r).sum::<f64>() / (n - 2) as f64 * inflation(&rest);
    let z = (best.0 / variance).sqrt();
    // What adding up rounds off is no change.
    if best.0 > ROUNDING * n as f64 && n as f64 * 2.0 * normal_upper_tail(z) < ALPHA {
        changes.push(from + best.1);
        split(&logs[..best.1], from, changes);
        split(&logs[best.1..], from + best.1, changes);
    }
}

/// Returns the sum of squares between two levels of `logs`, largest where they are split best, and that place.
fn best_split(logs: &[f64]) -> (f64, usize) {
    let n = logs.len();
    let all: f64 = logs.iter().sum();
    let mut before: f64 = logs[..SIDE].iter().sum();
    let mut best = (0.0, SIDE);
    for (place, value) in logs.iter().enumerate().take(n - SIDE + 1).skip(SIDE) {
        let (left, right) = (place as f64, (n - place) as f64);
        let apart = before / left - (all - before) / right;
        let between = apart * apart * left * right / n as f64;
        if between > best.0 {
            best = (between, place);
        }
        before += value;
    }
    best
}

/// Returns what is left of `logs` about their means ahead of `place` and behind it.
fn residuals(logs: &[f64], place: usize) -> Vec<f64> {
    let about = |side: &[f64]| {
        let level = side.iter().sum::<f64>() / side.len().max(1) as f64;
        side.iter().map(|y| y - level).collect::<Vec<_>>()
    };
    let (left, right) = logs.split_at(place);
    [about(left), about(right)].concat()
}

/// Returns by how much more neighbours that resemble each other vary in their mean: (1 + ρ)/(1 − ρ).
fn inflation(rest: &[f64]) -> f64 {
    let squares: f64 = rest.iter().map(|r| r * r).sum();
    let products: f64 = rest.windows(2).map(|pair| pair[0] * pair[1]).sum();
    let rho = if squares > 0.0 { (products / squares).clamp(0.0, 0.95) } else { 0.0 };
    (1.0 + rho) / (1.0 - rho)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    /// A series of two hours, a value every ten seconds, that falls at `moment` by `fall`.
    fn series(noise: f64, moment: f64, fall: f64, random: &mut SplitMix) -> (Vec<f64>, Vec<f64>) {
        let at: Vec<f64> = (0..720).map(|place| f64::from(place) * 10.0).collect();
        let rate = |&at: &f64| {
            let level = if at < moment { 60.0 } else { 60.0 * (1.0 - fall) };
            level * (random.normal() * noise).exp()
        };
        let rates = at.iter().map(rate).collect();
        (at, rates)
    }

    #[test]
    fn a_fall_is_found_when_and_how_far_and_none_where_there_is_none() {
        let mut random = SplitMix::new(8);
        let (mut timed, mut levelled, mut claimed) = (0, 0, 0);
        for _ in 0..500 {
            let (noise, fall) = (0.005 + 0.025 * random.unit(), 0.30 * random.unit());
            let moment = 7_200.0 * (0.1 + 0.7 * random.unit());
            let (at, rates) = series(noise, moment, fall, &mut random);
            let found = rate_profile(&at, &rates).unwrap();
            timed += u32::from((found.since / moment - 1.0).abs() < 0.1);
            levelled += u32::from((found.settled / (60.0 * (1.0 - fall)) - 1.0).abs() < 0.01);
            let (at, rates) = series(noise, 0.0, 0.0, &mut random);
            let steady = rate_profile(&at, &rates).unwrap();
            claimed += u32::from(steady.changed.is_some() || steady.falling.is_some());
        }
        println!(
            "timed {timed}, levelled {levelled}, claimed of steady ones {claimed}, of 500 each"
        );
        assert!(timed >= 475 && levelled >= 475, "{timed} {levelled}");
        assert!(claimed <= 25, "{claimed}");
    }

    #[test]
    fn neighbours_that_resemble_each_other_are_no_fall() {
        let mut random = SplitMix::new(9);
        let mut claimed = 0;
        for _ in 0..300 {
            let mut mood = 0.0;
            let mut next = || {
                mood = 0.6 * mood + random.normal() * 0.01;
                60.0 * f64::exp(mood)
            };
            let rates: Vec<f64> = (0..300).map(|_| next()).collect();
            let at: Vec<f64> = (0..300).map(f64::from).collect();
            claimed += u32::from(rate_profile(&at, &rates).unwrap().changed.is_some());
        }
        assert!(claimed <= 15, "{claimed} of 300");
    }

    #[test]
    fn a_slow_wander_is_no_change() {
        // Length, correlation from value to value, standard deviations of the wander and of a value about it.
        for (n, held, wander, white) in [
            (720, 0.98, 0.01, 0.0),
            (720, 0.99, 0.01, 0.01),
            (720, 0.999, 0.01, 0.005),
            (120, 0.95, 0.01, 0.005),
            (60, 0.95, 0.02, 0.01),
        ] {
            let mut random = SplitMix::new(10);
            let (mut changed, mut falling) = (0, 0);
            for _ in 0..60 {
                let mut mood = wander * random.normal();
                let mut next = || {
                    mood = held * mood + random.normal() * wander * f64::sqrt(1.0 - held * held);
                    60.0 * f64::exp(mood + random.normal() * white)
                };
                let rates: Vec<f64> = (0..n).map(|_| next()).collect();
                let at: Vec<f64> = (0..n).map(f64::from).collect();
                let found = rate_profile(&at, &rates).unwrap();
                changed += u32::from(found.changed.is_some());
                falling += u32::from(found.falling.is_some());
            }
            println!("{n} {held} {wander} {white}: changed {changed}, falling {falling} of 60");
            assert!(changed <= 6 && falling <= 6, "5 % and two standard errors");
        }
    }

    #[test]
    fn two_falls_settle_behind_the_second_and_a_slope_goes_on_falling() {
        let at: Vec<f64> = (0..300).map(f64::from).collect();
        let wobble = |place: usize| 1.0 + 0.002 * ((place * 37 % 11) as f64 - 5.0);
        let steps = |place: usize| [100.0, 90.0, 80.0][place / 100] * wobble(place);
        let rates: Vec<f64> = (0..300).map(steps).collect();
        let found = rate_profile(&at, &rates).unwrap();
        assert_eq!((found.changed, found.since), (Some(100.0), 200.0));
        assert!((found.fell() - 0.2).abs() < 0.01 && !found.late, "{found:?}");
        assert_eq!(found.falling, None);
        let slope: Vec<f64> =
            (0..300).map(|p| 100.0 * (1.0 - 0.001 * p as f64) * wobble(p)).collect();
        let found = rate_profile(&at, &slope).unwrap();
        let lately = 1.0 - 0.701 / 0.82;
        assert!((found.falling.unwrap() - lately).abs() < 0.01, "{found:?}");
        // A step within the last values is a step, and a warm machine that gets faster is no fall.
        let late = |place: usize| if place < 230 { 100.0 } else { 80.0 };
        let late: Vec<f64> = (0..300).map(|p| late(p) * wobble(p)).collect();
        assert_eq!(rate_profile(&at, &late).unwrap().falling, None);
        let rise: Vec<f64> = slope.iter().rev().copied().collect();
        assert_eq!(rate_profile(&at, &rise).unwrap().falling, None);
    }

    #[test]
    fn a_start_up_is_no_first_level() {
        let at: Vec<f64> = (0..600).map(f64::from).collect();
        let wobble = |place: usize| 1.0 + 0.002 * ((place * 37 % 11) as f64 - 5.0);
        let steps = |place: usize| {
            if place < 8 {
                40.0
            } else if place < 300 {
                100.0
            } else {
                80.0
            }
        };
        let rates: Vec<f64> = (0..600).map(|place| steps(place) * wobble(place)).collect();
        let found = rate_profile(&at, &rates).unwrap();
        assert_eq!((found.start_up, found.changed, found.since), (Some(8.0), Some(300.0), 300.0));
        assert!((found.fell() - 0.2).abs() < 0.002, "{found:?}");
        // What is no moment of the whole is a level.
        let found = rate_profile(&at[..300], &rates[..300]).unwrap();
        assert_eq!((found.changed, found.start_up), (Some(8.0), None), "8 of 300");
        let short: Vec<f64> = (0..600).map(|place| steps(place.min(299)) * wobble(place)).collect();
        let found = rate_profile(&at, &short).unwrap();
        assert_eq!((found.changed, found.start_up, found.fell()), (None, Some(8.0), 0.0));
    }

    #[test]
    fn a_constant_rate_divides_by_nothing_and_few_values_say_nothing() {
        let at: Vec<f64> = (0..30).map(f64::from).collect();
        let found = rate_profile(&at, &[50.0; 30]).unwrap();
        assert_eq!((found.changed, found.falling, found.fell()), (None, None, 0.0));
        assert!((found.interval.high / found.interval.low - 1.0).abs() < 1e-9, "{found:?}");
        assert_eq!(rate_profile(&at[..19], &[50.0; 19]), None);
        assert_eq!(rate_profile(&at, &[0.0; 30]), None);
    }
}
