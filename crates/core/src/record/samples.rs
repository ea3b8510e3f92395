//! Samples of one channel, some of them unknown: half as large in memory as options of numbers.

use serde::{Deserialize, Serialize};

/// Values in order of time; one that is unknown is none.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[serde(into = "Vec<Option<f64>>", from = "Vec<Option<f64>>")]
pub struct Samples(Vec<f64>);

/// What stands for a value that is unknown: no sensor shows it.
const UNKNOWN: f64 = f64::NAN;

fn known(value: f64) -> Option<f64> {
    (!value.is_nan()).then_some(value)
}

impl Samples {
    /// Adds a value.
    pub fn push(&mut self, value: Option<f64>) {
        self.0.push(value.unwrap_or(UNKNOWN));
    }

    /// Returns the value at `place`; `None` where it is unknown, or there is none.
    pub fn get(&self, place: usize) -> Option<f64> {
        self.0.get(place).copied().and_then(known)
    }

    /// Returns how many there are, known or not.
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// Returns whether there are none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// Returns all of them, in order.
    pub fn iter(&self) -> impl Iterator<Item = Option<f64>> + '_ {
        self.0.iter().copied().map(known)
    }

    /// Returns those that are known, in order.
    pub fn known(&self) -> impl DoubleEndedIterator<Item = f64> + '_ {
        self.0.iter().copied().filter_map(known)
    }
}

impl PartialEq for Samples {
    fn eq(&self, other: &Self) -> bool {
        self.len() == other.len() && self.iter().eq(other.iter())
    }
}

impl FromIterator<Option<f64>> for Samples {
    fn from_iter<T: IntoIterator<Item = Option<f64>>>(values: T) -> Self {
        Self(values.into_iter().map(|value| value.unwrap_or(UNKNOWN)).collect())
    }
}

impl From<Vec<Option<f64>>> for Samples {
    fn from(values: Vec<Option<f64>>) -> Self {
        values.into_iter().collect()
    }
}

impl From<Samples> for Vec<Option<f64>> {
    fn from(samples: Samples) -> Self {
        samples.iter().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_unknown_stays_so_and_is_written_as_nothing() {
        let mut samples: Samples = [Some(2.5), None].into_iter().collect();
        samples.push(Some(0.0));
        samples.push(Some(f64::NAN));
        assert_eq!(
            [0, 1, 2, 3, 4].map(|at| samples.get(at)),
            [Some(2.5), None, Some(0.0), None, None]
        );
        assert_eq!((samples.len(), samples.known().sum::<f64>()), (4, 2.5));
        let text = serde_json::to_string(&samples).unwrap();
        assert_eq!(text, "[2.5,null,0.0,null]");
        let back: Samples = serde_json::from_str(&text).unwrap();
        assert!(back == samples && back != Samples::default());
    }
}
