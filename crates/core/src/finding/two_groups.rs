//! *Two groups*: the laps of a session are of two kinds, each close together and far from the other: one mean tells neither.

use super::doubt::Doubt;
use super::raised::{Raised, Remedy};
use super::series::{Pooled, Seen, SeriesTest, Told};
use crate::stat::Scatter;

/// Laps that a series needs, and each of its groups.
const LEAST_LAPS: usize = 8;
const LEAST_GROUP: usize = 3;
/// Groups nearer to each other than this, in logs, are no matter.
const LEAST_APART: f64 = 0.03;
/// The distance of the groups' means over their common standard deviation that one in a thousand series of so many
/// independent normal laps has where it is split best: 500,000 simulated series of each length.
const ONE_IN_THOUSAND: [(usize, f64); 10] = [
    (8, 9.54),
    (9, 8.61),
    (10, 7.76),
    (12, 6.81),
    (15, 5.98),
    (20, 5.21),
    (30, 4.53),
    (50, 3.98),
    (100, 3.71),
    (200, 3.72),
];
/// The tail of that distance falls with at most this power of it.
const MOST_POWER: f64 = 20.0;

/// Tests the laps of every series: whether a split of them into a quick and a slow group leaves a gap that neither group
/// is as wide as, and how seldom laps of one kind would lie so far apart.
pub(super) const TEST: SeriesTest = SeriesTest { scatter: |_| Scatter::default(), one };

fn one(seen: &Seen<'_>, _: Pooled) -> Told {
    if seen.values.len() < LEAST_LAPS {
        return None;
    }
    let split = Split::best(&seen.sorted)?;
    let raised = split.is_clear().then(|| raised(seen, &split));
    Some((split.p(), raised))
}

fn raised(seen: &Seen<'_>, split: &Split) -> Raised {
    let series = seen.series;
    let slow = series.laps().zip(&seen.values).filter(|(_, value)| value.ln() > split.between);
    Raised {
        workload: series.workload().to_owned(),
        laps: slow.map(|(lap, _)| lap.name()).collect(),
        doubt: Doubt::TwoGroups {
            measure: series.measure.to_owned(),
            series: series.name(),
            quick: split.quick.exp(),
            slow: split.slow.exp(),
            of: seen.values.len(),
        },
        remedy: Remedy::again(series.rig()),
    }
}

/// Laps split in two, in logs.
struct Split {
    laps: usize,
    /// The mean of the lower group, and of the upper one.
    quick: f64,
    slow: f64,
    /// The middle of the gap between them, and how wide that is.
    between: f64,
    gap: f64,
    /// How wide the wider group is.
    width: f64,
    /// The standard deviation within the groups.
    within: f64,
}

impl Split {
    /// Returns the split that leaves least within its groups; `None` of too few values. O(n).
    fn best(sorted: &[f64]) -> Option<Self> {
        let last = sorted.len().checked_sub(LEAST_GROUP)?;
        let mean = sorted.iter().sum::<f64>() / sorted.len() as f64;
        // Sums up to each place, about the mean: what a split leaves within is the squares less what its means explain.
        let (mut sum, mut sums) = (0.0, vec![0.0]);
        sums.extend(sorted.iter().map(|value| {
            sum += value - mean;
            sum
        }));
        let explained = |at: usize| {
            let (low, high) = (sums[at], sums[sorted.len()] - sums[at]);
            low * low / at as f64 + high * high / (sorted.len() - at) as f64
        };
        let splits = (LEAST_GROUP..=last).map(|at| (explained(at), at));
        let (_, at) = splits.max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)))?;
        Some(Self::at(sorted, at))
    }

    fn at(sorted: &[f64], at: usize) -> Self {
        let (low, high) = sorted.split_at(at);
        let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
        let squares = |values: &[f64], mean: f64| {
            values.iter().map(|value| (value - mean) * (value - mean)).sum::<f64>()
        };
        let width = |values: &[f64]| values[values.len() - 1] - values[0];
        let (quick, slow) = (mean(low), mean(high));
        let within = squares(low, quick) + squares(high, slow);
        Self {
            laps: sorted.len(),
            quick,
            slow,
            between: f64::midpoint(low[at - 1], high[0]),
            gap: high[0] - low[at - 1],
            width: width(low).max(width(high)),
            within: (within / (sorted.len() - 2) as f64).sqrt(),
        }
    }

    fn is_clear(&self) -> bool {
        self.gap >= self.width && self.slow - self.quick >= LEAST_APART
    }

    /// Returns how seldom laps of one kind lie so far apart, at most.
    ///
    /// ```text
    /// p = 0.001 · (d/d₀.₀₀₁)^−min(n − 2, 20),  d = (mean of the slow − mean of the quick) / s within
    /// ```
    fn p(&self) -> f64 {
        let apart = (self.slow - self.quick) / self.within;
        let power = ((self.laps - 2) as f64).min(MOST_POWER);
        // Values that were read alike leave nothing within: then the gap alone is no evidence.
        if !apart.is_finite() {
            return 1.0;
        }
        (0.001 * (apart / one_in_thousand(self.laps)).powf(-power)).min(1.0)
    }
}

/// Returns the distance that one in a thousand series of so many laps has, between those that were simulated the larger.
fn one_in_thousand(laps: usize) -> f64 {
    let known = ONE_IN_THOUSAND.iter().rev().find(|(of, _)| *of <= laps);
    known.map_or(f64::INFINITY, |(_, distance)| *distance)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::stat::SplitMix;

    /// Returns twelve laps, each slow by the factor with the chance; laps differ by 2 %.
    fn laps(random: &mut SplitMix, chance: u64, factor: f64) -> Vec<f64> {
        let lap = |_| {
            let slow = if random.below(100) < chance { factor } else { 1.0 };
            12.0 * slow * (0.02 * random.normal()).exp()
        };
        (0..12).map(lap).collect()
    }

    fn found(values: &[f64]) -> bool {
        !Lab::default().session("heron-2", values).found_by(&TEST).is_empty()
    }

    #[test]
    fn two_clock_states_are_found_and_one_is_not() {
        let mut random = SplitMix::new(8);
        let of = |random: &mut SplitMix, chance, factor| {
            (0..400).filter(|_| found(&laps(random, chance, factor))).count()
        };
        // In 13 % of twelve laps fewer than three are slow.
        let caught = of(&mut random, 35, 1.4);
        assert!(caught >= 320, "{caught} of 400");
        let accused = of(&mut random, 0, 1.0);
        assert!(accused <= 20, "{accused} of 400");
    }

    #[test]
    fn a_background_job_every_third_lap_is_named_with_its_laps() {
        let values: Vec<f64> = (0..12).map(|lap| if lap % 3 == 2 { 14.0 } else { 10.0 }).collect();
        assert!(!found(&values), "equal to the last digit: they were read in steps");
        let spread = |lap: usize| 1.0 + 0.004 * (lap % 5) as f64;
        let values: Vec<f64> = values.iter().zip(0..).map(|(v, lap)| v * spread(lap)).collect();
        let found = Lab::default().session("heron-2", &values).found_by(&TEST);
        let laps: Vec<String> = found[0].laps.iter().map(ToString::to_string).collect();
        assert_eq!(laps, ["heron-2.3", "heron-2.6", "heron-2.9", "heron-2.12"]);
        let Doubt::TwoGroups { quick, slow, of, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((slow / quick - 1.4).abs() < 0.01 && of == 12, "{quick} {slow}");
    }

    #[test]
    fn a_trend_and_a_few_odd_laps_are_something_else() {
        let trend: Vec<f64> = (0..20).map(|lap| 10.0 + f64::from(lap) * 0.2).collect();
        assert!(!found(&trend));
        let mut odd: Vec<f64> = (0..12).map(|lap| 10.0 + f64::from(lap % 4) * 0.01).collect();
        (odd[3], odd[7]) = (14.0, 14.1);
        assert!(!found(&odd), "two of twelve");
    }
}
