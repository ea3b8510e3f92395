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
    /// Returns those of `measure` in the laps of `sessions`.
    pub(super) fn of_laps(sessions: &[Vec<&LapSeries>], measure: &str) -> Self {
        let own = |day: &Vec<&LapSeries>| day.iter().copied().cloned().collect();
        Self::OfLaps(sessions.iter().map(own).collect(), measure.into())
    }

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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::Laps;
    use crate::record::{LapHead, LapName, Settings};
    use crate::unit::Nanos;

    #[test]
    fn values_that_are_looked_up_are_those_that_are_at_hand() {
        let lap = |(name, seconds): (&str, u64)| {
            let name = LapName::parse(name).unwrap();
            LapHead::done(name, "still", Settings::default(), Nanos::from_seconds(seconds))
        };
        let laps = [("heron-1.1", 4), ("heron-1.2", 5), ("heron-2.1", 6), ("heron-3.1", 7)];
        let laps: Laps = laps.map(lap).into_iter().collect();
        let [first, second, third] = laps.series() else { panic!("{laps:?}") };
        // The second and the third share a day.
        let looked_up = Values::of_laps(&[vec![first], vec![second, third]], "time");
        let listed = Values::Listed([vec![4.0, 5.0], vec![6.0, 7.0]].into());
        assert_eq!(looked_up, listed);
        assert_eq!(looked_up.each(f64::recip), listed.each(f64::recip));
        assert_ne!(looked_up, Values::of_laps(&[vec![first], vec![second]], "time"));
    }
}
