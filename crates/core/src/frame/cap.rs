//! A cap: a rate that is pinned to a display's refresh shows the display, not the rig.

use super::limiter::limiter;
use crate::record::{Cap, Digest, Display};

/// Rates of common displays, for where the study states none.
const COMMON_HZ: [f64; 10] = [24.0, 30.0, 50.0, 60.0, 72.0, 75.0, 90.0, 120.0, 144.0, 240.0];
/// How far from a whole number of refreshes a frame may lie and still count as pinned to it, as a
/// share of one refresh.
const WIDTH: f64 = 0.04;
/// How many frames must.
const LEAST_SHARE: f64 = 0.75;
/// How close to a whole fraction of a display's rate the average must lie, where no rate is stated.
const NEAR: f64 = 0.01;

/// Returns the cap that `frames` lie under, if there is one.
///
/// Frames of a rig's own making take what they take; those of a display take whole numbers of
/// refreshes. At least three frames in four must lie within 4 % of a refresh of such a number (of
/// frames with no such tie 8 % would). Where no display is stated, the median must also lie
/// within 1 % of one refresh of a common display: chance comes near one of many rates. What is no display's may be a
/// limiter's.
///
/// * Shape: `n` frame times and their median; of fewer than 30 nothing is said.
/// * Units: nanoseconds.
pub fn cap(frames: &[u64], median_ns: f64, display: Option<Display>) -> Option<Cap> {
    if frames.len() < 30 {
        return None;
    }
    let of_display = match display {
        Some(display) => pinned(frames, median_ns, display).map(|cap| Cap { stated: true, ..cap }),
        None => {
            let near = COMMON_HZ.into_iter().map(|hz| Display { hz });
            let mut near = near.filter(|d| (median_ns / d.budget_ns() - 1.0).abs() <= NEAR);
            near.find_map(|display| pinned(frames, median_ns, display))
        }
    };
    of_display.or_else(|| limiter(frames))
}

/// How near a rate must be to that of its source to be the same: 23.976 and 24 are.
const OWN_RATE: f64 = 0.01;

/// Returns the cap that keeps a pass from showing what its rig can do: what plays a source is to run at the source's own
/// rate, and that is none.
pub fn cap_of(digest: &Digest) -> Option<Cap> {
    let cap = digest.cap?;
    let shown = digest.sums.frames as f64 / digest.sums.time.seconds();
    let refreshed = cap.hz / f64::from(cap.refreshes.max(1));
    let near = |rate: f64| [shown, refreshed].iter().any(|at| (at / rate - 1.0).abs() < OWN_RATE);
    (!digest.against.plays_at.is_some_and(near)).then_some(cap)
}

fn pinned(frames: &[u64], median_ns: f64, display: Display) -> Option<Cap> {
    let budget = display.true_budget_ns(median_ns);
    let whole = |&&frame: &&u64| {
        let refreshes = frame as f64 / budget;
        // A hundred refreshes are a stall, of whatever length.
        let nearest = (refreshes + 0.5) as u64 as f64;
        (0.5..100.0).contains(&refreshes) && (refreshes - nearest).abs() <= WIDTH
    };
    let share = frames.iter().filter(whole).count() as f64 / frames.len() as f64;
    let refreshes = (median_ns / budget).round().max(1.0) as u32;
    (share >= LEAST_SHARE).then_some(Cap {
        hz: display.hz,
        refreshes,
        share,
        stated: false,
        limiter: false,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    fn found(frames: &[u64], hz: Option<f64>) -> Option<(f64, u32)> {
        let mut sorted = frames.to_vec();
        sorted.sort_unstable();
        let median = sorted[sorted.len() / 2] as f64;
        cap(frames, median, hz.map(|hz| Display { hz })).map(|cap| (cap.hz, cap.refreshes))
    }

    #[test]
    fn frames_at_refreshes_are_capped_and_others_are_not() {
        assert_eq!(found(&[16_683_350; 600], Some(60.0)), Some((60.0, 1)));
        assert_eq!(found(&[16_683_350; 600], None), Some((60.0, 1)));
        let alternating: Vec<u64> = (0..600).map(|i| [16_666_667, 33_333_333][i % 2]).collect();
        assert!(found(&alternating, Some(60.0)).is_some());
        assert_eq!(found(&[33_300_000; 600], Some(60.0)), Some((60.0, 2)));
        assert_eq!(found(&[14_100_000; 600], Some(60.0)), None);
        assert_eq!(found(&[14_100_000; 600], None), None);
    }

    #[test]
    fn a_rig_that_happens_to_run_at_sixty_is_not_accused() {
        let mut random = SplitMix::new(7);
        let frames: Vec<u64> =
            (0..3_000).map(|_| (16_666_667.0 * (0.06 * random.normal()).exp()) as u64).collect();
        assert_eq!(found(&frames, Some(60.0)), None);
        assert_eq!(found(&frames, None), None);
    }
}
