//! Where half of the laps would hold, and how surely.

use super::SearchLap;
use crate::stat::Interval;

/// An edge, in steps from 0.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Edge {
    /// Where half of the laps would hold: the median of what the laps leave possible.
    pub at: f64,
    /// The interval that holds it with 95 %.
    pub interval: Interval,
    /// How softly it breaks: the step over which the odds of holding fall by e.
    pub softness: f64,
}

impl Edge {
    /// Returns the chance that a lap at `load` holds.
    pub fn holds(&self, load: f64) -> f64 {
        chance(load, self.at, self.softness)
    }
}

fn chance(load: f64, at: f64, softness: f64) -> f64 {
    1.0 / (1.0 + ((load - at) / softness).exp())
}

/// Points of the grid over the edge's place, and over its softness.
const PLACES: usize = 161;
const SOFTNESSES: usize = 9;
/// The sharpest edge that is told from a step: within a step nothing is tried.
const SHARPEST: f64 = 0.1;
/// The softest edge that is thought possible: this many steps, or this share of all.
const SOFTEST: (f64, f64) = (8.0, 0.1);
/// How far beyond what was tried an edge may lie, in softnesses.
const REACH: f64 = 4.0;

/// Returns the edge of `steps` loads that the laps of `tried` point to; `None` of no laps.
///
/// ```text
/// P(a lap at x holds) = 1 / (1 + exp((x − c)/s))
/// p(c, s | laps) ∝ Π P^held (1 − P)^not held · 1/s      c even over the steps, s even in its log
/// ```
/// The median of c and the ends that leave 2.5 % on each side, on a grid around what was tried.
///
/// * Shape: loads as places from 0; the result in steps, within half a step of them. O(laps · 1,449).
/// * Source: Cox (1958), <https://doi.org/10.1111/j.2517-6161.1958.tb00292.x>, for the curve; Watson and Pelli
///   (1983), <https://doi.org/10.3758/BF03202828>, for a threshold as what all trials leave possible.
/// * Units: places of loads.
pub fn edge(tried: &[SearchLap], steps: usize) -> Option<Edge> {
    let last = steps.checked_sub(1)? as f64;
    let softest = SOFTEST.0.max(SOFTEST.1 * steps as f64);
    let reach = REACH * softest;
    let places =
        |held: bool| tried.iter().filter(move |lap| lap.held() == held).map(|lap| lap.at as f64);
    let (held, failed) =
        (places(true).fold(-0.5, f64::max), places(false).fold(last + 0.5, f64::min));
    if tried.is_empty() {
        return None;
    }
    // What all laps agree on lies between the largest that held and the smallest that did not.
    let low = (held.min(failed) - reach).max(-0.5);
    let high = (held.max(failed) + reach).min(last + 0.5);
    let shares = super::shares(tried);
    // Twice: around all that was tried, then finely around what is left of it.
    let (from, to) = weighed(&shares, (low, high), softest).ends(1e-4);
    Some(weighed(&shares, (from, to), softest).edge())
}

/// Places with what the laps leave of each.
struct Weighed {
    from: f64,
    step: f64,
    weights: Vec<f64>,
    softness: f64,
}

fn weighed(shares: &[super::Share], (from, to): (f64, f64), softest: f64) -> Weighed {
    let step = (to - from) / (PLACES - 1) as f64;
    let ratio = (softest / SHARPEST).powf(1.0 / (SOFTNESSES - 1) as f64);
    let softness = |index: usize| SHARPEST * ratio.powi(index as i32);
    let mut logs = vec![[0.0; SOFTNESSES]; PLACES];
    for (place, row) in logs.iter_mut().enumerate() {
        let at = from + step * place as f64;
        for (index, log) in row.iter_mut().enumerate() {
            for share in shares {
                let odds = (share.at as f64 - at) / softness(index);
                // ln P = −ln(1 + e^odds), ln(1 − P) = ln P + odds, without overflow.
                let held = -(odds.max(0.0) + (-odds.abs()).exp().ln_1p());
                let failed = f64::from(share.strained + share.broke);
                *log += f64::from(share.held) * held + failed * (held + odds);
            }
        }
    }
    let most = logs.iter().flatten().copied().fold(f64::NEG_INFINITY, f64::max);
    let weights: Vec<f64> =
        logs.iter().map(|row| row.iter().map(|log| (log - most).exp()).sum()).collect();
    let by_softness =
        |index: usize| -> f64 { logs.iter().map(|row| (row[index] - most).exp()).sum() };
    let all: f64 = weights.iter().sum();
    let mean_log =
        (0..SOFTNESSES).map(|index| by_softness(index) * softness(index).ln()).sum::<f64>() / all;
    Weighed { from, step, weights, softness: mean_log.exp() }
}

impl Weighed {
    /// Returns the place below which `share` of the weight lies, within its cell of the grid.
    fn quantile(&self, share: f64) -> f64 {
        let wanted = share * self.weights.iter().sum::<f64>();
        let mut below = 0.0;
        for (place, weight) in self.weights.iter().enumerate() {
            if below + weight >= wanted && *weight > 0.0 {
                let within = (wanted - below) / weight - 0.5;
                return self.from + self.step * (place as f64 + within);
            }
            below += weight;
        }
        self.from + self.step * (self.weights.len() - 1) as f64
    }

    /// Returns the ends that leave `share` on each side, and a cell more.
    fn ends(&self, share: f64) -> (f64, f64) {
        let end = self.from + self.step * (self.weights.len() - 1) as f64;
        let (low, high) =
            (self.quantile(share) - self.step, self.quantile(1.0 - share) + self.step);
        (low.max(self.from), high.min(end))
    }

    fn edge(&self) -> Edge {
        let interval = Interval { low: self.quantile(0.025), high: self.quantile(0.975) };
        Edge { at: self.quantile(0.5), interval, softness: self.softness }
    }
}

#[cfg(test)]
mod tests {
    use super::super::search_lap::tests::tried;
    use super::*;

    #[test]
    fn laps_that_agree_leave_the_edge_between_two_loads() {
        let sharp = tried(&[(10, true), (11, false)].repeat(4));
        let found = edge(&sharp, 100).unwrap();
        assert!(found.at > 10.2 && found.at < 10.8, "{found:?}");
        assert!(found.interval.low > 7.0 && found.interval.high < 15.0, "{found:?}");
        assert!(found.softness < 1.0, "{found:?}");
        assert!(found.holds(5.0) > 0.99 && found.holds(20.0) < 0.01);
    }

    #[test]
    fn no_laps_say_nothing_and_more_of_them_say_more() {
        assert_eq!(edge(&[], 10), None);
        let some = [(8, true), (9, true), (10, false), (10, true), (11, false), (12, false)];
        let width = |times| {
            let interval = edge(&tried(&some.repeat(times)), 100).unwrap().interval;
            interval.high - interval.low
        };
        assert!(width(8) < width(1) / 2.0, "{} {}", width(8), width(1));
    }

    #[test]
    fn what_only_held_has_its_edge_at_the_end_or_beyond() {
        let found = edge(&tried(&[(9, true)].repeat(4)), 10).unwrap();
        assert!(found.interval.high > 9.4 && found.at > 8.5, "{found:?}");
    }
}
