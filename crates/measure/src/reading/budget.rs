//! How long a pattern may take: it comes from a study, and a study from anyone.

use crate::os::worked;
use honest_lap_core::record::MOST_PATTERN_BYTES;
use honest_lap_core::unit::{Nanos, Stamp, display_span};
use regex::{Regex, RegexBuilder};

/// Processor time that a pattern may take over a text; a plain one reads hundreds of megabytes in it.
const MOST: Nanos = Nanos::from_seconds(2);

/// A pattern, and what it may still take.
#[derive(Debug)]
pub(crate) struct Budgeted {
    regex: Regex,
    begun: Stamp,
    most: Nanos,
}

impl Budgeted {
    pub(crate) fn new(pattern: &str) -> Result<Self, String> {
        Self::within(pattern, MOST)
    }

    fn within(pattern: &str, most: Nanos) -> Result<Self, String> {
        let regex = RegexBuilder::new(pattern).size_limit(MOST_PATTERN_BYTES).build();
        let regex = regex.map_err(|_| format!("`{pattern}` is no pattern, or too large a one"))?;
        Ok(Self { regex, begun: worked(), most })
    }

    pub(crate) fn regex(&self) -> &Regex {
        &self.regex
    }

    /// Returns an error once it has taken too long.
    pub(crate) fn check(&self) -> Result<(), String> {
        if worked().since(self.begun).unwrap_or_default() <= self.most {
            return Ok(());
        }
        Err(format!(
            "`{}` was looked for for {} and not through the text: let it say more of its line, such as a word that stands there",
            self.regex.as_str(),
            display_span(self.most)
        ))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_pattern_that_takes_for_ever_is_given_up_and_named() {
        let slow = Budgeted::within("[01]*1[01]{18}x", Nanos(2_000_000)).unwrap();
        let line = "0110100111010010".repeat(64);
        let why = (0..1_000_000).find_map(|_| {
            assert!(!slow.regex().is_match(&line));
            slow.check().err()
        });
        assert!(why.unwrap().contains("`[01]*1[01]{18}x` was looked for for 2 ms"));
        assert!(Budgeted::new("(a{100}){100}{10}").is_err(), "too large");
        assert!(Budgeted::new("score: (\\d+)").unwrap().check().is_ok());
    }
}
