//! Points and spans of time that cannot be mixed up.

use serde::{Deserialize, Serialize};

/// A point on the monotonic clock, in nanoseconds from an arbitrary start.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Stamp(pub u64);

/// A span of time in whole nanoseconds.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize,
)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(transparent)]
pub struct Nanos(pub u64);

impl Stamp {
    /// Returns the span from `earlier` to `self`, or `None` if the clock ran backwards.
    pub fn since(self, earlier: Self) -> Option<Nanos> {
        self.0.checked_sub(earlier.0).map(Nanos)
    }
}

impl Nanos {
    /// The number of nanoseconds in one second.
    pub const PER_SECOND: u64 = 1_000_000_000;

    /// Returns the span of `seconds` whole seconds, at most the longest span that can be held.
    pub const fn from_seconds(seconds: u64) -> Self {
        Self(seconds.saturating_mul(Self::PER_SECOND))
    }

    /// Returns the span in seconds: the one place where a time becomes a fraction.
    pub fn seconds(self) -> f64 {
        self.0 as f64 / Self::PER_SECOND as f64
    }

    /// Returns both spans together, at most the longest span that can be held.
    pub fn plus(self, other: Self) -> Self {
        Self(self.0.saturating_add(other.0))
    }

    /// Returns what is left of `self` after `other`, and nothing if `other` is longer.
    pub fn minus(self, other: Self) -> Self {
        Self(self.0.saturating_sub(other.0))
    }
}

impl From<Nanos> for std::time::Duration {
    fn from(span: Nanos) -> Self {
        Self::from_nanos(span.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clock_that_ran_backwards_gives_no_span() {
        assert_eq!(Stamp(700).since(Stamp(200)), Some(Nanos(500)));
        assert_eq!(Stamp(200).since(Stamp(700)), None);
    }

    #[test]
    fn spans_stop_at_their_ends() {
        assert_eq!(Nanos(3).minus(Nanos(5)), Nanos(0));
        assert_eq!(Nanos(u64::MAX).plus(Nanos(1)), Nanos(u64::MAX));
        assert_eq!(Nanos(1_500_000_000).seconds(), 1.5);
    }
}
