//! Hitches: single frames that stand out from what is around them.

/// How many frames its surroundings are, itself among them.
pub const SURROUNDINGS: usize = 31;
/// How much longer than the median of its surroundings a hitch takes, at least, in nanoseconds.
pub const LEAST_HITCH: u64 = 8_000_000;

/// A frame that stands out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Hitch {
    /// Its place in the pass, from 0.
    pub frame: usize,
    /// What it took beyond the median of its surroundings, in nanoseconds.
    pub lost: u64,
}

/// Returns the hitches among `frames`, in their order.
///
/// ```text
/// m = median of the 31 frames nearest to x, itself among them      hitch: x > 2·m and x ≥ m + 8 ms
/// lost = x − m
/// ```
/// * Shape: any number of frame times, in order. At either end the 31 lie to one side; of fewer
///   frames all are taken, or all but one where their number is even. O(31·n).
/// * Units: nanoseconds.
/// * Source: a definition of this tool; a running median, Tukey (1977), *Exploratory Data Analysis*, 7.
pub fn hitches(frames: &[u64]) -> Vec<Hitch> {
    let window =
        SURROUNDINGS.min(frames.len().saturating_sub(usize::from(frames.len().is_multiple_of(2))));
    let half = window / 2;
    let mut found = Vec::new();
    for (frame, &time) in frames.iter().enumerate() {
        if time < LEAST_HITCH {
            continue;
        }
        let first = frame.saturating_sub(half).min(frames.len() - window);
        let around = &frames[first..first + window];
        // The median lies below a bound where more than half of the values do: a count does, and
        // no sorting.
        let below = time.div_ceil(2).min(time - LEAST_HITCH + 1);
        if around.iter().filter(|&&other| other < below).count() <= half {
            continue;
        }
        let mut sorted = [0; SURROUNDINGS];
        sorted[..window].copy_from_slice(around);
        let (_, median, _) = sorted[..window].select_nth_unstable(half);
        found.push(Hitch { frame, lost: time - *median });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    #[test]
    fn a_hitch_takes_both_twice_as_long_and_eight_milliseconds_more() {
        let with = |odd: u64, usual: u64| {
            let mut frames = vec![usual; 100];
            frames[40] = odd;
            hitches(&frames)
        };
        assert_eq!(with(41 * MS, 20 * MS), [Hitch { frame: 40, lost: 21 * MS }]);
        assert_eq!(with(40 * MS, 20 * MS), [], "not more than twice");
        assert_eq!(with(12 * MS, 4 * MS), [Hitch { frame: 40, lost: 8 * MS }]);
        assert_eq!(with(12 * MS - 1, 4 * MS), [], "less than 8 ms more");
    }

    #[test]
    fn slow_frames_in_a_row_are_each_other_s_surroundings() {
        let mut frames = vec![10 * MS; 200];
        frames[100..150].fill(50 * MS);
        // Of the 31 around any of them sixteen are slow as well.
        assert_eq!(hitches(&frames), []);
        frames[100..110].fill(50 * MS);
        frames[110..].fill(10 * MS);
        assert_eq!(hitches(&frames).len(), 10);
    }

    #[test]
    fn the_ends_and_short_passes_have_surroundings_too() {
        assert_eq!(hitches(&[]), []);
        assert_eq!(hitches(&[900 * MS]), []);
        assert_eq!(hitches(&[900 * MS, 10 * MS, 10 * MS, 10 * MS])[0].frame, 0);
        let mut frames = vec![10 * MS; 64];
        (frames[0], frames[63]) = (100 * MS, 100 * MS);
        assert_eq!(hitches(&frames).len(), 2);
    }
}
