//! The difference of two cells: a ratio of speed, its interval, its verdict, what would settle it.

use super::cell::{Basis, Care, Cell};
use super::spread::Assumptions;
use super::verdict::{LEAST_LAPS, Refusal, Verdict, Widened, judge};
use crate::stat::{
    Interval, LapsNeeded, LogRatio, StatError, laps_needed, logs, paired, standard_deviation, welch,
};

/// What a comparison stands on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ground {
    /// Pairs driven in the same rounds of the same sessions: they share their luck.
    Pairs(usize),
    /// One value a session on both sides, this many on the side with fewer.
    Sessions(usize),
    /// At least one side has one session only, so the interval is widened by the luck of a day.
    ThisSessionOnly,
}

/// What would make an open comparison say more.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Settle {
    /// Laps on each side, until both have this many.
    LapsUpTo(usize),
    /// This many laps a side, in one session, as a range.
    Laps(LapsNeeded),
    /// Sessions on each side, until both have this many.
    SessionsUpTo(usize),
    /// This many sessions a side, as a range.
    Sessions(LapsNeeded),
}

/// A cell held against its baseline.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Difference {
    /// Ratio of speed, baseline's time over this cell's: above 1 is faster. `None` if refused.
    pub speed: Option<f64>,
    /// Its 95 % interval; `None` for a single lap.
    pub interval: Option<Interval>,
    /// What it supports.
    pub verdict: Verdict,
    /// What it stands on.
    pub ground: Ground,
    /// What would make it say more, where it says too little.
    pub settle: Option<Settle>,
    /// Standard uncertainty of its log that reading by hand leaves.
    pub reading: f64,
}

impl Difference {
    /// Returns the share of time saved against the baseline: 0.4 is 40 % less, −0.25 is 25 % more.
    pub fn time_saved(&self) -> Option<f64> {
        self.speed.map(|speed| 1.0 - 1.0 / speed)
    }

    /// Returns the difference with the verdict of `together`, which shares its chance of error with the
    /// others of its table: the more there are, the likelier is one by chance.
    pub(super) fn judged_as(self, together: &Self) -> Self {
        Self { verdict: together.verdict, settle: together.settle.or(self.settle), ..self }
    }

    /// Returns whether its own interval leaves out 1 and its verdict, which it shares a chance of error
    /// for, does not.
    pub fn is_by_chance(&self) -> bool {
        let apart = self.interval.is_some_and(|ends| ends.low > 1.0 || ends.high < 1.0);
        apart && matches!(self.verdict, Verdict::TooClose | Verdict::SameWithin(_))
    }

    /// Returns whether there is no verdict.
    pub fn is_refused(&self) -> bool {
        matches!(self.verdict, Verdict::Refused(_))
    }

    /// Returns a difference of which nothing can be said.
    pub(crate) fn refused(why: Refusal, ground: Ground, settle: Option<Settle>) -> Self {
        let (speed, interval, reading) = (None, None, 0.0);
        Self { speed, interval, verdict: Verdict::Refused(why), ground, settle, reading }
    }
}

/// The number of sessions a rig is wanted to have.
const STANDARD_SESSIONS: usize = 3;

/// Returns `cell` held against `base`, where the two were not driven in turn: two rigs, or laps
/// of different sittings.
///
/// * With two or more sessions on both sides: Welch's t on one value a session.
/// * A side with one session enters by its laps, and widens the interval by the spread between
///   sessions: `h = √(h² + sides·(z·τ)²)`.
/// * One lap on a side: a bare ratio, no interval, no verdict. Two: no verdict.
pub fn across_rigs(base: &Cell, cell: &Cell, assume: &Assumptions) -> Difference {
    let one_session = [base, cell].iter().filter(|c| c.basis() == Basis::Laps).count();
    let fewest_sessions = base.sessions().min(cell.sessions());
    let ground = match one_session {
        0 => Ground::Sessions(fewest_sessions),
        _ => Ground::ThisSessionOnly,
    };
    // Laps matter only on a side that is judged by them.
    let laps_of = |c: &Cell| (c.basis() == Basis::Laps).then(|| c.laps());
    let fewest_laps = [base, cell].into_iter().filter_map(laps_of).min();
    let speed = base.typical() / cell.typical();
    if let Some(laps) = fewest_laps.filter(|&laps| laps < 2) {
        return too_few(speed, None, laps, ground);
    }
    let Ok(ratio) = welch(&base.values(), &cell.values()) else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    let care = base.care().with(cell.care());
    let (reading, alpha) = (care.reading, care.alpha() / f64::from(assume.shared_by));
    let widened = Widened { luck: base.luck(assume) + cell.luck(assume), reading, alpha };
    let Ok(judged) = judge(&ratio, assume.margin, &widened) else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    let interval = speed_interval(&ratio, judged.half_95);
    if let Some(laps) = fewest_laps.filter(|&laps| laps < LEAST_LAPS) {
        return too_few(speed, Some(interval), laps, ground);
    }
    let settle = (judged.verdict == Verdict::TooClose)
        .then(|| settle_across(base, cell, fewest_sessions, assume.margin));
    Difference {
        speed: Some(speed),
        interval: Some(interval),
        verdict: judged.verdict,
        ground,
        settle: settle.flatten(),
        reading,
    }
}

/// Returns `cell` held against `base`, where both were driven in turn in the same sessions.
///
/// * Shape: `pairs` holds (base, cell) of each round. O(n).
/// * Judged by the t of the log ratios, widened by `care`; one pair: no interval; two: no verdict.
pub fn within_session(pairs: &[(f64, f64)], care: Care, assume: &Assumptions) -> Difference {
    let ground = Ground::Pairs(pairs.len());
    let (base, cell): (Vec<f64>, Vec<f64>) = pairs.iter().copied().unzip();
    if pairs.len() < 2 {
        return match pairs.first() {
            Some((base, cell)) => too_few(base / cell, None, 1, ground),
            None => Difference::refused(Refusal::NoLaps, ground, None),
        };
    }
    let alpha = care.alpha() / f64::from(assume.shared_by);
    let widened = Widened { luck: 0.0, reading: care.reading, alpha };
    let judged = paired(&base, &cell)
        .and_then(|ratio| judge(&ratio, assume.margin, &widened).map(|judged| (ratio, judged)));
    let Ok((ratio, judged)) = judged else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    let interval = speed_interval(&ratio, judged.half_95);
    let speed = (-ratio.log).exp();
    if pairs.len() < LEAST_LAPS {
        return too_few(speed, Some(interval), pairs.len(), ground);
    }
    let settle = (judged.verdict == Verdict::TooClose)
        .then(|| settle_pairs(&base, &cell, assume.margin).ok())
        .flatten();
    Difference {
        speed: Some(speed),
        interval: Some(interval),
        verdict: judged.verdict,
        ground,
        settle,
        reading: care.reading,
    }
}

fn too_few(speed: f64, interval: Option<Interval>, laps: usize, ground: Ground) -> Difference {
    Difference {
        speed: Some(speed),
        interval,
        verdict: Verdict::Refused(Refusal::FewLaps(laps)),
        ground,
        settle: Some(Settle::LapsUpTo(LEAST_LAPS)),
        reading: 0.0,
    }
}

/// Turns a log time ratio b / a into the interval of the speed ratio a / b.
fn speed_interval(ratio: &LogRatio, half: f64) -> Interval {
    Interval { low: (-ratio.log - half).exp(), high: (-ratio.log + half).exp() }
}

fn settle_across(base: &Cell, cell: &Cell, sessions: usize, margin: f64) -> Option<Settle> {
    if sessions < STANDARD_SESSIONS {
        return Some(Settle::SessionsUpTo(STANDARD_SESSIONS));
    }
    let spread = |c: &Cell| standard_deviation(c.session_logs());
    let (Ok(a), Ok(b)) = (spread(base), spread(cell)) else { return None };
    let df = (base.sessions() + cell.sessions() - 2) as f64;
    let pooled = ((base.sessions() - 1) as f64 * a * a + (cell.sessions() - 1) as f64 * b * b) / df;
    let need = laps_needed(pooled.sqrt(), df, settling_half_width(margin)).ok()?;
    Some(Settle::Sessions(more_than(sessions, need)))
}

fn settle_pairs(base: &[f64], cell: &[f64], margin: f64) -> Result<Settle, StatError> {
    let differences: Vec<f64> = logs(base)?.iter().zip(logs(cell)?).map(|(a, b)| b - a).collect();
    // A difference of two laps spreads √2 times as wide as one lap.
    let lap_sd = standard_deviation(&differences)? / std::f64::consts::SQRT_2;
    let df = (differences.len() - 1) as f64;
    let need = laps_needed(lap_sd, df, settling_half_width(margin))?;
    Ok(Settle::Laps(more_than(base.len(), need)))
}

/// Returns the half-width, as a fraction, at which every comparison is settled: half the margin
/// on the log scale. A ratio within it of 1 then has its interval inside the margin, and is the
/// same; a ratio farther off has an interval that leaves out 1.
fn settling_half_width(margin: f64) -> f64 {
    (1.0 + margin).sqrt() - 1.0
}

/// Returns `need` as more than what was not enough.
fn more_than(driven: usize, need: LapsNeeded) -> LapsNeeded {
    let least = u32::try_from(driven + 1).unwrap_or(u32::MAX);
    LapsNeeded { plain: need.plain.max(least), assured: need.assured.max(least) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::judge::SessionSpread;

    fn one(laps: &[f64]) -> Cell {
        Cell::from_sessions(vec![laps.to_vec()]).unwrap()
    }

    #[test]
    fn one_lap_gives_a_bare_ratio_and_says_what_would_help() {
        let said = across_rigs(&one(&[2.0]), &one(&[1.0]), &Assumptions::default());
        assert_eq!(said.speed, Some(2.0));
        assert_eq!(said.time_saved(), Some(0.5));
        assert_eq!(said.interval, None);
        assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(1)));
        assert_eq!(said.settle, Some(Settle::LapsUpTo(3)));
    }

    #[test]
    fn two_laps_give_an_interval_and_no_verdict() {
        let said =
            across_rigs(&one(&[2.0, 2.02]), &one(&[1.0, 1.01, 1.02]), &Assumptions::default());
        assert!(said.interval.is_some());
        assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(2)));
    }

    #[test]
    fn one_session_each_is_widened_and_sent_for_more_sessions() {
        let a = one(&[100.0, 101.2, 99.6, 100.4, 100.9]);
        let b = one(&[102.3, 103.1, 101.9, 102.8, 102.2]);
        let said = across_rigs(&a, &b, &Assumptions::default());
        assert_eq!((said.verdict, said.ground), (Verdict::TooClose, Ground::ThisSessionOnly));
        assert_eq!(said.settle, Some(Settle::SessionsUpTo(3)));
        // The same laps with no luck of the day would have named a winner.
        let lucky =
            Assumptions { session_spread: SessionSpread::Measured(0.0), ..Default::default() };
        assert_eq!(across_rigs(&a, &b, &lucky).verdict, Verdict::Slower);
    }

    #[test]
    fn a_side_with_sessions_is_widened_once_only() {
        let many =
            Cell::from_sessions(vec![vec![100.0], vec![100.1], vec![99.9], vec![100.0]]).unwrap();
        let single = one(&[100.0, 100.1, 99.9, 100.0]);
        let width = |a: &Cell, b: &Cell| {
            let interval = across_rigs(a, b, &Assumptions::default()).interval.unwrap();
            (interval.high / interval.low).ln() / 2.0
        };
        // √1·1.96·0.015 and √2·1.96·0.015, a little more for the laps' own spread.
        assert!((width(&many, &single) - 0.0294).abs() < 0.0005);
        assert!((width(&single, &single) - 0.0416).abs() < 0.0005);
    }

    #[test]
    fn pairs_shrug_off_a_drift() {
        let pairs: Vec<(f64, f64)> = (0..6)
            .map(|i| (100.0 + f64::from(i) * 3.0, (100.0 + f64::from(i) * 3.0) * 0.9))
            .collect();
        let said = within_session(&pairs, Care::default(), &Assumptions::default());
        assert_eq!((said.verdict, said.ground), (Verdict::Faster, Ground::Pairs(6)));
        assert!((said.speed.unwrap() - 1.0 / 0.9).abs() < 1e-9);
        assert!(
            within_session(&pairs[..2], Care::default(), &Assumptions::default()).speed.is_some()
        );
        assert_eq!(
            within_session(&[], Care::default(), &Assumptions::default()).verdict,
            Verdict::Refused(Refusal::NoLaps)
        );
    }

    #[test]
    fn an_open_pairing_says_how_many_laps_would_settle_it() {
        let pairs = [(100.0, 104.0), (103.0, 99.0), (98.0, 101.0), (102.0, 100.0)];
        let said = within_session(&pairs, Care::default(), &Assumptions::default());
        assert_eq!(said.verdict, Verdict::TooClose);
        let Some(Settle::Laps(need)) = said.settle else { panic!("{said:?}") };
        assert!(4 < need.plain && need.plain < need.assured, "{need:?}");
    }
}
