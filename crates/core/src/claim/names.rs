//! What a sentence may name, and why one is not understood.

use crate::record::Measure;

/// What a sentence may name.
#[derive(Clone, Debug, Default)]
pub struct Names {
    /// The rigs.
    pub rigs: Vec<String>,
    /// What people call rigs, each with its name.
    pub titles: Vec<(String, String)>,
    /// The workloads.
    pub workloads: Vec<String>,
    /// The measures.
    pub measures: Vec<Measure>,
}

/// Why a sentence is not understood.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{problem}")]
pub struct ClaimError {
    /// What is wrong, in words.
    pub problem: String,
    /// What to do.
    pub remedy: String,
}

pub(super) const FORMS: &str = "claims read like these: \"heron is at least 20% faster than wren on reel-export\", \
    \"heron and plover are the same within 2% on every task\", \"low 1% of kestrel in fly-through is \
    above 60\", \"dunlin uses at most half the energy of heron\", \"heron is second fastest overall\"";

/// Returns that `what` is not understood.
pub(super) fn unclear(what: &str) -> ClaimError {
    ClaimError { problem: format!("`{what}` is not understood here"), remedy: FORMS.to_owned() }
}
