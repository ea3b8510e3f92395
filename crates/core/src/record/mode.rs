//! Modes: how a program itself was set when it did a lap, by what it writes down or says.

use crate::record::{Find, Source};
use serde::{Deserialize, Serialize};

/// Where a program tells how it is set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModeRule {
    /// What the study calls it.
    pub name: String,
    /// Where it is told.
    pub source: Source,
    /// How it is found there.
    pub find: Find,
}

/// How a program was set around a lap, by one of its modes.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Mode {
    /// What the study calls it.
    pub name: String,
    /// What its file said right ahead of the lap.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// What its file, or the program, had said by the end of the lap.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
    /// Why one of them is not known, where it should be.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unknown: Option<String>,
}

impl Mode {
    /// Returns what it was: once where it did not change meanwhile.
    pub fn values(&self) -> impl Iterator<Item = &str> {
        let after = self.after.as_ref().filter(|after| self.before.as_ref() != Some(*after));
        self.before.iter().chain(after).map(String::as_str)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_did_not_change_is_one_value() {
        let mode = |before: &str, after: &str| Mode {
            before: Some(before.to_owned()),
            after: Some(after.to_owned()),
            ..Mode::default()
        };
        assert_eq!(mode("graphics", "graphics").values().collect::<Vec<_>>(), ["graphics"]);
        let changed = mode("graphics", "processor");
        assert_eq!(changed.values().collect::<Vec<_>>(), ["graphics", "processor"]);
        let said = Mode { after: Some("graphics".into()), ..Mode::default() };
        assert_eq!(said.values().collect::<Vec<_>>(), ["graphics"]);
    }
}
