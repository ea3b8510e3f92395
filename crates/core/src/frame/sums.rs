//! A pass summed up.

use super::hitch::hitches;
use super::low::{LEAST_FRAMES_LOW_01, LEAST_FRAMES_LOW_1};
use crate::record::Sums;
use crate::unit::Nanos;

/// Returns the average rate: frames over time.
///
/// ```text
/// rate = n / Σx
/// ```
/// * Shape: `frames` holds `n ≥ 1` frame times above zero; of none the rate is 0.
/// * Units: nanoseconds in, frames a second out. The mean of 1/xᵢ is no rate at which anything ran.
/// * Source: the harmonic mean of the rates, by definition of a rate.
pub fn average_rate(frames: &[u64]) -> f64 {
    let time = Nanos(frames.iter().sum()).seconds();
    if time > 0.0 { frames.len() as f64 / time } else { 0.0 }
}

/// Returns what `frames` come to, or `None` of no frames.
///
/// ```text
/// low 1% = 1 / q(0.99)                 slowest 1% = k / Σ of the k = ⌈n/100⌉ longest
/// change = Σ |xᵢ − xᵢ₋₁| / (n − 1)     cv = s / mean, s with n − 1
/// ```
/// Percentiles are of type 7. A percentile is given only where at least one frame lies beyond it,
/// a low only where ten do.
///
/// * Shape: frame times above zero, in order. O(n).
/// * Units: nanoseconds in; seconds and frames a second out.
/// * Source: percentiles after Hyndman and Fan (1996), <https://doi.org/10.2307/2684934>, type 7; lows by their definitions above.
pub fn sums(frames: &[u64]) -> Option<Sums> {
    let n = frames.len();
    let worst = *frames.iter().max()?;
    let time: u64 = frames.iter().sum();
    let mean = time as f64 / n as f64;
    let apart = |x: &u64| (*x as f64 - mean).powi(2);
    let cv =
        (n > 1).then(|| (frames.iter().map(apart).sum::<f64>() / (n - 1) as f64).sqrt() / mean);
    let steps: u64 = frames.windows(2).map(|pair| pair[0].abs_diff(pair[1])).sum();
    let found = hitches(frames);

    // Only the slow end is needed in order.
    let mut values = frames.to_vec();
    let from = ((n - 1) as f64 * 0.95).floor() as usize;
    let (_, at, above) = values.select_nth_unstable(from);
    let (slow, fastest_slow) = (above, *at);
    slow.sort_unstable();
    let at_slow = |place: usize| match place.checked_sub(from + 1) {
        Some(beyond) => slow[beyond],
        None => fastest_slow,
    };
    let upper = |p: f64, least: usize| {
        let h = (n - 1) as f64 * p;
        let (low, high) = (at_slow(h.floor() as usize) as f64, at_slow(h.ceil() as usize) as f64);
        (n >= least).then(|| (low + h.fract() * (high - low)) / 1e9)
    };
    let (p99, p99_9) = (upper(0.99, 100), upper(0.999, 1_000));
    let low = |time: Option<f64>, least: usize| time.filter(|_| n >= least).map(f64::recip);
    let slowest_1 = (n >= LEAST_FRAMES_LOW_1).then(|| {
        let k = n.div_ceil(100);
        k as f64 / (slow[slow.len() - k..].iter().sum::<u64>() as f64 / 1e9)
    });
    let (p95, low_1, low_01) =
        (upper(0.95, 20), low(p99, LEAST_FRAMES_LOW_1), low(p99_9, LEAST_FRAMES_LOW_01));
    let median = median(&mut values);
    Some(Sums {
        frames: n as u64,
        time: Nanos(time),
        rate: average_rate(frames),
        median: median / 1e9,
        p95,
        p99,
        p99_9,
        low_1,
        low_01,
        slowest_1,
        worst: worst as f64 / 1e9,
        change: (n > 1).then(|| steps as f64 / (n - 1) as f64 / 1e9),
        cv,
        hitches: found.len() as u64,
        lost: Nanos(found.iter().map(|hitch| hitch.lost).sum()),
    })
}

/// Returns the median of `values`, which are put into another order; at least one.
pub(super) fn median(values: &mut [u64]) -> f64 {
    let (half, even) = (values.len() / 2, values.len().is_multiple_of(2));
    let (below, at, _) = values.select_nth_unstable(half);
    match below.iter().max() {
        Some(lower) if even => (*lower as f64 + *at as f64) / 2.0,
        _ => *at as f64,
    }
}

/// Fewer values than these are quickest put into order.
const MANY: usize = 1 << 14;
/// How many of many values say about where half of their time is.
const SOME: usize = 4_096;

/// Returns the value up to which half of the time of `values` goes; at least one, and none of them 0.
///
/// Of many, some say between which two values that is; what lies between them is looked at.
pub(super) fn median_by_time(values: &[u64]) -> f64 {
    let half = values.iter().sum::<u64>() / 2;
    if values.len() >= MANY {
        let step = values.len() / SOME;
        let mut some: Vec<u64> = values.iter().step_by(step).copied().collect();
        some.sort_unstable();
        let whole: u64 = some.iter().sum();
        let about = |share: u64| passing(&some, whole / 100 * share);
        let (low, high) = (about(46), about(54));
        let mut below = 0;
        let mut between = Vec::with_capacity(values.len() / 8);
        for &value in values {
            below += if value < low { value } else { 0 };
            if (low..=high).contains(&value) {
                between.push(value);
            }
        }
        let inside: u64 = between.iter().sum();
        if (below..below + inside).contains(&half) {
            between.sort_unstable();
            return passing(&between, half - below) as f64;
        }
    }
    let mut sorted = values.to_vec();
    sorted.sort_unstable();
    passing(&sorted, half) as f64
}

/// Returns the first of `sorted` with which their sum passes `time`, or the last.
fn passing(sorted: &[u64], time: u64) -> u64 {
    let mut passed = 0;
    let found = sorted.iter().find(|&&value| {
        passed += value;
        passed > time
    });
    found.or(sorted.last()).copied().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::super::low::{low_percentile, slowest};
    use super::*;
    use crate::stat::{SplitMix, median as median_of, quantile, summary};

    const MS: f64 = 1e6;

    #[test]
    fn half_of_the_time_goes_up_to_the_median_by_time() {
        let mut random = SplitMix::new(12);
        for n in [1, 2, 3, 10, 999, 70_000] {
            let wild: Vec<u64> = (0..n).map(|_| 1 + random.below(1 << 40)).collect();
            let two: Vec<u64> = (0..n).map(|at| if at % 2 == 0 { 7 } else { 900 }).collect();
            for values in [wild, two, vec![16; n as usize]] {
                let found = median_by_time(&values);
                let mut sorted = values.clone();
                sorted.sort_unstable();
                let half = values.iter().sum::<u64>() / 2;
                let mut passed = 0;
                let plain = sorted.iter().find(|&&value| {
                    passed += value;
                    passed > half
                });
                assert_eq!(Some(found), plain.map(|&value| value as f64));
            }
        }
        assert_eq!(median_by_time(&[1, 1, 1, 1, 1, 1, 10]), 10.0);
    }

    #[test]
    fn agrees_with_the_plain_formulas() {
        let mut random = SplitMix::new(11);
        for n in [1, 2, 3, 19, 20, 21, 99, 100, 101, 1_000, 1_001, 12_345] {
            let frames: Vec<u64> =
                (0..n).map(|_| (12.0 * MS * (0.2 * random.normal()).exp()) as u64).collect();
            let found = sums(&frames).unwrap();
            let mut sorted: Vec<f64> = frames.iter().map(|&ns| ns as f64 / 1e9).collect();
            sorted.sort_by(f64::total_cmp);
            let near = |a: f64, b: f64| assert!((a / b - 1.0).abs() < 1e-12, "{n}: {a} {b}");
            near(found.median, median_of(&sorted).unwrap());
            near(found.rate, n as f64 / sorted.iter().sum::<f64>());
            for (p, value) in [(0.95, found.p95), (0.99, found.p99), (0.999, found.p99_9)] {
                assert_eq!(value.is_some(), n as f64 * (1.0 - p) >= 0.999, "{n} {p}");
                value.inspect(|&value| near(value, quantile(&sorted, p).unwrap()));
            }
            found.low_1.inspect(|&low| near(low, low_percentile(&sorted, 0.01).unwrap()));
            found.low_01.inspect(|&low| near(low, low_percentile(&sorted, 0.001).unwrap()));
            found.slowest_1.inspect(|&rate| near(rate, slowest(&sorted, 0.01).unwrap().rate));
            assert_eq!((found.low_1.is_some(), found.low_01.is_some()), (n >= 1_000, n >= 10_000));
            let plain = summary(&sorted).unwrap();
            assert_eq!(found.cv.is_some(), plain.cv.is_some());
            found.cv.inspect(|&cv| assert!((cv / plain.cv.unwrap() - 1.0).abs() < 1e-9));
        }
        assert_eq!(sums(&[]), None);
    }

    #[test]
    fn alternating_frames_run_at_their_time_and_not_at_the_mean_of_two_rates() {
        let frames: Vec<u64> = (0..600).map(|i| [16_700_000, 33_300_000][i % 2]).collect();
        let found = sums(&frames).unwrap();
        assert_eq!((found.rate, found.median), (40.0, 0.025));
        assert!((found.change.unwrap() - 0.0166).abs() < 1e-12);
    }

    #[test]
    fn a_handful_of_stalls_hides_in_a_percentile_and_not_in_the_rest() {
        let mut frames = vec![16_667_000; 2_995];
        (1..=5).for_each(|i| frames.insert(i * 500, 250_000_000));
        let found = sums(&frames).unwrap();
        assert_eq!((found.p99, found.worst, found.hitches), (Some(0.016_667), 0.25, 5));
        assert_eq!(found.lost, Nanos(5 * 233_333_000));
        assert!(found.slowest_1.unwrap() < 20.0, "{found:?}");
    }

    #[test]
    fn a_constant_series_spreads_by_nothing_and_divides_by_nothing() {
        let found = sums(&[10_000_000; 1_000]).unwrap();
        assert_eq!((found.cv, found.change, found.rate), (Some(0.0), Some(0.0), 100.0));
        assert_eq!((found.low_1, found.slowest_1), (Some(100.0), Some(100.0)));
        let one = sums(&[10_000_000]).unwrap();
        assert_eq!((one.cv, one.change, one.low_1, one.p95), (None, None, None, None));
    }
}
