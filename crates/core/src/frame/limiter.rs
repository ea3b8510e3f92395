//! A limiter: what lets frames come at a steady rate of its own, whatever display there is.

use crate::record::Cap;

/// Frames of a block.
const BLOCK: usize = 8;
/// Blocks that show how far such sums vary.
const LEAST_BLOCKS: usize = 30;
/// Blocks that are added up to one long one.
const LONG: usize = 5;
/// Stretches that a pass is looked at in; none has fewer than `LEAST_BLOCKS` blocks.
const MOST_STRETCHES: usize = 12;
/// A frame of more than so many usual ones is a hitch, and its block is left out.
const HITCH: f64 = 1.5;
/// Sums of a block vary by no more than this share of what they would if frames were independent.
const BOUND: f64 = 0.35;
/// Sums of long blocks vary as those of short ones do, up to so many standard errors of their variance: a schedule is kept
/// however long it is, and work that varies adds up.
const NO_GROWTH: f64 = 3.0;
/// Frames that vary by less than this share of their time are as good as equal: only at a whole rate is that a limiter.
const EQUAL: f64 = 0.002;
/// How near stretches under one limiter are to one rate: the frames at their ends are early or late.
const NEAR: f64 = 0.003;
/// How near equal frames are to a whole rate.
const WHOLE: f64 = 0.001;
/// A limiter is a bound: no stretch runs faster by more than this.
const FASTER: f64 = 0.01;
/// The share of the frames that must be under it.
const LEAST_SHARE: f64 = 0.35;

/// Returns the limiter that `frames` are under, if there is one.
///
/// Whoever keeps a schedule makes up for a late frame with a short one:
///
/// ```text
/// fᵢ = P + eᵢ − eᵢ₋₁        var(Σ of m frames) = 2·var(e), whatever m
/// ```
///
/// and frames that a rig makes as fast as it can do not: the variance of their sums grows with m, and faster where the
/// work of neighbours is alike. So a stretch is under a limiter where sums of 8 frames vary by no more than 35 % of what
/// independent frames would, and sums of 40 as much as sums of 8 do, but for three standard errors. Stretches of one rate that have a
/// third of the frames together are the limiter, if no other stretch is faster: it is a bound.
///
/// * Shape: `n` frame times; of fewer than 240 nothing is said.
/// * Units: nanoseconds.
/// * Errors: of 1,560 simulated passes under limiters of 24 to 144 a second, frames ±1 to 3 ms, half of them for half of
///   the pass, 99 % are found, and of as many without one none is accused (`tests::forty_with_and_forty_without`, by 39
///   seeds).
pub(super) fn limiter(frames: &[u64]) -> Option<Cap> {
    let stretches = (frames.len() / (BLOCK * LEAST_BLOCKS)).min(MOST_STRETCHES);
    let each = frames.len().checked_div(stretches)?;
    let all: Vec<Stretch> = frames.chunks_exact(each).map(Stretch::of).collect::<Option<_>>()?;
    let kept = || all.iter().filter(|stretch| stretch.keeps_a_schedule);
    // Of several rates the one that most stretches have.
    let beside =
        |one: &Stretch| kept().filter(|other| near(one.period, other.period, NEAR)).count();
    let best = kept().max_by_key(|one| beside(one))?;
    let share = beside(best) as f64 / all.len() as f64;
    let is_bound = all.iter().all(|stretch| stretch.period > best.period * (1.0 - FASTER));
    let hz = (1e9 / best.period * 10.0).round() / 10.0;
    (share >= LEAST_SHARE && is_bound).then_some(Cap {
        hz,
        refreshes: 1,
        share,
        stated: false,
        limiter: true,
    })
}

fn near(one: f64, other: f64, within: f64) -> bool {
    (one / other - 1.0).abs() <= within
}

/// Frames that follow one another.
struct Stretch {
    /// The mean of its frames, hitches and what is beside them left out.
    period: f64,
    keeps_a_schedule: bool,
}

impl Stretch {
    /// Returns what `frames` show; `None` where too few of them are no hitches.
    fn of(frames: &[u64]) -> Option<Self> {
        let mut sorted = frames.to_vec();
        let (_, usual, _) = sorted.select_nth_unstable(frames.len() / 2);
        let most = *usual as f64 * HITCH;
        let is_whole = |block: &[u64]| block.iter().all(|&frame| frame as f64 <= most);
        let sum = |block: &[u64]| block.iter().map(|&frame| frame as f64).sum::<f64>();
        let blocks: Vec<Option<f64>> =
            frames.chunks_exact(BLOCK).map(|block| is_whole(block).then(|| sum(block))).collect();
        let known: Vec<f64> = blocks.iter().copied().flatten().collect();
        if known.len() < LEAST_BLOCKS * 2 / 3 {
            return Some(Self {
                period: sum(frames) / frames.len() as f64,
                keeps_a_schedule: false,
            });
        }
        let period = known.iter().sum::<f64>() / (known.len() * BLOCK) as f64;
        let single = frames.chunks_exact(BLOCK).filter(|block| is_whole(block)).flatten();
        let single = variance(single.map(|&frame| frame as f64), period);
        let short = variance(known.iter().copied(), period * BLOCK as f64);
        // A long block is whole where all of its short ones are.
        let long: Vec<f64> = blocks
            .chunks_exact(LONG)
            .filter_map(|some| some.iter().copied().sum::<Option<f64>>())
            .collect();
        // The variance of so few is known to √(2/n) of itself.
        let growth = 1.0 + NO_GROWTH * (2.0 / long.len() as f64).sqrt();
        let long = variance(long.into_iter(), period * (BLOCK * LONG) as f64);
        let rate = 1e9 / period;
        let keeps_a_schedule = match single.sqrt() < EQUAL * period {
            true => near(rate, rate.round().max(1.0), WHOLE),
            false => short <= BOUND * BLOCK as f64 * single && long <= growth * short,
        };
        Some(Self { period, keeps_a_schedule })
    }
}

/// Returns the mean square of what `values` lie from `middle`.
fn variance(values: impl Iterator<Item = f64>, middle: f64) -> f64 {
    let (count, squares) = values.fold((0.0, 0.0), |(count, squares), value| {
        (count + 1.0, squares + (value - middle) * (value - middle))
    });
    if count > 0.0 { squares / count } else { f64::INFINITY }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    const RATES: [f64; 7] = [24.0, 30.0, 58.0, 60.0, 62.0, 141.0, 144.0];

    /// Frames that a rig makes as fast as it can: scenes that change, and work that varies from frame to frame.
    struct Free {
        usual_ms: f64,
        scene: f64,
        slow: f64,
        quick: f64,
    }

    impl Free {
        fn new(random: &mut SplitMix, usual_ms: f64) -> Self {
            let between = |random: &mut SplitMix, low: f64, high: f64| {
                low + (high - low) * (random.below(1_000) as f64 / 1_000.0)
            };
            let slow = between(random, 0.03, 0.2);
            Self { usual_ms, scene: 0.0, slow, quick: between(random, 0.01, 0.12) }
        }

        /// Returns the next frame, in ms.
        fn next(&mut self, random: &mut SplitMix) -> f64 {
            self.scene = 0.995 * self.scene + self.slow * 0.1 * random.normal();
            let hitch = if random.below(400) == 0 { 2.5 } else { 1.0 };
            self.usual_ms * (self.scene + self.quick * random.normal()).exp() * hitch
        }
    }

    fn nanos(ms: f64) -> u64 {
        (ms.max(0.2) * 1e6) as u64
    }

    /// Returns a pass of 60 s, under a limiter from its first frame on or from its middle on.
    fn limited(random: &mut SplitMix, rate: f64, jitter_ms: f64, half: bool) -> Vec<u64> {
        let period = 1e3 / rate;
        let mut free = Free::new(random, period * if half { 1.25 } else { 0.6 });
        let mut late = 0.0;
        let mut frames = Vec::new();
        let count = (60.0 * rate) as usize;
        for at in 0..count {
            let work = free.next(random);
            if half && at < count / 2 {
                frames.push(nanos(work.max(period)));
                continue;
            }
            let now = jitter_ms * random.normal() / 2f64.sqrt();
            let hitch = if random.below(500) == 0 { period } else { 0.0 };
            frames.push(nanos(period + now - late + hitch));
            late = now;
        }
        frames
    }

    #[test]
    fn forty_with_and_forty_without() {
        let mut random = SplitMix::new(22);
        let (mut found, mut missed, mut accused) = (0, Vec::new(), Vec::new());
        for case in 0..40 {
            let rate = RATES[case % RATES.len()];
            // A jitter of 3 ms at 144 Hz would be half a frame: there it is the frame's part.
            let jitter = f64::min([1.0, 2.0, 3.0][case % 3], 200.0 / rate);
            let frames = limited(&mut random, rate, jitter, case % 2 == 1);
            let right = |cap: &Cap| (cap.hz / rate - 1.0).abs() < 0.005;
            let cap = limiter(&frames);
            let is_right = cap.is_some_and(|cap| right(&cap));
            found += usize::from(is_right);
            missed.extend((!is_right).then_some((rate, jitter, case % 2 == 1, cap)));
            let mut free = Free::new(&mut random, 1e3 / (rate * (0.7 + 0.02 * case as f64)));
            let frames: Vec<u64> =
                (0..(60.0 * rate) as usize).map(|_| nanos(free.next(&mut random))).collect();
            accused.extend(limiter(&frames).map(|cap| (case, cap)));
        }
        assert_eq!(accused, []);
        assert!(found >= 38, "{found} of 40: {missed:?}");
    }

    #[test]
    fn a_short_pass_and_a_steady_rig_say_nothing() {
        let mut random = SplitMix::new(5);
        assert_eq!(limiter(&limited(&mut random, 60.0, 1.0, false)[..200]), None);
        assert_eq!(limiter(&[14_100_000; 2_000]), None, "70.9 a second is nobody's limit");
        assert_eq!(limiter(&[16_129_032; 2_000]).map(|cap| cap.hz), Some(62.0));
        // One scene all along, each frame 1 % off by itself.
        let steady: Vec<u64> =
            (0..6_000).map(|_| nanos(11.5 * (1.0 + 0.01 * random.normal()))).collect();
        assert_eq!(limiter(&steady), None);
        assert_eq!(limiter(&[]), None);
    }
}
