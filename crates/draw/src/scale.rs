//! From values to places on an axis, and round values to mark it with.

/// A scale along an axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scale {
    /// The values at its two ends.
    pub values: (f64, f64),
    /// The places of its two ends.
    pub places: (f64, f64),
    /// Whether equal distances are equal ratios.
    pub log: bool,
}

impl Scale {
    /// Returns the place of `value`; what lies beyond an end is placed at it.
    pub fn place(&self, value: f64) -> f64 {
        let (from, to) = self.values;
        let share = match self.log {
            true => (value.max(f64::MIN_POSITIVE) / from).ln() / (to / from).ln(),
            false => (value - from) / (to - from),
        };
        // Equal ends leave nothing to tell apart.
        let share = if share.is_finite() { share.clamp(0.0, 1.0) } else { 0.5 };
        self.places.0 + share * (self.places.1 - self.places.0)
    }
}

/// Returns about `most` round values between `from` and `to`: 1, 2 or 5 times a power of ten.
pub fn ticks(from: f64, to: f64, log: bool, most: usize) -> Vec<f64> {
    if !(from.is_finite() && to.is_finite() && from < to) || most == 0 {
        return Vec::new();
    }
    let marked = if log { log_ticks(from, to, most) } else { Vec::new() };
    // Within less than a power of ten there are hardly any: then equal steps serve a log scale too.
    let least = if log && to / from < 10.0 { 3 } else { 2 };
    if marked.len() < least { linear_ticks(from, to, most) } else { marked }
}

/// Returns values in equal steps, of which `most` fit in at most; finer ones where a single value would be marked.
fn linear_ticks(from: f64, to: f64, most: usize) -> Vec<f64> {
    let rough = (to - from) / most as f64;
    let power = 10f64.powf(rough.log10().floor());
    let steps = [10.0, 5.0, 2.0, 1.0, 0.5, 0.2].map(|m| m * power);
    let wide = steps.iter().rposition(|&step| step >= rough).unwrap_or(0);
    let of = |step: f64| -> Vec<f64> {
        let first = (from / step - 1e-9).ceil() as i64;
        let last = (to / step + 1e-9).floor() as i64;
        (first..=last).map(|n| n as f64 * step).collect()
    };
    let mut choices = steps[wide..].iter().map(|&step| of(step));
    choices.find(|ticks| ticks.len() > 1).unwrap_or_default()
}

fn log_ticks(from: f64, to: f64, most: usize) -> Vec<f64> {
    if from <= 0.0 {
        return Vec::new();
    }
    let (low, high) = (from.log10().floor() as i32, to.log10().ceil() as i32);
    let within = |value: &f64| (from * 0.999_999..=to * 1.000_001).contains(value);
    let of = |factors: &[f64]| -> Vec<f64> {
        let all = (low..=high).flat_map(|power| factors.iter().map(move |f| f * 10f64.powi(power)));
        all.filter(within).collect()
    };
    let choices: [&[f64]; 3] = [&[1.0, 2.0, 5.0], &[1.0, 3.0], &[1.0]];
    let fits = choices.into_iter().map(of).find(|ticks| ticks.len() <= most);
    fits.unwrap_or_else(|| of(&[1.0]))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_find_their_places() {
        let linear = Scale { values: (0.0, 10.0), places: (100.0, 0.0), log: false };
        assert_eq!([0.0, 2.5, 99.0].map(|v| linear.place(v)), [100.0, 75.0, 0.0]);
        let log = Scale { values: (1.0, 100.0), places: (0.0, 200.0), log: true };
        assert!((log.place(10.0) - 100.0).abs() < 1e-9);
        assert_eq!(log.place(0.0), 0.0);
        assert_eq!(Scale { values: (3.0, 3.0), ..linear }.place(3.0), 50.0);
    }

    #[test]
    fn ticks_are_round_and_few() {
        assert_eq!(ticks(0.0, 63.0, false, 6), [0.0, 20.0, 40.0, 60.0]);
        assert_eq!(ticks(8.0, 300.0, true, 8), [10.0, 20.0, 50.0, 100.0, 200.0]);
        assert_eq!(ticks(0.0001, 1.0, true, 5), [0.0001, 0.001, 0.01, 0.1, 1.0]);
        assert_eq!(ticks(1.0, 1.0, false, 5), Vec::<f64>::new());
        assert_eq!(ticks(0.9, 2.2, true, 3), [1.0, 1.5, 2.0]);
        // Over more than that they are equal ratios, however few.
        assert_eq!(ticks(12.0, 260.0, true, 2), [30.0, 100.0]);
    }

    #[test]
    fn an_axis_has_two_ticks_at_least() {
        // Steps of 50 mark 50 alone.
        assert_eq!(ticks(6.0, 67.0, false, 2), [20.0, 40.0, 60.0]);
        for from in 0..60 {
            for length in 1..200 {
                let (from, length) = (f64::from(from) * 0.7, f64::from(length) * 0.37);
                for most in 2..9 {
                    let found = ticks(from, from + length, false, most).len();
                    assert!(
                        (2..=most.max(4) + 1).contains(&found),
                        "{from} {length} {most}: {found}"
                    );
                }
            }
        }
    }
}
