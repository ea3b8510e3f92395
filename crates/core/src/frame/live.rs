//! What is shown while a pass is under way.

use super::stream::Present;
use crate::unit::Nanos;

/// The time over which the current rate is taken.
const CURRENT: Nanos = Nanos::from_seconds(1);
/// The time over which the worst frame is looked for.
const LAST: Nanos = Nanos::from_seconds(5);

/// A pass so far. Rates are frames a second.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Live {
    /// How many frames.
    pub frames: u64,
    /// The time since its begin.
    pub time: Nanos,
    /// The rate of the last second.
    pub current: f64,
    /// The rate since its begin.
    pub average: f64,
    /// The longest frame of the last five seconds, the one under way included.
    pub worst: Nanos,
}

/// Returns how a pass stands at the moment `now`: of `presents` since `begin`, in order of time.
///
/// `None` before the first frame has been shown for any time. A program that has stopped presenting
/// shows no rate and a worst frame that grows.
pub fn live(presents: &[Present], begin: u64, now: u64) -> Option<Live> {
    let from = presents.partition_point(|present| present.at < begin);
    let shown = &presents[from..];
    let (first, last) = (shown.first()?.at, shown.last()?.at);
    let since = |span: Nanos| now.saturating_sub(span.0).max(first);
    let after = |at: u64| shown.partition_point(|present| present.at <= at);
    let rate = |frames: usize, ns: u64| frames as f64 * Nanos::PER_SECOND as f64 / ns as f64;
    let recent = since(CURRENT);
    let under_way = now.saturating_sub(last);
    let seen = &shown[after(since(LAST)).saturating_sub(1)..];
    let worst = seen.windows(2).map(|pair| pair[1].at - pair[0].at).max().unwrap_or(0);
    (now > first).then(|| Live {
        frames: shown.len() as u64 - 1,
        time: Nanos(now - first),
        current: if now > recent { rate(shown.len() - after(recent), now - recent) } else { 0.0 },
        average: if last > first { rate(shown.len() - 1, last - first) } else { 0.0 },
        worst: Nanos(worst.max(under_way)),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    #[test]
    fn a_pass_under_way_is_told_by_its_last_seconds() {
        // 50 frames a second for 4 s, a stall of 500 ms at 2 s.
        let at = |frame: u64| Present {
            at: (frame * 20 + if frame > 100 { 480 } else { 0 }) * MS,
            took: 1,
        };
        let presents: Vec<Present> = (0..=200).map(at).collect();
        let end = presents.last().unwrap().at;
        let found = live(&presents, 0, end).unwrap();
        assert_eq!((found.frames, found.worst), (200, Nanos(500 * MS)));
        assert!((found.current - 50.0).abs() < 1e-9 && (found.average - 200.0 / 4.48).abs() < 1e-9);
        // Six seconds later nothing more has come.
        let stuck = live(&presents, 0, end + 6_000 * MS).unwrap();
        assert_eq!((stuck.current, stuck.worst), (0.0, Nanos(6_000 * MS)));
        let begun = live(&presents, 3_000 * MS, end).unwrap();
        assert_eq!((begun.frames, begun.worst), (74, Nanos(20 * MS)));
        assert_eq!(live(&presents, end + 1, end + 2), None);
        assert_eq!(live(&presents[..1], 0, 0), None);
    }
}
