//! Why a statistic was refused.

/// A figure that the values given do not support.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum StatError {
    /// There are no values.
    #[error("no values")]
    Empty,
    /// There are fewer values than the statistic can be made of.
    #[error("{found} values, and at least {needed} are needed")]
    TooFew {
        /// The least number that would do.
        needed: usize,
        /// The number given.
        found: usize,
    },
    /// Two series that belong together differ in length.
    #[error("{a} values against {b}: every value needs its partner")]
    Unpaired {
        /// Length of the first series.
        a: usize,
        /// Length of the second series.
        b: usize,
    },
    /// A parameter lies outside its range.
    #[error("{name} is {value}, outside its range")]
    OutOfRange {
        /// The parameter's name.
        name: &'static str,
        /// What it was.
        value: f64,
    },
    /// A value whose log is wanted is zero, negative or not finite.
    #[error("{value} has no logarithm")]
    NotPositive {
        /// The value.
        value: f64,
    },
}
