//! The values of a cell, session by session: at hand, or looked up in the laps whenever they are asked for. Verdicts stand on
//! sums, and the values of millions of laps need not lie in memory twice.

use crate::lab::LapSeries;
use std::borrow::Cow;
use std::sync::Arc;

/// The values of a cell, session by session.
#[derive(Clone, Debug)]
pub(super) enum Values {
    /// At hand.
    Listed(Arc<[Vec<f64>]>),
    /// Those of a measure in the laps of series that are of one session, or of sessions that share a day.
    OfLaps(Arc<[Vec<LapSeries>]>, Arc<str>),
}

impl Values {
    /// Returns them.
    ///
    /// * Shape: one series a session, none empty.
    pub(super) fn list(&self) -> Cow<'_, [Vec<f64>]> {
        match self {
            Self::Listed(values) => Cow::Borrowed(values),
            Self::OfLaps(sessions, measure) => {
                let of_day =
                    |day: &Vec<LapSeries>| day.iter().flat_map(|one| one.values(measure)).collect();
                Cow::Owned(sessions.iter().map(of_day).collect())
            }
        }
    }

    /// Returns them with `change` made to each.
    pub(super) fn each(&self, change: impl Fn(f64) -> f64) -> Self {
        let mut values = self.list().into_owned();
        values.iter_mut().flatten().for_each(|value| *value = change(*value));
        Self::Listed(values.into())
    }
}

impl PartialEq for Values {
    fn eq(&self, other: &Self) -> bool {
        self.list() == other.list()
    }
}
