//! One side of a comparison that was not run in turn with the other: a rig's cell.

use super::Estimate;
use super::between::{BetweenSessions, Unit};
use crate::stat::{StatError, f_upper_tail};

/// Sessions from which a cell's own variance is enough by itself.
pub const ENOUGH_SESSIONS: usize = 3;

/// The chance at which a side's own sessions are taken to contradict the rest of the lab.
pub const CONTRADICTS: f64 = 0.2;

/// What a cell has to say: the mean log of each session, its laps' own spread, and the days of the lab.
#[derive(Clone, Debug, PartialEq)]
pub struct Side<'a> {
    /// The mean log of each session; at least one.
    pub session_logs: &'a [f64],
    /// The variance of the mean of all sessions by the spread of laps within them, and its degrees of freedom;
    /// `None` where no session has two laps.
    pub laps: Option<(f64, f64)>,
    /// The between-session variance of the measure, this side's own days included.
    pub between: BetweenSessions,
    /// Standard uncertainty of reading the values, common to all of them.
    pub reading: f64,
}

impl Side<'_> {
    fn sessions(&self) -> f64 {
        self.session_logs.len() as f64
    }

    fn mean(&self) -> f64 {
        self.session_logs.iter().sum::<f64>() / self.sessions()
    }

    /// Returns the squared deviations of its sessions, with their degrees of freedom.
    fn own(&self) -> Unit {
        Unit::of(self.session_logs, 0.0)
    }

    /// Returns the estimate by its own sessions alone: their variance over their number. Two at least.
    fn by_own_sessions(&self) -> Estimate {
        let own = self.own();
        let variance = own.squares / own.degrees / self.sessions();
        Estimate { log: self.mean(), variance, degrees: own.degrees }
    }

    /// Returns the estimate by what is known of days, and the spread of its own laps.
    fn moderated(&self) -> Estimate {
        let days = (self.between.variance() / self.sessions(), self.between.degrees());
        Estimate::of_parts(self.mean(), std::iter::once(days).chain(self.laps))
    }

    /// Returns whether its sessions differ by more than the rest of the lab and the assumption allow.
    ///
    /// ```text
    /// F = s² / (τ̂² of the rest + what laps explain)        contradicts where P(F) < 20 %
    /// ```
    fn contradicts(&self) -> Result<bool, StatError> {
        let own = self.own();
        if own.degrees < 1.0 {
            return Ok(false);
        }
        let laps = self.laps.map(|(variance, degrees)| (variance * self.sessions(), degrees));
        let noise = laps.map_or(0.0, |(variance, _)| variance);
        let rest = self.between.without(Unit::of(self.session_logs, noise));
        let expected =
            Estimate::of_parts(0.0, std::iter::once((rest.variance, rest.degrees)).chain(laps));
        let ratio = own.squares / own.degrees / expected.variance;
        Ok(f_upper_tail(ratio, own.degrees, expected.degrees)? < CONTRADICTS)
    }

    /// Returns its estimate where its sessions are enough by themselves, or contradict what is known of days.
    fn cautious(&self) -> Result<Estimate, StatError> {
        let moderated = self.moderated();
        if !self.contradicts()? {
            return Ok(moderated);
        }
        moderated.wider(self.by_own_sessions())
    }

    /// Returns what the side is estimated to be, on any day.
    ///
    /// * Three sessions or more: their own variance. Two: the moderated one unless they contradict it, then the
    ///   wider. One: the moderated one.
    /// * Errors: [`StatError::OutOfRange`] where a value is not finite.
    pub fn estimate(&self) -> Result<Estimate, StatError> {
        let found = match self.session_logs.len() {
            ENOUGH_SESSIONS.. => self.by_own_sessions(),
            _ => self.cautious()?,
        };
        Ok(found.widened(self.reading.powi(2)))
    }
}

/// Returns the log ratio `b / a` of two independent sides.
///
/// With three sessions or more on both sides each takes its own variance (Welch), which assumes nothing about τ. Otherwise
/// both take the moderated one, and a side whose sessions contradict it the wider.
///
/// * Units: none (logs).
/// * Errors: as of [`Side::estimate`].
/// * Source: Welch (1947), <https://doi.org/10.1093/biomet/34.1-2.28>; Smyth (2004),
///   <https://doi.org/10.2202/1544-6115.1027>; the rates are in docs/method.md.
pub fn difference(a: &Side<'_>, b: &Side<'_>) -> Result<Estimate, StatError> {
    let enough = a.session_logs.len().min(b.session_logs.len()) >= ENOUGH_SESSIONS;
    let of = |side: &Side<'_>| {
        if enough { Ok(side.by_own_sessions()) } else { side.cautious() }
    };
    let reading = a.reading.powi(2) + b.reading.powi(2);
    Ok(of(b)?.minus(of(a)?).widened(reading))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn side<'a>(session_logs: &'a [f64], between: BetweenSessions) -> Side<'a> {
        Side { session_logs, laps: None, between, reading: 0.0 }
    }

    #[test]
    fn three_sessions_on_both_sides_assume_nothing() {
        let (a, b) = ([0.0, 0.01, 0.02], [0.1, 0.11, 0.12]);
        let none = BetweenSessions::default();
        let found = difference(&side(&a, none), &side(&b, none)).unwrap();
        // s² = 1e-4 on both sides: 2·1e-4/3 with 4 degrees.
        assert!((found.log - 0.1).abs() < 1e-12);
        assert!((found.variance - 2e-4 / 3.0).abs() < 1e-12);
        assert!((found.degrees - 4.0).abs() < 1e-9);
    }

    #[test]
    fn single_sessions_are_as_wide_as_days_are_assumed_to_differ() {
        let none = BetweenSessions::default();
        let found = difference(&side(&[0.0], none), &side(&[0.1], none)).unwrap();
        // τ₀² on both sides, each with 4 degrees: 2·2.25e-4 with 8.
        assert!((found.variance - 4.5e-4).abs() < 1e-12);
        assert!((found.degrees - 8.0).abs() < 1e-9);
        let laps = Side { laps: Some((1e-4, 5.0)), ..side(&[0.0], none) };
        assert!((laps.estimate().unwrap().variance - 3.25e-4).abs() < 1e-12);
        let read = Side { reading: 0.01, ..side(&[0.0], none) };
        assert!((read.estimate().unwrap().variance - 3.25e-4).abs() < 1e-12);
    }

    #[test]
    fn two_sessions_are_worth_more_than_one_unless_they_disagree() {
        let quiet = [0.0, 0.004];
        let unit = Unit::of(&quiet, 0.0);
        let between = BetweenSessions::of([unit]);
        let two = side(&quiet, between).estimate().unwrap();
        let one = side(&quiet[..1], BetweenSessions::default()).estimate().unwrap();
        let half = |estimate: &Estimate| estimate.half_width(0.95).unwrap();
        assert!(half(&two) < 0.7 * half(&one));
        // 20 % apart against an assumed 1.5 %: their own spread is believed.
        let wild = [0.0, 0.2];
        let wild = side(&wild, BetweenSessions::of([Unit::of(&wild, 0.0)]));
        assert!(wild.contradicts().unwrap());
        assert_eq!(wild.estimate().unwrap().degrees, 1.0);
    }
}
