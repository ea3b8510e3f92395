//! A pass against a display: its refreshes, the budget of a frame, what was late.

use crate::record::{Display, Paced};
use crate::unit::Nanos;

/// A frame that takes this much more than its budget is still within it: clocks and the rates of
/// displays are not exact.
const TOLERANCE: f64 = 0.05;
/// A median this close to the budget shows the display's true period.
const NEAR: f64 = 0.005;

impl Display {
    /// Returns the time that a frame has, in nanoseconds.
    pub fn budget_ns(self) -> f64 {
        Nanos::PER_SECOND as f64 / self.hz
    }

    /// Returns the budget in nanoseconds as the pass itself shows it: its median frame time, where
    /// that lies within 0.5 % of a refresh. A display of 60 Hz may run at 59.94.
    pub(super) fn true_budget_ns(self, median_ns: f64) -> f64 {
        let (budget, off) = (self.budget_ns(), median_ns / self.budget_ns() - 1.0);
        if off.abs() <= NEAR { median_ns } else { budget }
    }
}

/// Returns how `frames` went by on `display`.
///
/// ```text
/// b = 1 / rate        Cᵢ = Σ x₁…xᵢ        Rᵢ = round(Cᵢ / b)
/// over    = Σ of xᵢ > 1.05·b / Σ of all
/// missed  = Σ max(0, Rᵢ − Rᵢ₋₁ − 1)
/// on time = share of frames with Rᵢ − Rᵢ₋₁ ≤ 1
/// ```
/// A frame is taken to be shown at the refresh nearest to its moment, so a jitter of less than half
/// a refresh misses nothing, and a rate a little under the display's misses one now and then.
///
/// * Shape: `n ≥ 1` frame times, in order; `median_ns` is theirs.
/// * Units: nanoseconds; shares have none.
/// * Source: definitions of this tool.
pub fn paced(frames: &[u64], median_ns: f64, display: Display) -> Paced {
    let budget = display.true_budget_ns(median_ns);
    let limit = budget * (1.0 + TOLERANCE);
    let (mut moment, mut refresh) = (0_u64, 0_u64);
    let (mut over, mut missed, mut late) = (0_u64, 0_u64, 0_u64);
    for &frame in frames {
        moment += frame;
        if frame as f64 > limit {
            over += frame;
        }
        // To the nearest: a call of `round` would cost more than all the rest.
        let next = (moment as f64 / budget + 0.5) as u64;
        let passed = (next - refresh).saturating_sub(1);
        (missed, late, refresh) = (missed + passed, late + u64::from(passed > 0), next);
    }
    let n = frames.len() as f64;
    Paced { over: over as f64 / moment as f64, missed, on_time: (n - late as f64) / n }
}

#[cfg(test)]
mod tests {
    use super::*;

    const HZ_60: Display = Display { hz: 60.0 };

    fn of(frames: &[u64]) -> Paced {
        let mut sorted = frames.to_vec();
        sorted.sort_unstable();
        paced(frames, sorted[sorted.len() / 2] as f64, HZ_60)
    }

    #[test]
    fn jitter_misses_nothing_and_a_double_frame_misses_one_refresh() {
        let jitter: Vec<u64> = (0..600).map(|i| [17_400_000, 15_933_333][i % 2]).collect();
        assert_eq!(of(&jitter), Paced { over: 0.0, missed: 0, on_time: 1.0 });
        let mut one = vec![16_666_667; 599];
        one.push(33_333_333);
        let found = of(&one);
        assert_eq!((found.missed, found.on_time), (1, 599.0 / 600.0));
        assert!((found.over - 2.0 / 601.0).abs() < 1e-6);
    }

    #[test]
    fn a_rate_under_the_displays_misses_the_difference_and_a_higher_one_nothing() {
        // 50 frames a second for 20 s at 60 Hz: 1,200 refreshes and 1,000 frames.
        assert_eq!(of(&[20_000_000; 1_000]).missed, 200);
        assert_eq!(of(&[20_000_000; 1_000]).over, 1.0);
        assert_eq!(of(&[6_944_444; 1_000]), Paced { over: 0.0, missed: 0, on_time: 1.0 });
    }

    #[test]
    fn a_display_a_little_off_its_stated_rate_misses_nothing() {
        assert_eq!(of(&[16_683_350; 10_000]).missed, 0);
    }
}
