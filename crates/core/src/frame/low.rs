//! The slow end of a pass: lows, and the slowest frames by number and by time.

use crate::stat::{StatError, quantile};

/// `low 1%` is refused for fewer frames: less than ten would lie beyond it.
pub const LEAST_FRAMES_LOW_1: usize = 1_000;
/// `low 0.1%` is refused for fewer frames.
pub const LEAST_FRAMES_LOW_01: usize = 10_000;

/// Returns the rate at the `1 − p` percentile frame time, in frames a second.
///
/// ```text
/// low = 1 / q(1 − p), q by type 7
/// ```
/// * Shape: `sorted` holds `n ≥ 1` frame times, ascending; `p` is one number.
/// * Units: frame times in seconds; the result in frames a second.
/// * Errors: those of [`quantile`].
/// * Source: percentiles as Hyndman and Fan (1996), definition 7.
pub fn low_percentile(sorted: &[f64], p: f64) -> Result<f64, StatError> {
    quantile(sorted, 1.0 - p).map(f64::recip)
}

/// The slowest frames of a pass.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slowest {
    /// How many they are.
    pub frames: usize,
    /// The time of the fastest of them, in seconds.
    pub threshold: f64,
    /// Their number over their time, in frames a second.
    pub rate: f64,
}

/// Returns the slowest `p` of the frames, by number: `⌈p·n⌉` of them.
///
/// ```text
/// k = ⌈p·n⌉        rate = k / Σ of the k longest frame times
/// ```
/// * Shape: `sorted` holds `n ≥ 1` frame times, ascending; `p` in `0..=1`, above 0.
/// * Units: seconds; frames a second.
/// * Errors: [`StatError::Empty`] if `n = 0`; [`StatError::OutOfRange`] for another `p`.
/// * Source: a definition of this tool.
pub fn slowest(sorted: &[f64], p: f64) -> Result<Slowest, StatError> {
    check(sorted, p)?;
    // 0.05 · 20 is a little more than 1 in binary: that is no second frame.
    let frames = ((p * sorted.len() as f64) * (1.0 - 1e-12)).ceil().max(1.0) as usize;
    Ok(of_slowest(sorted, frames))
}

/// Returns the fewest slowest frames that take at least `share` of the pass's time.
///
/// ```text
/// k = min { k : Σ of the k longest ≥ share · Σ of all }
/// ```
/// * Shape: `sorted` holds `n ≥ 1` frame times, ascending; `share` in `0..=1`, above 0.
/// * Units: seconds; frames a second. No interpolation between frames.
/// * Errors: [`StatError::Empty`] if `n = 0`; [`StatError::OutOfRange`] for another `share`.
/// * Source: a definition of this tool.
pub fn time_weighted(sorted: &[f64], share: f64) -> Result<Slowest, StatError> {
    check(sorted, share)?;
    let wanted = share * sorted.iter().sum::<f64>() * (1.0 - 1e-12);
    let mut sum = 0.0;
    let enough = sorted.iter().rev().position(|time| {
        sum += time;
        sum >= wanted
    });
    Ok(of_slowest(sorted, enough.map_or(sorted.len(), |place| place + 1)))
}

fn of_slowest(sorted: &[f64], frames: usize) -> Slowest {
    let tail = &sorted[sorted.len() - frames..];
    Slowest { frames, threshold: tail[0], rate: frames as f64 / tail.iter().sum::<f64>() }
}

fn check(sorted: &[f64], p: f64) -> Result<(), StatError> {
    match (sorted.is_empty(), p > 0.0 && p <= 1.0) {
        (true, _) => Err(StatError::Empty),
        (_, false) => Err(StatError::OutOfRange { name: "p", value: p }),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn slowest_by_number_and_by_time_differ() {
        // Of ten frames nine take 10 ms and one 110 ms: a tenth by number, more than half by time.
        let sorted = [[0.01; 9].as_slice(), &[0.11]].concat();
        let one = Slowest { frames: 1, threshold: 0.11, rate: 1.0 / 0.11 };
        assert_eq!(slowest(&sorted, 0.1), Ok(one));
        assert_eq!(time_weighted(&sorted, 0.5), Ok(one));
        assert_eq!(slowest(&sorted, 0.11).map(|s| s.frames), Ok(2));
        assert_eq!(time_weighted(&sorted, 1.0).map(|s| s.frames), Ok(10));
        assert!(slowest(&sorted, 0.0).is_err() && time_weighted(&[], 0.5).is_err());
    }
}
