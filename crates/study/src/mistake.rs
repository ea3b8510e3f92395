//! A mistake in a study: where, what, and what to do about it.

use std::ops::Range;

/// One mistake.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mistake {
    /// The bytes of the study's text that it concerns.
    pub span: Range<usize>,
    /// What is wrong.
    pub problem: String,
    /// What to write instead, or to do.
    pub remedy: String,
}

/// Returns the name among `known` that `word` was most likely meant to be.
pub(crate) fn nearest<'a>(word: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    known
        .into_iter()
        .map(|name| (strsim::damerau_levenshtein(&word.to_lowercase(), name), name))
        .filter(|(distance, name)| *distance <= (name.len().max(word.len()) / 3).max(1))
        .min()
        .map(|(_, name)| name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_the_name_that_was_meant() {
        let known = ["command", "before", "limit", "laps"];
        assert_eq!(nearest("comand", known), Some("command"));
        assert_eq!(nearest("Limits", known), Some("limit"));
        assert_eq!(nearest("lap", known), Some("laps"));
        assert_eq!(nearest("colour", known), None);
    }
}
