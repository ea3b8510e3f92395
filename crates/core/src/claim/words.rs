//! The words of a sentence, one after the other.

use super::names::{ClaimError, FORMS, Names, unclear};
use super::sentence::Caution;

pub(super) struct Reader<'a> {
    pub(super) words: &'a [String],
    pub(super) at: usize,
    pub(super) names: &'a Names,
    pub(super) cautions: Vec<Caution>,
}

pub(super) type Read<T> = Result<T, ClaimError>;

impl Reader<'_> {
    pub(super) fn word(&mut self, word: &str) -> bool {
        let here = self.peek().is_some_and(|found| found.eq_ignore_ascii_case(word));
        self.at += usize::from(here);
        here
    }

    pub(super) fn peek(&self) -> Option<&str> {
        self.words.get(self.at).map(String::as_str)
    }

    pub(super) fn stuck(&self) -> ClaimError {
        match self.words.get(self.at..).filter(|rest| !rest.is_empty()) {
            Some(rest) => unclear(&rest.join(" ")),
            None => ClaimError {
                problem: "the sentence ends too soon".to_owned(),
                remedy: FORMS.to_owned(),
            },
        }
    }
}
