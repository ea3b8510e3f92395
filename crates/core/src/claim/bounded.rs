//! Whether an interval bears out what a sentence says of a number.

use super::reply::Answer;
use super::sentence::Bound;
use crate::stat::Interval;

/// Returns the answer to a bound on what lies in `own`; `wide` refutes it.
pub(super) fn bounded(
    bound: Bound,
    ratio: f64,
    own: Interval,
    wide: Interval,
    margin: f64,
    same: bool,
) -> Answer {
    let (holds, fails) = match bound {
        Bound::AtLeast => (own.low >= ratio, wide.high < ratio),
        Bound::AtMost => (own.high <= ratio, wide.low > ratio),
        Bound::Above => (own.low > ratio, wide.high <= ratio || same),
        Bound::Below => (own.high < ratio, wide.low >= ratio || same),
        Bound::Between(to) => {
            (own.low >= ratio && own.high <= to, wide.high < ratio || wide.low > to)
        }
        // Any of them may reach it by chance, and all of them must fail. Up to 30 % slower is reached from above.
        Bound::UpTo if ratio < 1.0 => {
            let reached = ratio * (1.0 + margin);
            (wide.high <= reached, own.low > reached)
        }
        Bound::UpTo => (wide.low >= ratio / (1.0 + margin), own.high < ratio / (1.0 + margin)),
        Bound::About => {
            let (low, high) = (ratio / (1.0 + margin), ratio * (1.0 + margin));
            (own.low >= low && own.high <= high, wide.high < low || wide.low > high)
        }
    };
    match (holds, fails) {
        (true, _) => Answer::Holds,
        (false, true) => Answer::DoesNot,
        (false, false) => Answer::CannotBeSaid,
    }
}

pub(super) fn off_band(wide: Interval, centre: f64, within: f64) -> Answer {
    let (low, high) = (centre / (1.0 + within), centre * (1.0 + within));
    if wide.low > high || wide.high < low { Answer::DoesNot } else { Answer::CannotBeSaid }
}
