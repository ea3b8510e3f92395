//! What a typed number may have been meant to be.

use serde::Serialize;

/// A correction explains a number where it brings it to within this many standard deviations of what it should be.
pub(super) const EXPLAINS: f64 = 2.5;

/// What a typed number may have been meant to be.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum Meant {
    /// A digit is out of place.
    Digits {
        /// What it would be.
        value: f64,
    },
    /// It stands in minutes among seconds, in hours among minutes, or the other way round.
    Sixtieth {
        /// What it would be.
        value: f64,
    },
    /// It is the number of another rig, and that has its own.
    OfRig {
        /// The other rig.
        rig: String,
        /// What stands there.
        value: f64,
    },
}

/// Returns what `value` may have been meant to be, if a slip explains it: the one that comes nearest to what is usual.
pub(super) fn meant(value: f64, usual: f64, sd: f64) -> Option<Meant> {
    let off = |candidate: f64| (candidate / usual).ln().abs();
    let explains = |candidate: &f64| off(*candidate) < (EXPLAINS * sd).min(off(value) / 3.0);
    let moved = [10.0, 100.0, 0.1, 0.01].map(|factor| value * factor);
    let digits = moved.into_iter().chain(exchanged(value)).map(|value| (value, true));
    let sixtieth = [60.0, 1.0 / 60.0].map(|factor| (value * factor, false));
    let all = digits.chain(sixtieth).filter(|(value, _)| explains(value));
    let (value, is_digit) = all.min_by(|a, b| off(a.0).total_cmp(&off(b.0)))?;
    let value = (value * 1e6).round() / 1e6;
    Some(if is_digit { Meant::Digits { value } } else { Meant::Sixtieth { value } })
}

/// Returns `value` with each two neighbouring digits exchanged, as it would be typed.
pub(super) fn exchanged(value: f64) -> Vec<f64> {
    let text: Vec<char> = format!("{value}").chars().collect();
    let digits: Vec<usize> = (0..text.len()).filter(|at| text[*at].is_ascii_digit()).collect();
    let swapped = |pair: &[usize]| {
        let mut other = text.clone();
        other.swap(pair[0], pair[1]);
        other.into_iter().collect::<String>().parse().ok()
    };
    digits.windows(2).filter_map(swapped).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_slip_is_named_where_it_explains_the_number_and_nothing_else_is() {
        let said = |value| meant(value, 812.0, 0.01);
        assert_eq!(said(8_120.0), Some(Meant::Digits { value: 812.0 }));
        assert_eq!(said(182.0), Some(Meant::Digits { value: 812.0 }));
        assert_eq!(said(13.5), Some(Meant::Sixtieth { value: 810.0 }));
        assert_eq!((said(1_200.0), said(812.5)), (None, None));
    }
}
