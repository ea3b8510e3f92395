//! Why a quantity could not be read.

/// Why a quantity could not be read, and how it should be written.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{problem}")]
pub struct UnitError {
    /// What is wrong, in words.
    pub problem: String,
    /// How to write it instead.
    pub remedy: &'static str,
}

impl UnitError {
    pub(crate) fn new(problem: impl Into<String>, remedy: &'static str) -> Self {
        Self { problem: problem.into(), remedy }
    }
}
