//! What each column holds, by its heading and its values.

use crate::head::Head;
use crate::words::{As, Said, TimeUnit, said};

/// The frame times between which a log makes sense, in seconds: 1,000 to 4 frames a second. No two
/// units put one value between them.
const SENSE: (f64, f64) = (0.001, 0.25);
/// The share of steps that must not go down in a column of moments; a few may be out of order.
const RISING: f64 = 0.95;
/// From so many values on a single step down is a few: of eight that come and go as they like, one
/// series in 160 has no more.
pub(crate) const LEAST_ODD: usize = 8;

/// More of a heading is not told.
const MOST_NAME_CHARS: usize = 40;

/// What the values of a column look like.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Shape {
    /// No numbers, or too few.
    Words,
    /// One, two, three: the number of the frame.
    Index,
    /// Values that rise: moments.
    Rising,
    /// Values that come and go: durations.
    Loose,
    /// One value all along.
    Constant,
}

/// A column.
#[derive(Clone, Debug)]
pub(crate) struct Column {
    /// Its place, from 0.
    pub(crate) place: usize,
    /// Its heading, if it has one.
    pub(crate) heading: Option<String>,
    /// What the heading says.
    pub(crate) said: Said,
    /// What its values look like.
    pub(crate) shape: Shape,
    /// How many of its values were looked at.
    pub(crate) values: usize,
    /// Whether no value is below the one before it.
    pub(crate) ascends: bool,
    /// The median of its values.
    level: f64,
    /// The median of their steps up.
    step: f64,
    /// The sum of its values from the second on, or of their steps up where they rise.
    pub(crate) whole: f64,
}

impl Column {
    /// Returns its name, as in: column 3 `frame_ms`.
    pub(crate) fn name(&self) -> String {
        match &self.heading {
            Some(heading) if !heading.is_empty() => {
                format!("column {} `{}`", self.place + 1, short_name(heading))
            }
            _ => format!("column {}", self.place + 1),
        }
    }

    /// Returns its usual frame time, in its unit, where its values are these.
    pub(crate) fn usual(&self, reading: As) -> f64 {
        match reading {
            As::Durations => self.level,
            As::Moments => self.step,
        }
    }

    /// Returns the only unit in which its values make sense as frame times, if there is one; of several the one that
    /// its heading says.
    pub(crate) fn sensible_unit(&self, reading: As) -> Option<TimeUnit> {
        let usual = self.usual(reading);
        let makes_sense = |unit: &TimeUnit| is_sensible(usual, *unit);
        match self.said.unit {
            Some(unit) => Some(unit).filter(makes_sense),
            None => TimeUnit::ALL.into_iter().find(makes_sense),
        }
    }
}

/// Returns a heading, short enough to be told with others.
pub(crate) fn short_name(heading: &str) -> String {
    let plain = honest_lap_core::record::plain_line(heading);
    match plain.char_indices().nth(MOST_NAME_CHARS) {
        Some((at, _)) => format!("{}…", &plain[..at]),
        None => plain,
    }
}

/// Returns whether a frame time of so many units makes sense.
pub(crate) fn is_sensible(usual: f64, unit: TimeUnit) -> bool {
    (SENSE.0..SENSE.1).contains(&(usual * unit.ns() as f64 / 1e9))
}

/// Returns the columns of a head.
pub(crate) fn columns(head: &Head) -> Vec<Column> {
    let of = |(place, sample): (usize, &Vec<Option<f64>>)| {
        let heading = head.headings.get(place).cloned();
        let said = heading.as_deref().map(said).unwrap_or_default();
        let values: Vec<f64> = sample.iter().flatten().copied().collect();
        // A column of numbers may have gaps; a few numbers among words make none.
        let enough = !values.is_empty() && values.len() * 4 >= sample.len();
        let shape = if enough { shape(&values) } else { Shape::Words };
        let steps: Vec<f64> = values.windows(2).map(|pair| pair[1] - pair[0]).collect();
        let ascends = steps.iter().all(|&step| step >= 0.0);
        let whole = match shape {
            Shape::Rising => steps.iter().filter(|&&step| step > 0.0).sum(),
            Shape::Words => 0.0,
            _ => values.iter().skip(1).sum(),
        };
        let count = values.len();
        let (level, step) = (middle(values), middle(steps));
        Column { place, heading, said, shape, values: count, ascends, level, step, whole }
    };
    head.sample.iter().enumerate().map(of).collect()
}

fn shape(values: &[f64]) -> Shape {
    let steps = || values.windows(2).map(|pair| pair[1] - pair[0]);
    let n = values.len().saturating_sub(1);
    let share = |count: usize| count as f64 / n.max(1) as f64;
    let (first, last) = (values[0], *values.last().expect("it has values"));
    if n >= 1 && first.fract() == 0.0 && share(steps().filter(|&step| step == 1.0).count()) > RISING
    {
        return Shape::Index;
    }
    if n >= 1 && values.iter().all(|&value| value == first) {
        return Shape::Constant;
    }
    // A counter that wraps falls once in a while; frame times that rise 19 times in 20 are none.
    let falls = steps().filter(|&step| step < 0.0).count();
    let rises = share(n - falls) >= RISING || falls == 1 && values.len() >= LEAST_ODD;
    let up = share(steps().filter(|&step| step > 0.0).count()) >= 0.5;
    let wraps = falls > 0;
    if n >= 2 && rises && up && (last > first || wraps) { Shape::Rising } else { Shape::Loose }
}

fn middle(mut values: Vec<f64>) -> f64 {
    values.retain(|&value| value > 0.0);
    values.sort_by(f64::total_cmp);
    values.get(values.len() / 2).copied().unwrap_or(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_show_what_they_are() {
        assert_eq!(shape(&[1.0, 2.0, 3.0, 4.0]), Shape::Index);
        assert_eq!(shape(&[16.1, 33.0, 49.9, 66.2]), Shape::Rising);
        assert_eq!(shape(&[16.1, 16.9, 16.4, 33.0]), Shape::Loose);
        assert_eq!(shape(&[16.7, 16.7, 16.7]), Shape::Constant);
        assert_eq!(shape(&[16.7]), Shape::Loose);
        let counter: Vec<f64> = (0..200).map(|i| f64::from(i * 17 % 1_000)).collect();
        assert_eq!(shape(&counter), Shape::Rising, "a counter that wraps");
    }
}
