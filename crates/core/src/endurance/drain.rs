//! What a battery loses over time, and how long a full one would last.

use crate::stat::{Interval, mean, standard_deviation, t_quantile};
use serde::{Deserialize, Serialize};

/// How a battery drained.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Drain {
    /// The share of a full charge that was used.
    pub used: f64,
    /// The share used in an hour.
    pub an_hour: f64,
    /// The interval that holds it with 95 %.
    pub interval: Interval,
    /// The step in which the charge was told, as a share.
    pub step: f64,
}

impl Drain {
    /// Returns how many hours a full charge would last at this rate, with its interval.
    pub fn hours(&self) -> (f64, Interval) {
        let interval = Interval { low: 1.0 / self.interval.high, high: 1.0 / self.interval.low };
        (1.0 / self.an_hour, interval)
    }
}

/// A charge must fall by so many of its steps before anything is said of it.
const LEAST_STEPS: f64 = 6.0;
/// The most stretches whose drains are held against each other, and the steps that each should fall by.
const MOST_STRETCHES: f64 = 8.0;
const STRETCH_STEPS: f64 = 2.0;
/// The normal quantile of 97.5 %.
const Z: f64 = 1.959_963_984_540_054;

/// Returns how a battery drained whose charge, a share, was looked at after `seconds`.
///
/// ```text
/// rate    = (charge first − charge last) / T
/// error²  = (t₀.₉₇₅,ₘ₋₁ · s/√m)² + (1.96 · q/(√6 · T))²
/// ```
/// s is the spread of the rates of m equal stretches, 2 to 8 with two steps of the charge each; q is the step in
/// which the charge is told: each of its ends is known to a uniform ±q/2, whose difference has SD q/√6.
///
/// * Shape: n moments ascending, n charges. Units: s, shares of a full charge; the rate is a share an hour.
/// * Errors: a sentence that says what is missing: it did not fall, it rose, it fell by fewer than 6 of its steps.
/// * Source: batch means (Law and Kelton, Simulation Modeling and Analysis), with rounding as in the GUM,
///   JCGM 100:2008, F.2.2.1.
pub fn drain(seconds: &[f64], charges: &[Option<f64>]) -> Result<Drain, String> {
    let known: Vec<(f64, f64)> =
        seconds.iter().zip(charges).filter_map(|(&at, charge)| Some((at, (*charge)?))).collect();
    let (Some(&(begin, first)), Some(&(end, last))) = (known.first(), known.last()) else {
        return Err("the machine shows no charge of a battery".to_owned());
    };
    let steps = known.windows(2).map(|pair| (pair[1].1 - pair[0].1).abs());
    let step = steps.filter(|step| *step > 1e-9).fold(f64::INFINITY, f64::min);
    let used = first - last;
    let rose = known.windows(2).any(|pair| pair[1].1 > pair[0].1 + 1.5 * step);
    if rose || used < 0.0 {
        return Err("the charge rose meanwhile".to_owned());
    }
    if !step.is_finite() || used < (LEAST_STEPS - 0.5) * step {
        return Err(format!(
            "the charge fell by {:.1} %, which is too little in the steps in which it is told: let it last longer",
            used * 100.0
        ));
    }
    let time = end - begin;
    let stretches = (used / (STRETCH_STEPS * step)).floor().clamp(2.0, MOST_STRETCHES) as usize;
    let at = |moment: f64| -> f64 {
        let after = known.partition_point(|(at, _)| *at < moment).clamp(1, known.len() - 1);
        let ((from, left), (to, right)) = (known[after - 1], known[after]);
        let along = if to > from { ((moment - from) / (to - from)).clamp(0.0, 1.0) } else { 1.0 };
        left + along * (right - left)
    };
    let length = time / stretches as f64;
    let edge = |place: usize| at(begin + length * place as f64);
    let rates: Vec<f64> =
        (0..stretches).map(|place| (edge(place) - edge(place + 1)) / length).collect();
    let unsaid = |err: crate::stat::StatError| err.to_string();
    let spread = standard_deviation(&rates).map_err(unsaid)?;
    let t = t_quantile(0.975, stretches as f64 - 1.0).map_err(unsaid)?;
    let from_spread = t * spread / (stretches as f64).sqrt();
    let from_step = Z * step / (6.0_f64.sqrt() * time);
    let (rate, half) = (mean(&rates).map_err(unsaid)?, from_spread.hypot(from_step));
    // A rate whose interval holds nothing at all has no end that could be stated.
    if half >= rate {
        return Err("the charge fell too unevenly to say how fast".to_owned());
    }
    let interval = Interval { low: (rate - half) * HOUR, high: (rate + half) * HOUR };
    Ok(Drain { used, an_hour: rate * HOUR, interval, step })
}

/// Seconds of an hour.
const HOUR: f64 = 3600.0;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    /// Looks at a battery every ten seconds for two hours, at a power that wanders by `noise`.
    fn looked(an_hour: f64, noise: f64, step: f64, random: &mut SplitMix) -> Vec<Option<f64>> {
        let (mut mood, mut charge) = (0.0, 0.9 + 0.1 * random.unit());
        let mut all = Vec::new();
        for _ in 0..720 {
            all.push(Some((charge / step).ceil() * step));
            mood = 0.9 * mood + noise * random.normal();
            charge -= an_hour / 360.0 * f64::exp(mood);
        }
        all
    }

    #[test]
    fn the_interval_holds_the_rate_whatever_the_step_of_the_charge() {
        let at: Vec<f64> = (0..720).map(|place| f64::from(place) * 10.0).collect();
        let mut random = SplitMix::new(41);
        let (mut held, mut all) = (0, 0);
        for round in 0..600 {
            let an_hour = 0.06 + 0.3 * random.unit();
            let (noise, step) = ([0.02, 0.1][round % 2], [0.01, 0.000_1][round / 2 % 2]);
            let charges = looked(an_hour, noise, step, &mut random);
            // The mean of a power that wanders lognormally lies above its middle.
            let truth = an_hour * f64::exp(0.5 * noise * noise / (1.0 - 0.81));
            let Ok(found) = drain(&at, &charges) else { continue };
            all += 1;
            held += u32::from(found.interval.low <= truth && truth <= found.interval.high);
        }
        println!("{held} of {all} intervals hold the rate");
        assert!(all > 550 && f64::from(held) > 0.93 * f64::from(all), "{held} of {all}");
    }

    #[test]
    fn a_steady_drain_is_read_off_and_too_little_is_refused() {
        let at: Vec<f64> = (0..=60).map(|place| f64::from(place) * 60.0).collect();
        let falls = |per_hour: f64| -> Vec<Option<f64>> {
            at.iter().map(|s| Some(0.8 - per_hour * s / 3600.0)).collect()
        };
        let found = drain(&at, &falls(0.2)).unwrap();
        assert!((found.an_hour - 0.2).abs() < 1e-9 && (found.used - 0.2).abs() < 1e-9);
        let (hours, ends) = found.hours();
        assert!((hours - 5.0).abs() < 1e-6 && ends.low < 5.0 && ends.high > 5.0, "{ends:?}");
        assert!(drain(&at, &falls(0.0)).unwrap_err().contains("too little"));
        let coarse: Vec<Option<f64>> =
            at.iter().map(|s| Some(if *s < 1800.0 { 0.80 } else { 0.79 })).collect();
        assert!(drain(&at, &coarse).unwrap_err().contains("1.0 %"));
        assert!(drain(&at, &falls(-0.2)).unwrap_err().contains("rose"));
        assert!(drain(&at, &vec![None; 61]).unwrap_err().contains("no charge"));
    }
}
