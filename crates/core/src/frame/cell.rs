//! A cell of passes: each pass is one value, and no two are equal.

use crate::record::{Digest, Measure};
use crate::stat::{logs, mean, standard_deviation};

/// What several passes come to.
#[derive(Clone, Debug, PartialEq)]
pub struct PassesSummed {
    /// How many passes.
    pub passes: usize,
    /// Every measure that all passes have, with its typical value.
    pub values: Vec<(Measure, f64)>,
    /// How far passes lie apart: the standard deviation of their average rates on logs. Of one pass
    /// there is none.
    pub between: Option<f64>,
    /// How far frames lie apart within a pass: the mean of their coefficients of variation.
    pub within: Option<f64>,
}

/// Returns what `passes` come to, or `None` of no passes.
///
/// ```text
/// typical = exp(mean ln v) where every pass has v > 0, otherwise mean v
/// between = s of ln(average rate)        within = mean of the passes' s / mean
/// ```
/// * Shape: `k ≥ 1` passes, one value each.
/// * Units: those of the measures; the spreads have none.
/// * Source: definitions of this tool; the geometric mean as for times.
pub fn passes_summed(passes: &[&Digest]) -> Option<PassesSummed> {
    let readings: Vec<_> = passes.iter().map(|digest| digest.readings()).collect();
    let first = readings.first()?;
    let values_of = |name: &str| -> Option<Vec<f64>> {
        let of = |all: &Vec<crate::record::Reading>| {
            all.iter().find(|reading| reading.name == name).and_then(|reading| reading.value)
        };
        readings.iter().map(of).collect()
    };
    let typical = |values: &[f64]| match logs(values).and_then(|logs| mean(&logs)) {
        Ok(log) => Some(log.exp()),
        Err(_) => mean(values).ok(),
    };
    let values = first
        .iter()
        .filter_map(|reading| Some((reading.measure(), typical(&values_of(&reading.name)?)?)))
        .collect();
    let rates: Vec<f64> = passes.iter().map(|digest| digest.sums.rate).collect();
    let within: Option<Vec<f64>> = passes.iter().map(|digest| digest.sums.cv).collect();
    Some(PassesSummed {
        passes: passes.len(),
        values,
        between: logs(&rates).and_then(|logs| standard_deviation(&logs)).ok(),
        within: within.and_then(|within| mean(&within).ok()),
    })
}

#[cfg(test)]
mod tests {
    use super::super::{AVERAGE_RATE, LOW_1};
    use super::*;
    use crate::record::{Against, Cut, Pass};

    fn digest(ms: u64, frames: usize) -> Digest {
        let pass = Pass { shown: vec![ms * 1_000_000; frames], ..Pass::default() };
        Digest::of(&pass, &Cut::default(), Against::default()).unwrap()
    }

    #[test]
    fn a_cell_is_made_of_passes_and_not_of_frames() {
        // 100 and 50 frames a second: typically √(100·50), whatever their numbers of frames.
        let (fast, slow) = (digest(10, 5_000), digest(20, 1_000));
        let found = passes_summed(&[&fast, &slow]).unwrap();
        let value = |name: &str| found.values.iter().find(|(m, _)| m.name == name).map(|v| v.1);
        assert!((value(AVERAGE_RATE).unwrap() - 5_000f64.sqrt()).abs() < 1e-9);
        assert!((found.between.unwrap() - 2f64.ln() / 2f64.sqrt()).abs() < 1e-12);
        assert_eq!((found.within, value("hitches")), (Some(0.0), Some(0.0)));
        let short = digest(10, 100);
        let found = passes_summed(&[&fast, &short]).unwrap();
        assert!(found.values.iter().all(|(measure, _)| measure.name != LOW_1), "one is refused");
        assert_eq!((passes_summed(&[]), passes_summed(&[&fast]).unwrap().between), (None, None));
    }
}
