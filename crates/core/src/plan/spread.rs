//! How precisely the figures of a part are known, kept up to date lap by lap.

use crate::judge::LOOK_ALPHA;
use crate::stat::t_quantile;
use std::collections::BTreeMap;

/// The least counted laps of a variant before its precision is looked at.
pub(super) const LEAST_ROUNDS: u32 = 3;

/// Mean and squared deviations of numbers that come one by one.
///
/// * Source: Welford (1962), <https://doi.org/10.1080/00401706.1962.10490022>.
#[derive(Clone, Copy, Debug, Default)]
struct Running {
    n: u32,
    mean: f64,
    squares: f64,
}

impl Running {
    fn add(&mut self, value: f64) {
        self.n += 1;
        let off = value - self.mean;
        self.mean += off / f64::from(self.n);
        self.squares += off * (value - self.mean);
    }

    /// Returns the relative half-width of the interval of exp(mean): `exp(t · s/√n) − 1`.
    fn half_width(&self, least: u32) -> Option<f64> {
        if self.n < least {
            return None;
        }
        let (n, freedom) = (f64::from(self.n), f64::from(self.n) - 1.0);
        let error = (self.squares / freedom / n).sqrt();
        let half = t_quantile(1.0 - LOOK_ALPHA / 2.0, freedom).ok()? * error;
        Some(half.exp_m1())
    }
}

/// The spreads of a part's variants, each by itself and against the first.
#[derive(Clone, Debug, Default)]
pub(super) struct Spreads {
    alone: Vec<Running>,
    /// Logs of the ratio to the first variant, of rounds that both have.
    pairs: Vec<Running>,
}

impl Spreads {
    /// Returns the spreads of `times`, of each variant by round, up to a round.
    pub(super) fn of(times: &[BTreeMap<u32, f64>], rounds: u32) -> Self {
        let mut found = Self::default();
        let mut so_far = vec![BTreeMap::new(); times.len()];
        for (variant, known) in times.iter().enumerate() {
            for (&round, &time) in known.range(..=rounds) {
                so_far[variant].insert(round, time);
                found.add(&so_far, (variant, round));
            }
        }
        found
    }

    /// Imports the time of a variant in a round, which `times` has by now.
    pub(super) fn add(&mut self, times: &[BTreeMap<u32, f64>], (variant, round): (usize, u32)) {
        self.alone.resize(times.len(), Running::default());
        self.pairs.resize(times.len(), Running::default());
        let log = |variant: usize| times[variant].get(&round).map(|time| time.ln());
        let Some(own) = log(variant) else { return };
        self.alone[variant].add(own);
        match variant {
            0 => (1..times.len()).for_each(|other| {
                log(other).inspect(|theirs| self.pairs[other].add(theirs - own));
            }),
            _ => {
                log(0).inspect(|first| self.pairs[variant].add(own - first));
            }
        }
    }

    /// Returns the widest relative half-width among the figures: each variant's typical, and each variant's ratio to
    /// the first; those of variants that `gave_up` left out. `None` while one is unknown.
    ///
    /// Intervals are those of an announced look, at [`LOOK_ALPHA`].
    pub(super) fn half_width(&self, gave_up: impl Fn(usize) -> bool) -> Option<f64> {
        let mut widest: f64 = 0.0;
        // Without any time of it, nothing is known.
        self.alone.first()?;
        for variant in (0..self.alone.len()).filter(|&variant| !gave_up(variant)) {
            widest = widest.max(self.alone[variant].half_width(LEAST_ROUNDS)?);
            if variant > 0 && self.alone[0].n > 0 {
                widest = widest.max(self.pairs[variant].half_width(2)?);
            }
        }
        Some(widest)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::{SplitMix, paired, typical_interval};

    #[test]
    fn what_is_kept_lap_by_lap_is_what_all_laps_say() {
        let mut random = SplitMix::new(5);
        let mut times = vec![BTreeMap::new(), BTreeMap::new(), BTreeMap::new()];
        let mut kept = Spreads::default();
        for round in 1..=40 {
            for variant in [0, 2, 1] {
                // Laps fail now and then.
                if random.below(5) > 0 {
                    times[variant].insert(round, 3.0 * (0.02 * random.normal()).exp());
                    kept.add(&times, (variant, round));
                }
            }
        }
        let values = |variant: usize| times[variant].values().copied().collect::<Vec<f64>>();
        let alone = |variant: usize| {
            let interval = typical_interval(&values(variant), 1.0 - LOOK_ALPHA).unwrap();
            (interval.high / interval.low).sqrt() - 1.0
        };
        let pair = |variant: usize| {
            let both =
                times[0].iter().filter_map(|(round, &a)| Some((a, *times[variant].get(round)?)));
            let (a, b): (Vec<f64>, Vec<f64>) = both.unzip();
            paired(&a, &b).unwrap().half_width(1.0 - LOOK_ALPHA).unwrap().exp_m1()
        };
        let all = [alone(0), alone(1), alone(2), pair(1), pair(2)];
        let widest = all.into_iter().fold(0.0, f64::max);
        let near = |found: Option<f64>| assert!((found.unwrap() / widest - 1.0).abs() < 1e-9);
        near(kept.half_width(|_| false));
        near(Spreads::of(&times, u32::MAX).half_width(|_| false));
        assert_eq!(Spreads::of(&times, 2).half_width(|_| false), None, "too few laps");
        assert_eq!(Spreads::default().half_width(|_| false), None);
    }
}
