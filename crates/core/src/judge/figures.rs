//! What a cell's values come to, as it is written down: every figure that is read off a cell.

use super::cell::Cell;
use super::plain::Plain;
use crate::record::SessionName;
use crate::stat::{Interval, MedianInterval};
use serde::{Serialize, Serializer};

/// The counted values of a session.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct OfSession {
    /// The session; none where it has no name.
    pub session: Option<SessionName>,
    /// Its values, in the unit of the measure.
    pub values: Vec<f64>,
}

/// How far the laps of a cell are assumed to differ, since they are too few to show it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct AssumedSpread {
    /// The standard deviation, of logs.
    pub sd: f64,
    /// Its degrees of freedom.
    pub degrees: f64,
    /// What the study states.
    pub stated: Option<f64>,
    /// How many degrees of freedom the laps of other cells have.
    pub further: f64,
}

impl AssumedSpread {
    /// Returns what is assumed of the laps of `cell`, where it stands on that.
    pub fn of(cell: &Cell) -> Option<Self> {
        let known = cell.assumed().filter(|_| cell.is_assumed())?;
        let (sd, degrees) = (known.sd(), known.degrees());
        Some(Self { sd, degrees, stated: known.stated(), further: known.measured_degrees() })
    }
}

/// What the values of a cell come to.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Figures {
    /// The typical value: exp(mean ln).
    pub typical: f64,
    /// Its interval, for any day.
    pub interval: Option<Interval>,
    /// The median of all values.
    pub median: f64,
    /// Its interval, from six laps of one session on.
    pub median_interval: Option<MedianInterval>,
    /// The arithmetic mean, session by session.
    pub mean: f64,
    /// The least of them.
    pub least: f64,
    /// The most of them.
    pub most: f64,
    /// Standard deviation over mean; none of one value.
    pub cv: Option<f64>,
    /// Standard uncertainty of its log that reading by hand leaves.
    pub reading: f64,
    /// Whether its laps ended by a look at how sure they were, so that its intervals are wider.
    pub looked: bool,
    /// The standard deviation between sessions that its intervals are widened by, of logs.
    pub between_sessions_sd: f64,
    /// How far its laps are assumed to differ; none where they show it.
    pub assumed_spread: Option<AssumedSpread>,
    /// The values, session by session.
    pub by_session: Vec<OfSession>,
}

impl Figures {
    fn of(cell: &Cell) -> Self {
        let all = cell.summary().ok();
        let allowances = cell.allowances();
        Self {
            typical: cell.typical(),
            interval: cell.interval().ok(),
            median: all.map_or(f64::NAN, |all| all.median),
            median_interval: cell.median_interval(),
            mean: cell.mean(),
            least: all.map_or(f64::NAN, |all| all.min),
            most: all.map_or(f64::NAN, |all| all.max),
            cv: all.and_then(|all| all.cv),
            reading: allowances.reading,
            looked: allowances.looked,
            between_sessions_sd: cell.between().sd(),
            assumed_spread: AssumedSpread::of(cell),
            by_session: of_sessions(&cell.by_session(), cell.names()),
        }
    }
}

/// What the values of a cell come to where one of them has no logarithm.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct PlainFigures {
    /// The arithmetic mean, session by session.
    pub mean: f64,
    /// Its interval, for any day.
    pub interval: Option<Interval>,
    /// The values, session by session.
    pub by_session: Vec<OfSession>,
}

impl PlainFigures {
    fn of(plain: &Plain) -> Self {
        let (mean, interval) = (plain.mean(), plain.interval().ok());
        Self { mean, interval, by_session: of_sessions(plain.by_session(), &[]) }
    }
}

fn of_sessions(sessions: &[Vec<f64>], names: &[SessionName]) -> Vec<OfSession> {
    let of = |(place, values): (usize, &Vec<f64>)| OfSession {
        session: names.get(place).cloned(),
        values: values.clone(),
    };
    sessions.iter().enumerate().map(of).collect()
}

impl Serialize for Cell {
    fn serialize<S: Serializer>(&self, writer: S) -> Result<S::Ok, S::Error> {
        Figures::of(self).serialize(writer)
    }
}

impl Serialize for Plain {
    fn serialize<S: Serializer>(&self, writer: S) -> Result<S::Ok, S::Error> {
        PlainFigures::of(self).serialize(writer)
    }
}
