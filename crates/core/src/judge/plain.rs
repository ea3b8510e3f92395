//! Values that have no ratio, since one of them is zero or less: held against each other by their difference.

use super::apart::Apart;
use super::assumption::Assumptions;
use super::cell::{Allowances, Cell, rectangular};
use super::difference::{Difference, Ground, Needed};
use super::verdict::{LEAST_LAPS, Refusal, Verdict};
use crate::estimate::{BetweenSessions, ENOUGH_SESSIONS, Estimate};
use crate::record::Better;
use crate::stat::{Interval, StatError, Summary, equal_rates_p, mean, standard_deviation, summary};

/// The counted values of a cell, session by session, on their own scale.
#[derive(Clone, Debug, PartialEq)]
pub struct Plain {
    sessions: Vec<Vec<f64>>,
    /// Whether its laps ended when they looked precise enough.
    looked: bool,
    /// Standard uncertainty of reading them in steps.
    reading: f64,
    between: BetweenSessions,
}

impl Plain {
    /// Returns the values of `sessions`, leaving out those without any; `None` where there are none.
    pub fn of(sessions: Vec<Vec<f64>>) -> Option<Self> {
        let sessions: Vec<Vec<f64>> =
            sessions.into_iter().filter(|laps| !laps.is_empty()).collect();
        let between = BetweenSessions::default();
        (!sessions.is_empty()).then_some(Self { sessions, looked: false, reading: 0.0, between })
    }

    /// Returns the values of a cell that has ratios too.
    pub(super) fn of_cell(cell: &Cell) -> Self {
        let Allowances { reading, looked } = cell.allowances();
        let (sessions, reading) = (cell.by_session().into_owned(), reading * cell.typical());
        Self { sessions, looked, reading, between: cell.between() }
    }

    /// Returns it with values read in steps of `step`, of laps that ended when they looked precise enough where so.
    pub(super) fn read_in_steps(self, step: f64, looked: bool) -> Self {
        Self { reading: rectangular(step), looked, ..self }
    }

    fn alpha(&self) -> f64 {
        Allowances { looked: self.looked, reading: 0.0 }.alpha()
    }

    /// Returns it with what the lab has shown of how far days differ.
    pub(super) fn with_between(self, between: BetweenSessions) -> Self {
        Self { between, ..self }
    }

    /// Returns how many laps it holds.
    pub fn laps(&self) -> usize {
        self.sessions.iter().map(Vec::len).sum()
    }

    /// Returns the laps of each session.
    ///
    /// * Shape: one series a session, none empty.
    pub fn by_session(&self) -> &[Vec<f64>] {
        &self.sessions
    }

    /// Returns the arithmetic mean, in which each session weighs the same.
    pub fn mean(&self) -> f64 {
        let means = self.means();
        means.iter().sum::<f64>() / means.len() as f64
    }

    fn means(&self) -> Vec<f64> {
        let mean = |laps: &Vec<f64>| laps.iter().sum::<f64>() / laps.len() as f64;
        self.sessions.iter().map(mean).collect()
    }

    /// Returns the summary of all laps, whatever their session.
    ///
    /// * Errors: as of [`summary`].
    pub fn summary(&self) -> Result<Summary, StatError> {
        summary(&self.sessions.concat())
    }

    /// Returns the 95 % interval of the mean, on any day.
    ///
    /// * Errors: as of [`Self::estimate`].
    pub fn interval(&self) -> Result<Interval, StatError> {
        let estimate = self.estimate()?;
        let half = estimate.half_width(1.0 - self.alpha())?;
        Ok(Interval { low: estimate.log - half, high: estimate.log + half })
    }

    /// Returns the mean as an estimate, on the values' own scale.
    ///
    /// ```text
    /// K ≥ 3 sessions: s²(means)/K with K − 1 degrees
    /// fewer: the laps' own variance of the mean, and (τ̂·mean)²/K with the degrees of τ̂
    /// ```
    /// * Units: those of the values, squared for the variance.
    /// * Errors: [`StatError::TooFew`] of single laps.
    /// * Source: Welch (1947), <https://doi.org/10.1093/biomet/34.1-2.28>; τ̂ is a share, so a day moves a mean by its share of it.
    pub fn estimate(&self) -> Result<Estimate, StatError> {
        let means = self.means();
        let (sessions, log) = (means.len() as f64, mean(&means)?);
        if means.len() >= ENOUGH_SESSIONS {
            let variance = standard_deviation(&means)?.powi(2) / sessions;
            return Ok(Estimate { log, variance, degrees: sessions - 1.0 });
        }
        let (mut squares, mut degrees, mut share) = (0.0, 0.0, 0.0);
        for laps in &self.sessions {
            share += 1.0 / laps.len() as f64;
            if laps.len() > 1 {
                let own = (laps.len() - 1) as f64;
                squares += own * standard_deviation(laps)?.powi(2);
                degrees += own;
            }
        }
        if degrees == 0.0 {
            return Err(StatError::TooFew { needed: 2, found: self.laps() });
        }
        let laps = (squares / degrees * share / (sessions * sessions), degrees);
        let days = (self.between.variance() * log * log / sessions, self.between.degrees());
        Ok(Estimate::of_parts(log, [laps, days]))
    }
}

/// Returns `row` held against `base` by the difference of their means.
///
/// Where all values are whole they may be counts, few of which tell little however alike they are: a winner must then
/// pass the exact test of two Poisson rates as well.
///
/// * The margin is a share of what the baseline has: of nothing, nothing is the same within it.
pub(super) fn by_difference(
    base: &Plain,
    row: &Plain,
    better: Better,
    assume: &Assumptions,
) -> Difference {
    let fewest = base.sessions.len().min(row.sessions.len());
    let ground = match fewest {
        1 => Ground::ThisSessionOnly,
        sessions => Ground::Sessions(sessions),
    };
    let laps = base.laps().min(row.laps());
    let (base_mean, here) = (base.mean(), row.mean());
    let apart = |interval| Some(Apart { base: base_mean, here, interval });
    if fewest == 1 && laps < LEAST_LAPS {
        let needed = Some(Needed::LapsUpTo(LEAST_LAPS));
        let refused = Difference::refused(Refusal::FewLaps(laps), ground, needed);
        return Difference { apart: apart(None), ..refused };
    }
    let (shown, alpha) = assume.shares(base.alpha().min(row.alpha()));
    let found = estimated(base, row, alpha).and_then(|(estimate, told)| {
        let [half_95, half, half_90] =
            [shown, alpha, 2.0 * alpha].map(|alpha| estimate.half_width(1.0 - alpha));
        Ok((estimate.log, half_95?, half?, half_90?, told))
    });
    let Ok((by, half_95, half, half_90, told)) = found else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    let is_ahead = (by < 0.0) == (better == Better::Less);
    let near = by.abs() + half_90 < assume.margin * base_mean.abs();
    let verdict = match (told && by.abs() > half, near, is_ahead) {
        (true, false, true) => Verdict::Faster,
        (true, false, false) => Verdict::Slower,
        (true, true, true) => Verdict::FasterWithin(assume.margin),
        (true, true, false) => Verdict::SlowerWithin(assume.margin),
        (false, true, _) => Verdict::SameWithin(assume.margin),
        (false, false, _) => Verdict::TooClose,
    };
    let needed = (verdict == Verdict::TooClose && fewest < ENOUGH_SESSIONS)
        .then_some(Needed::SessionsUpTo(ENOUGH_SESSIONS));
    let interval = Some(Interval { low: by - half_95, high: by + half_95 });
    Difference {
        apart: apart(interval),
        speed: None,
        interval: None,
        verdict,
        ground,
        needed,
        reading: 0.0,
        by_rate: false,
    }
}

/// Returns the difference, half its intervals, and whether counts may tell it.
fn estimated(base: &Plain, row: &Plain, alpha: f64) -> Result<(Estimate, bool), StatError> {
    let reading = base.reading.powi(2) + row.reading.powi(2);
    let estimate = row.estimate()?.minus(base.estimate()?).widened(reading);
    let told = match (events(base), events(row)) {
        (Some(base), Some(row)) => equal_rates_p(base, row)? < alpha,
        _ => true,
    };
    Ok((estimate, told))
}

/// Returns how many events there were in how many laps, where all values are whole.
fn events(of: &Plain) -> Option<(u64, usize)> {
    let whole = |value: &f64| value.fract() == 0.0 && (0.0..1e15).contains(value);
    let all = || of.sessions.iter().flatten();
    all().all(whole).then(|| (all().map(|value| *value as u64).sum(), of.laps()))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plain(sessions: &[&[f64]]) -> Plain {
        let sessions = sessions.iter().map(|laps| laps.to_vec()).collect();
        Plain::of(sessions).unwrap()
    }

    fn held(base: &[&[f64]], row: &[&[f64]]) -> Difference {
        by_difference(&plain(base), &plain(row), Better::Less, &Assumptions::default())
    }

    #[test]
    fn none_against_many_is_better_and_says_so() {
        let said = held(&[&[150.0, 140.0, 160.0]], &[&[0.0, 0.0, 0.0]]);
        assert_eq!((said.verdict, said.speed), (Verdict::Faster, None));
        let apart = said.apart.unwrap();
        assert_eq!((apart.base, apart.here), (150.0, 0.0));
        assert!(apart.interval.unwrap().high < -100.0, "{apart:?}");
        assert_eq!(held(&[&[0.0; 3]], &[&[150.0, 140.0, 160.0]]).verdict, Verdict::Slower);
    }

    #[test]
    fn few_events_tell_nothing_however_alike_they_are() {
        // One in each lap against none in each: no spread at all, and 2·(1/2)³ by chance.
        let said = held(&[&[0.0; 3]], &[&[1.0; 3]]);
        assert_eq!(said.verdict, Verdict::TooClose);
        assert_eq!(held(&[&[0.0; 3]], &[&[0.0; 3]]).verdict, Verdict::TooClose);
    }

    #[test]
    fn three_sessions_assume_nothing_of_days() {
        let three = plain(&[&[0.0, 2.0], &[3.0, 1.0], &[2.0, 4.0]]);
        // Means 1, 2, 3: s²/K = 1/3 with 2 degrees.
        let estimate = three.estimate().unwrap();
        assert!((estimate.variance - 1.0 / 3.0).abs() < 1e-12 && estimate.degrees == 2.0);
        assert_eq!((three.mean(), three.laps()), (2.0, 6));
        assert!(plain(&[&[0.0]]).estimate().is_err());
    }

    #[test]
    fn two_laps_give_no_verdict() {
        let said = held(&[&[0.0, 0.0]], &[&[5.0, 6.0, 7.0]]);
        assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(2)));
        assert!(said.apart.is_some());
    }
}
