//! A session: the laps run in one session on one rig.

use crate::record::{Campaign, Goal, RigFound};
use crate::unit::Date;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// A session's name: the rig's, and a count. `heron-3` is heron's third session.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(into = "String", try_from = "String")]
pub struct SessionName {
    /// The rig's name.
    pub rig: String,
    /// Which session of the rig, from 1.
    pub number: u32,
}

impl SessionName {
    /// Returns the session name that `text` writes, if it is one.
    pub fn parse(text: &str) -> Option<Self> {
        let (rig, number) = text.rsplit_once('-')?;
        let number = number.parse().ok().filter(|&n| n > 0)?;
        is_rig_name(rig).then(|| Self { rig: rig.to_owned(), number })
    }
}

impl std::fmt::Display for SessionName {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}-{}", self.rig, self.number)
    }
}

impl From<SessionName> for String {
    fn from(name: SessionName) -> Self {
        name.to_string()
    }
}

impl TryFrom<String> for SessionName {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).ok_or_else(|| format!("`{text}` is not the name of a session"))
    }
}

/// Returns whether `name` can name a rig or a workload: said aloud, typed, and safe in a path.
pub fn is_rig_name(name: &str) -> bool {
    (1..=40).contains(&name.len())
        && name.starts_with(|c: char| c.is_ascii_alphanumeric())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_')
}

/// What is written down when a session begins, and never altered.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct SessionRecord {
    /// Its name.
    pub name: SessionName,
    /// Wall-clock time of its start, RFC 3339: a label, never a measurement.
    pub started: String,
    /// The seed of its order.
    pub seed: u64,
    /// The version of the tool.
    pub tool: String,
    /// The machine as found.
    pub found: RigFound,
    /// First output lines of the version commands: (workload, label, line or reason).
    pub versions: Vec<VersionLine>,
    /// What else is known of it.
    pub about: SessionAbout,
}

impl SessionRecord {
    /// Returns the day its laps were measured on, as far as is known; nothing where its start is no moment.
    pub fn day(&self) -> Option<Date> {
        self.about.on.or_else(|| Date::parse(&self.started).ok())
    }

    /// Returns when its laps were measured, RFC 3339. Typed values have a day and no hour: its beginning.
    pub fn measured(&self) -> Cow<'_, str> {
        let by_day = self.about.on.is_some() || self.about.origin == Origin::Entered;
        match self.day().filter(|_| by_day) {
            Some(day) => Cow::Owned(format!("{day}T00:00:00Z")),
            None => Cow::Borrowed(&self.started),
        }
    }
}

/// How a session's laps came about.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Origin {
    /// The tool ran them.
    #[default]
    #[serde(rename = "driven")]
    Run,
    /// Somebody read them off and typed them in.
    Entered,
    /// Somebody timed them with the tool's own stopwatch.
    Clocked,
    /// They were captured elsewhere, and their logs imported.
    Imported,
}

/// What is known of a session besides its rig; what is not known is left out.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct SessionAbout {
    /// How its laps came about.
    pub origin: Origin,
    /// Who read them, where a person did.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reader: Option<String>,
    /// The day they were measured on, where that is not the day of the session.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on: Option<Date>,
    /// What they were read from, or whose numbers they are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub source: Option<String>,
    /// Room temperature in °C, as a person says.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub room_c: Option<f64>,
    /// What a person says of the session.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub remark: Option<String>,
    /// Parts of the rig as they were said to be when it began, by name.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub parts: Vec<(String, String)>,
    /// What was to be run, so that it can be resumed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub campaign: Option<Campaign>,
    /// What the machine's state had against it when it began.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub against: Vec<String>,
}

impl SessionAbout {
    /// Returns whether its laps ended when they looked precise enough.
    pub fn looked(&self) -> bool {
        self.campaign.as_ref().is_some_and(|campaign| matches!(campaign.goal, Goal::Until(_)))
    }
}

/// What one version command said at the start of a session.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct VersionLine {
    /// The workload it belongs to.
    pub workload: String,
    /// The label the study gives it.
    pub label: String,
    /// The first line it printed; `None` if it failed or printed nothing.
    pub line: Option<String>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_read_back() {
        let name = SessionName { rig: "lab-2".into(), number: 13 };
        assert_eq!(name.to_string(), "lab-2-13");
        assert_eq!(SessionName::parse("lab-2-13"), Some(name));
        for bad in ["heron", "heron-0", "heron-x", "-3", "he ron-3", "../x-1"] {
            assert_eq!(SessionName::parse(bad), None, "{bad}");
        }
    }
}
