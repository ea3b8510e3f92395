//! Playback: a pass against the rate of what is played.

use crate::record::Played;
use crate::unit::Nanos;
use std::f64::consts::TAU;

/// A frame that comes this many seconds after its turn was not late: it was another one.
const LATE_FOR: f64 = 0.5;

/// Returns how a source of `rate` frames a second was played by presents `frames` apart.
///
/// ```text
/// b = 1 / rate        Cᵢ = Σ x₁…xᵢ (C₀ = 0)        φ = b/2π · arg Σ exp(2πi·Cᵢ/b)
/// Sᵢ = round((Cᵢ − φ) / b)        due = Sₙ − S₀        not in their turn = Σ max(0, Sᵢ − Sᵢ₋₁ − 1)
/// late = those of them after which, within 0.5 s, a turn has more than one present
/// dropped = the others
/// ```
/// Every frame of the source has a turn of one period. The turns lie around the mean phase of the
/// presents (the circular mean, Mardia 1972), so that neither a display whose refreshes are no
/// multiple of the rate nor a first frame that is held for a while is taken for a fault. A present
/// in every turn is a frame in every turn: a program that presents more often than its source has
/// frames hides which of them were new.
///
/// * Shape: `n ≥ 1` frame times, in order; `None` where not one period was played. O(n).
/// * Units: nanoseconds in, a rate in frames a second; counts out.
/// * Source: the circular mean, Mardia (1972), *Statistics of Directional Data*; the rest is defined here.
pub fn played(frames: &[u64], rate: f64) -> Option<Played> {
    let period = Nanos::PER_SECOND as f64 / rate;
    let mut moments = Vec::with_capacity(frames.len() + 1);
    let mut moment = 0_u64;
    moments.push(0);
    for frame in frames {
        moment += frame;
        moments.push(moment);
    }
    let angle = |at: &u64| (*at as f64 / period).fract() * TAU;
    let (sine, cosine) = moments.iter().map(angle).fold((0.0, 0.0), |(sine, cosine), angle| {
        (sine + f64::sin(angle), cosine + f64::cos(angle))
    });
    let phase = f64::atan2(sine, cosine) / TAU;
    let turn = |at: &u64| (*at as f64 / period - phase).round() as i64;
    let (first, last) = (turn(&moments[0]), turn(moments.last()?));
    let due = u64::try_from(last - first).ok().filter(|&due| due > 0)?;
    let patience = (LATE_FOR * rate).ceil() as i64;
    let (mut late, mut missing) = (0, 0);
    // Turns that had no present yet, the oldest first.
    let mut open: std::collections::VecDeque<i64> = std::collections::VecDeque::new();
    let mut before = first;
    for at in &moments[1..] {
        let now = turn(at);
        while open.front().is_some_and(|&waited| now - waited > patience) {
            open.pop_front();
        }
        if now == before && open.pop_front().is_some() {
            late += 1;
        }
        for passed in before + 1..now {
            missing += 1;
            // Older ones would be dropped at once.
            if now - passed <= patience {
                open.push_back(passed);
            }
        }
        before = now.max(before);
    }
    Some(Played { due, late, dropped: missing - late })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Presents of a source of 24 frames a second on a display of 60 Hz: 2 and 3 refreshes in turn.
    fn cinema(frames: usize) -> Vec<u64> {
        (0..frames).map(|frame| [33_333_333, 50_000_000][frame % 2]).collect()
    }

    #[test]
    fn a_source_that_is_no_divisor_of_the_display_holds_real_time() {
        let found = played(&cinema(2_400), 24.0).unwrap();
        assert_eq!((found.due, found.late, found.dropped), (2_400, 0, 0));
        assert_eq!(found.on_time(), 1.0);
    }

    #[test]
    fn a_frame_left_out_is_dropped_and_one_that_comes_behind_is_late() {
        let mut frames = cinema(2_400);
        // One frame is held for the time of two: 83.3 ms in place of 33.3 and 50.
        frames.splice(1_000..1_002, [83_333_333]);
        let found = played(&frames, 24.0).unwrap();
        assert_eq!((found.due, found.late, found.dropped), (2_400, 0, 1));
        // As long a wait, and then both at once: nothing is lost, one was late.
        frames.splice(1_000..1_002, [83_333_333, 4_000_000, 29_333_333]);
        let found = played(&frames, 24.0).unwrap();
        assert_eq!((found.due, found.late, found.dropped), (2_400, 1, 0));
        assert!((found.on_time() - 2_399.0 / 2_400.0).abs() < 1e-12);
    }

    #[test]
    fn a_player_that_is_too_slow_drops_the_difference() {
        // 23 frames a second of 24 for 100 s.
        let found = played(&vec![1_000_000_000 / 23; 2_300], 24.0).unwrap();
        assert!(found.due.abs_diff(2_400) <= 1 && found.dropped.abs_diff(100) <= 1, "{found:?}");
        assert_eq!(found.late, 0);
    }

    #[test]
    fn a_first_frame_held_for_a_while_shifts_nothing_after_it() {
        let mut frames = cinema(2_400);
        frames[0] = 221_000_000;
        let found = played(&frames, 24.0).unwrap();
        assert!((3..=5).contains(&found.dropped), "{found:?}: only what it was held for");
        assert_eq!(played(&[1_000_000; 5], 24.0), None, "less than a period");
    }
}
