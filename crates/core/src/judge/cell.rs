//! A cell: the counted values of one rig, variant and measure, by session.

use crate::stat::{
    Interval, MedianInterval, StatError, Summary, logs, mean, median_interval, summary,
    typical_interval,
};

/// The confidence of every interval that is shown.
pub const CONFIDENCE: f64 = 0.95;

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
        for laps in &sessions {
            logs(laps)?;
        }
        Ok(Self { sessions })
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
            Basis::Sessions => self.session_logs().into_iter().map(f64::exp).collect(),
        }
    }

    /// Returns the mean log of each session.
    pub(super) fn session_logs(&self) -> Vec<f64> {
        let log_mean = |laps: &Vec<f64>| logs(laps).and_then(|l| mean(&l));
        self.sessions.iter().filter_map(|laps| log_mean(laps).ok()).collect()
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
        let logs = self.session_logs();
        (logs.iter().sum::<f64>() / logs.len() as f64).exp()
    }

    /// Returns the 95 % interval of the typical value, by [`typical_interval`] on [`Self::values`].
    pub fn interval(&self) -> Result<Interval, StatError> {
        typical_interval(&self.values(), CONFIDENCE)
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
