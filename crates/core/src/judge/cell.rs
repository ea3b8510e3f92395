//! A cell: the counted values of one rig, variant and measure, by session.

use super::spread::Assumptions;
use crate::measure::Better;
use crate::session::SessionName;
use crate::stat::{
    Interval, MedianInterval, StatError, Summary, logs, mean, median_interval, normal_quantile,
    summary, typical_interval,
};

/// The confidence of every interval that is shown.
pub const CONFIDENCE: f64 = 0.95;

/// What each of three announced looks may spend, so that all together err in 5 % at most.
///
/// Source: Pocock (1977), <https://doi.org/10.1093/biomet/64.2.191>.
pub const LOOK_ALPHA: f64 = 0.0221;

/// What a cell's values are worth beside their own spread.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Care {
    /// Standard uncertainty of reading them by hand, relative to their typical value.
    pub reading: f64,
    /// Whether its laps ended when they looked precise enough.
    pub looked: bool,
}

impl Care {
    /// Returns the care that a comparison of both needs.
    pub fn with(self, other: Self) -> Self {
        Self { reading: self.reading.hypot(other.reading), looked: self.looked || other.looked }
    }

    /// Returns the chance of error that a two-sided interval of 95 % may have here.
    pub(super) fn alpha(self) -> f64 {
        if self.looked { LOOK_ALPHA } else { 1.0 - CONFIDENCE }
    }
}

/// What a cell's values are, when it is compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Basis {
    /// One session: every lap is a value.
    Laps,
    /// Two or more sessions: every session is one value, since its laps share the day's luck.
    Sessions,
}

/// The counted values of a cell; at least one.
#[derive(Clone, Debug, PartialEq)]
pub struct Cell {
    sessions: Vec<Vec<f64>>,
    /// The mean log of each session: what nearly every comparison runs on.
    log_means: Vec<f64>,
    /// Which sessions they are, where that is known.
    names: Vec<SessionName>,
    care: Care,
    /// The spread between sessions of its rig and workload, where that is known better than the study's.
    day_spread: Option<f64>,
}

impl Cell {
    /// Returns the cell of `sessions`, leaving out those without a counted value.
    ///
    /// * Shape: one series of positive values per session.
    /// * Errors: [`StatError::Empty`] without any value, [`StatError::NotPositive`].
    pub fn from_sessions(sessions: Vec<Vec<f64>>) -> Result<Self, StatError> {
        let sessions: Vec<Vec<f64>> =
            sessions.into_iter().filter(|laps| !laps.is_empty()).collect();
        if sessions.is_empty() {
            return Err(StatError::Empty);
        }
        let log_means =
            sessions.iter().map(|laps| mean(&logs(laps)?)).collect::<Result<Vec<f64>, _>>()?;
        let (names, care, day_spread) = (Vec::new(), Care::default(), None);
        Ok(Self { sessions, log_means, names, care, day_spread })
    }

    /// Returns the cell of sessions that are known by name, likewise.
    pub fn from_named(sessions: Vec<(SessionName, Vec<f64>)>) -> Result<Self, StatError> {
        let (names, sessions): (Vec<_>, Vec<_>) =
            sessions.into_iter().filter(|(_, laps)| !laps.is_empty()).unzip();
        Ok(Self { names, ..Self::from_sessions(sessions)? })
    }

    /// Returns the mean log of each session whose name is known.
    pub(super) fn named_logs(&self) -> impl Iterator<Item = (&SessionName, f64)> {
        self.names.iter().zip(self.log_means.iter().copied())
    }

    /// Returns the cell with values read by hand in steps of `step`.
    ///
    /// ```text
    /// u = step / (2·√3) / typical
    /// ```
    /// * Units: `step` has that of the values. All laps may be off the same way, so more of them
    ///   do not make `u` less.
    /// * Source: JCGM 100:2008 (GUM), 4.3.7, a rectangular distribution of half-width step / 2.
    pub fn read_in_steps(mut self, step: f64) -> Self {
        self.care.reading = step / (2.0 * 3f64.sqrt()) / self.typical();
        self
    }

    /// Returns the cell as one whose laps ended when they looked precise enough.
    pub fn looked_at(mut self) -> Self {
        self.care.looked = true;
        self
    }

    /// Returns the cell with what is known of the spread between sessions of its rig and workload.
    pub(super) fn with_day_spread(mut self, spread: f64) -> Self {
        self.day_spread = Some(spread);
        self
    }

    /// Returns the variance that the luck of its only day adds; none where it has several.
    pub fn luck(&self, assume: &Assumptions) -> f64 {
        match self.basis() {
            Basis::Laps => self.day_spread.unwrap_or(assume.session_spread.value()).powi(2),
            Basis::Sessions => 0.0,
        }
    }

    /// Returns what its values are worth beside their own spread.
    pub fn care(&self) -> Care {
        self.care
    }

    /// Returns the cell with values of which less is better: where more is, their reciprocals.
    pub(super) fn as_cost(&self, better: Better) -> Self {
        let mut cost = self.clone();
        if better == Better::More {
            cost.sessions.iter_mut().flatten().for_each(|value| *value = value.recip());
            cost.log_means.iter_mut().for_each(|log| *log = -*log);
        }
        cost
    }

    /// Returns how many laps the cell holds.
    pub fn laps(&self) -> usize {
        self.sessions.iter().map(Vec::len).sum()
    }

    /// Returns how many sessions the cell holds.
    pub fn sessions(&self) -> usize {
        self.sessions.len()
    }

    /// Returns what the cell's values are, when it is compared.
    pub fn basis(&self) -> Basis {
        if self.sessions.len() > 1 { Basis::Sessions } else { Basis::Laps }
    }

    /// Returns the values that a comparison runs on: laps of one session, or one per session.
    pub fn values(&self) -> Vec<f64> {
        match self.basis() {
            Basis::Laps => self.sessions[0].clone(),
            Basis::Sessions => self.log_means.iter().copied().map(f64::exp).collect(),
        }
    }

    /// Returns the mean log of each session.
    pub(super) fn session_logs(&self) -> &[f64] {
        &self.log_means
    }

    /// Returns every lap, session after session.
    pub fn all(&self) -> Vec<f64> {
        self.sessions.concat()
    }

    /// Returns the laps of each session.
    pub fn by_session(&self) -> &[Vec<f64>] {
        &self.sessions
    }

    /// Returns the typical value: that of the laps, or across sessions where there are several.
    pub fn typical(&self) -> f64 {
        (self.log_means.iter().sum::<f64>() / self.log_means.len() as f64).exp()
    }

    /// Returns the 95 % interval of the typical value, by [`typical_interval`] on [`Self::values`],
    /// widened by what reading by hand leaves open: `h = √(h² + (z·u)²)` on logs.
    pub fn interval(&self) -> Result<Interval, StatError> {
        let alpha = self.care.alpha();
        let own = typical_interval(&self.values(), 1.0 - alpha)?;
        let centre = (own.low * own.high).sqrt();
        let half = (own.high / own.low).ln() / 2.0;
        if self.care.reading == 0.0 {
            return Ok(own);
        }
        let half = half.hypot(normal_quantile(1.0 - alpha / 2.0)? * self.care.reading).exp();
        Ok(Interval { low: centre / half, high: centre * half })
    }

    /// Returns [`Self::interval`] for any day: widened by the luck of a day where there was one only.
    ///
    /// ```text
    /// h = √(h² + (z·τ)²) on logs; with two sessions or more h as it is
    /// ```
    /// * Errors: as of [`typical_interval`].
    pub(crate) fn interval_beyond_today(
        &self,
        assume: &Assumptions,
    ) -> Result<Interval, StatError> {
        let alpha = self.care.alpha() / f64::from(assume.shared_by);
        let own = typical_interval(&self.values(), 1.0 - alpha)?;
        let (centre, half) = ((own.low * own.high).sqrt(), (own.high / own.low).ln() / 2.0);
        let open = (self.luck(assume) + self.care.reading.powi(2)).sqrt();
        let open = normal_quantile(1.0 - alpha / 2.0)? * open;
        let half = half.hypot(open).exp();
        Ok(Interval { low: centre / half, high: centre * half })
    }

    /// Returns the 95 % interval of the median lap; from six laps on, and of one session only.
    pub fn median_interval(&self) -> Option<MedianInterval> {
        let mut sorted = self.all();
        sorted.sort_by(f64::total_cmp);
        if self.sessions() > 1 { None } else { median_interval(&sorted, CONFIDENCE).ok() }
    }

    /// Returns the summary of all laps, whatever their session.
    pub fn summary(&self) -> Result<Summary, StatError> {
        summary(&self.all())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn several_sessions_are_one_value_each() {
        let cell = Cell::from_sessions(vec![vec![4.0, 1.0], vec![], vec![8.0]]).unwrap();
        assert_eq!((cell.laps(), cell.sessions(), cell.basis()), (3, 2, Basis::Sessions));
        // Session typicals √(4·1) = 2 and 8; across them √(2·8) = 4.
        assert!((cell.typical() - 4.0).abs() < 1e-12);
        assert!(cell.values().iter().zip([2.0, 8.0]).all(|(a, b)| (a - b).abs() < 1e-12));
    }

    #[test]
    fn laps_read_to_the_second_are_known_no_better() {
        let read = Cell::from_sessions(vec![vec![52.0; 5]]).unwrap().read_in_steps(1.0);
        // All five read alike, so they spread by nothing: 1.96 · 1 / (2√3) = ±0.566 s remain.
        let interval = read.interval().unwrap();
        assert!((interval.high - 52.569).abs() < 1e-3, "{interval:?}");
        assert!((interval.low - 51.437).abs() < 1e-3, "{interval:?}");
    }

    #[test]
    fn laps_that_ended_by_a_look_are_given_a_wider_interval() {
        let cell = || Cell::from_sessions(vec![vec![1.00, 1.01, 1.02]]).unwrap();
        let width = |cell: Cell| cell.interval().map(|i| (i.high / i.low).ln()).unwrap();
        // t(0.98895; 2) / t(0.975; 2) = 6.635 / 4.303.
        assert!((width(cell().looked_at()) / width(cell()) - 1.542).abs() < 0.01);
    }

    #[test]
    fn nothing_counted_is_no_cell() {
        assert_eq!(Cell::from_sessions(vec![vec![], vec![]]), Err(StatError::Empty));
        assert!(Cell::from_sessions(vec![vec![1.0, -1.0]]).is_err());
    }

    #[test]
    fn the_median_interval_needs_six_laps_of_one_session() {
        let six = vec![1.0, 2.0, 3.0, 4.0, 5.0, 6.0];
        assert!(Cell::from_sessions(vec![six.clone()]).unwrap().median_interval().is_some());
        assert!(Cell::from_sessions(vec![six[..5].to_vec()]).unwrap().median_interval().is_none());
        assert!(Cell::from_sessions(vec![six.clone(), six]).unwrap().median_interval().is_none());
    }
}
