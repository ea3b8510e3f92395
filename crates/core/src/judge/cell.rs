//! A cell: the counted values of one rig, variant and measure, by session.

use super::values::Values;
use super::verdict::LEAST_LAPS;
use crate::estimate::{BetweenSessions, ENOUGH_SESSIONS, Estimate, LapSpread, Side, Unit};
use crate::lab::LapSeries;
use crate::record::{Better, SessionName};
use crate::stat::{
    Interval, MedianInterval, StatError, Summary, logs, mean, median_interval, sorted,
    standard_deviation, summary,
};
use std::borrow::Cow;

/// The confidence of every interval that is shown.
pub const CONFIDENCE: f64 = 0.95;

/// What each of three announced looks may spend, so that all together err in 5 % at most.
///
/// Source: Pocock (1977), <https://doi.org/10.1093/biomet/64.2.191>.
pub const LOOK_ALPHA: f64 = 0.0221;

/// Returns the standard uncertainty of reading in steps of `step`.
pub(super) fn rectangular(step: f64) -> f64 {
    step / (2.0 * 3f64.sqrt())
}

/// What a cell's values are worth beside their own spread.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Allowances {
    /// Standard uncertainty of reading them by hand, relative to their typical value.
    pub reading: f64,
    /// Whether its laps ended when they looked precise enough.
    pub looked: bool,
}

impl Allowances {
    /// Returns the allowances that a comparison of both needs.
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
    /// Two or more sessions: every session is one value, since its laps share the day.
    Sessions,
}

/// The counted values of a cell; at least one.
#[derive(Clone, Debug, PartialEq)]
pub struct Cell {
    values: Values,
    /// How many laps each session has.
    laps: Vec<usize>,
    /// The mean log of each session: what nearly every comparison runs on.
    log_means: Vec<f64>,
    /// Which sessions they are, where that is known.
    names: Vec<SessionName>,
    allowances: Allowances,
    /// The variance of one lap's log within a session, and its degrees of freedom; `None` where no session has two.
    within: Option<(f64, f64)>,
    /// How far days differ, as far as the lab has shown.
    between: BetweenSessions,
    /// How far other cells' laps differ, where its own are too few to show it.
    assumed: Option<LapSpread>,
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
        let mut log_means = Vec::with_capacity(sessions.len());
        let (mut squares, mut degrees) = (0.0, 0.0);
        for laps in &sessions {
            let logs = logs(laps)?;
            log_means.push(mean(&logs)?);
            if logs.len() > 1 {
                let own = (logs.len() - 1) as f64;
                squares += own * standard_deviation(&logs)?.powi(2);
                degrees += own;
            }
        }
        let within = (degrees > 0.0).then(|| (squares / degrees, degrees));
        let (names, allowances, between, assumed) = Default::default();
        let laps = sessions.iter().map(Vec::len).collect();
        let values = Values::Listed(sessions.into());
        Ok(Self { values, laps, log_means, names, allowances, within, between, assumed })
    }

    /// Returns the cell of sessions that are known by name, likewise.
    ///
    /// * Errors: as of [`Self::from_sessions`].
    pub fn from_named(sessions: Vec<(SessionName, Vec<f64>)>) -> Result<Self, StatError> {
        let (names, sessions): (Vec<_>, Vec<_>) =
            sessions.into_iter().filter(|(_, laps)| !laps.is_empty()).unzip();
        Ok(Self { names, ..Self::from_sessions(sessions)? })
    }

    /// Returns it with its values where `sessions` of laps have them, as they are in it: of `measure`.
    pub(super) fn of_laps(self, sessions: &[Vec<&LapSeries>], measure: &str) -> Self {
        Self { values: Values::of_laps(sessions, measure), ..self }
    }

    /// Returns the mean log of each session whose name is known, and its variance by the spread of its laps.
    pub(crate) fn named_logs(&self) -> impl Iterator<Item = (&SessionName, f64, f64)> {
        let within = self.lap_variance().map_or(0.0, |(variance, _)| variance);
        let laps = self.laps.iter().map(move |&laps| within / laps as f64);
        self.names
            .iter()
            .zip(&self.log_means)
            .zip(laps)
            .map(|((name, &log), noise)| (name, log, noise))
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
        self.allowances.reading = rectangular(step) / self.typical();
        self
    }

    /// Returns the cell as one whose laps ended when they looked precise enough.
    pub fn looked_at(mut self) -> Self {
        self.allowances.looked = true;
        self
    }

    /// Returns the cell with what the lab has shown of how far days differ.
    pub fn with_between(mut self, between: BetweenSessions) -> Self {
        self.between = between;
        self
    }

    /// Returns the squared deviations of its laps' logs within sessions, with their degrees of freedom.
    pub(super) fn lap_squares(&self) -> Unit {
        self.within.map_or_else(Unit::default, |(variance, degrees)| Unit {
            squares: variance * degrees,
            degrees,
        })
    }

    /// Returns the cell with what `known` says of its laps, where they are too few to say it themselves: fewer than
    /// three of one session, or one in each of several.
    pub fn with_assumed(self, known: Option<LapSpread>) -> Self {
        let own = self.lap_squares();
        let wanting = match self.basis() {
            Basis::Laps => self.laps() < LEAST_LAPS,
            Basis::Sessions => self.within.is_none(),
        };
        let allows = |known: &LapSpread| matches!(known.held_with(own), Ok(Some(_)));
        let assumed = known.filter(|known| wanting && allows(known));
        Self { assumed, ..self }
    }

    /// Returns how far its laps are assumed to differ, where they are too few to show it.
    pub fn assumed(&self) -> Option<LapSpread> {
        self.assumed
    }

    /// Returns whether what is said of it stands on what is assumed of its laps too; of three sessions it stands on these.
    pub fn is_assumed(&self) -> bool {
        self.assumed.is_some() && self.sessions() < ENOUGH_SESSIONS
    }

    /// Returns whether it has enough laps for a verdict, with what is assumed of them.
    pub fn is_enough(&self) -> bool {
        self.basis() == Basis::Sessions || self.laps() >= LEAST_LAPS || self.assumed.is_some()
    }

    /// Returns the variance of one lap's log, and its degrees of freedom; `None` where nothing is known of it.
    fn lap_variance(&self) -> Option<(f64, f64)> {
        match self.assumed {
            Some(known) => known.held_with(self.lap_squares()).ok().flatten(),
            None => self.within,
        }
    }

    /// Returns how far days differ, as far as the lab has shown.
    pub fn between(&self) -> BetweenSessions {
        self.between
    }

    /// Returns the cell as one side of a comparison that was not run in turn.
    pub(super) fn side(&self) -> Side<'_> {
        let sessions = self.laps.len() as f64;
        let share: f64 = self.laps.iter().map(|&laps| 1.0 / laps as f64).sum();
        let laps = |(variance, degrees)| (variance * share / (sessions * sessions), degrees);
        Side {
            session_logs: &self.log_means,
            laps: self.lap_variance().map(laps),
            between: self.between,
            reading: self.allowances.reading,
        }
    }

    /// Returns what its laps' own spread and reading leave open of its mean log, without any day's share.
    pub(super) fn laps_alone(&self) -> Option<(f64, f64)> {
        self.side().laps
    }

    /// Returns the arithmetic mean of its laps, each session weighing the same: what time is spent in.
    pub fn mean(&self) -> f64 {
        let sessions = self.by_session();
        let means = sessions.iter().map(|laps| laps.iter().sum::<f64>() / laps.len() as f64);
        means.sum::<f64>() / self.laps.len() as f64
    }

    /// Returns what the cell is estimated to be on any day.
    ///
    /// * Errors: [`StatError::TooFew`] of a single lap of which nothing is assumed: it says nothing about itself.
    pub fn estimate(&self) -> Result<Estimate, StatError> {
        match self.laps() {
            0 | 1 if self.assumed.is_none() => {
                Err(StatError::TooFew { needed: 2, found: self.laps() })
            }
            _ => self.side().estimate(),
        }
    }

    /// Returns the names of its sessions; none where they have none.
    pub(super) fn names(&self) -> &[SessionName] {
        &self.names
    }

    /// Returns what its values are worth beside their own spread.
    pub fn allowances(&self) -> Allowances {
        self.allowances
    }

    /// Returns the cell with values of which less is better: where more is, their reciprocals.
    pub(super) fn as_cost(&self, better: Better) -> Self {
        let mut cost = self.clone();
        if better == Better::More {
            cost.values = cost.values.each(f64::recip);
            cost.log_means.iter_mut().for_each(|log| *log = -*log);
        }
        cost
    }

    /// Returns the cell with every value as a share of `amount`, above 0: the time of a unit of work.
    pub(super) fn for_each_of(mut self, amount: f64) -> Self {
        // Of one unit they are what they are.
        if amount == 1.0 {
            return self;
        }
        self.values = self.values.each(|value| value / amount);
        self.log_means.iter_mut().for_each(|log| *log -= amount.ln());
        self
    }

    /// Returns how many laps the cell holds.
    pub fn laps(&self) -> usize {
        self.laps.iter().sum()
    }

    /// Returns how many sessions the cell holds.
    pub fn sessions(&self) -> usize {
        self.laps.len()
    }

    /// Returns what the cell's values are, when it is compared.
    pub fn basis(&self) -> Basis {
        if self.laps.len() > 1 { Basis::Sessions } else { Basis::Laps }
    }

    /// Returns the values that a comparison runs on: laps of one session, or one per session.
    pub fn values(&self) -> Vec<f64> {
        match self.basis() {
            Basis::Laps => self.all(),
            Basis::Sessions => self.log_means.iter().copied().map(f64::exp).collect(),
        }
    }

    /// Returns the mean log of each session.
    pub(super) fn session_logs(&self) -> &[f64] {
        &self.log_means
    }

    /// Returns the mean log of its sessions.
    pub(super) fn mean_log(&self) -> f64 {
        self.log_means.iter().sum::<f64>() / self.log_means.len() as f64
    }

    /// Returns every lap, session after session.
    pub fn all(&self) -> Vec<f64> {
        self.by_session().concat()
    }

    /// Returns the laps of each session.
    ///
    /// * Shape: one series a session, none empty.
    pub fn by_session(&self) -> Cow<'_, [Vec<f64>]> {
        self.values.list()
    }

    /// Returns the typical value: that of the laps, or across sessions where there are several.
    pub fn typical(&self) -> f64 {
        self.mean_log().exp()
    }

    /// Returns the 95 % interval of the typical value, on any day.
    ///
    /// * Errors: as of [`Self::estimate`].
    pub fn interval(&self) -> Result<Interval, StatError> {
        self.interval_shared(1)
    }

    /// Returns the interval likewise, where so many statements share the chance of error.
    pub(crate) fn interval_shared(&self, shared_by: u32) -> Result<Interval, StatError> {
        self.estimate()?.interval(1.0 - self.allowances.alpha() / f64::from(shared_by))
    }

    /// Returns the 95 % interval of the median lap; from six laps on, and of one session only.
    pub fn median_interval(&self) -> Option<MedianInterval> {
        match self.basis() {
            Basis::Laps => median_interval(&sorted(&self.all()), CONFIDENCE).ok(),
            Basis::Sessions => None,
        }
    }

    /// Returns the summary of all laps, whatever their session.
    ///
    /// * Errors: as of [`summary`].
    pub fn summary(&self) -> Result<Summary, StatError> {
        summary(&self.all())
    }
}

#[cfg(test)]
#[path = "cell_tests.rs"]
mod tests;
