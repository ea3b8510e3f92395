//! What can be chosen of a lab: sessions, groups and variants.

use crate::record::{SessionName, Settings, Study};
use serde::{Deserialize, Serialize};

/// What is chosen of a lab; of what nothing is said, all.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Choice {
    /// The sessions.
    pub sessions: Vec<SessionName>,
    /// The groups that workloads belong to.
    pub groups: Vec<String>,
    /// The variants, each of which is enough.
    pub variants: Vec<VariantChoice>,
}

/// Variants that are meant: all that have these settings.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(into = "String", try_from = "String")]
pub struct VariantChoice {
    /// Settings by name, or a value that any of them may have.
    wanted: Vec<(Option<String>, String)>,
}

impl VariantChoice {
    /// Returns what `text` chooses: `threads=2 codec=fast`, or `fast` for whatever setting has that value; `None` of nothing.
    pub fn parse(text: &str) -> Option<Self> {
        let wanted = |word: &str| match word.split_once('=') {
            Some((name, value)) => (Some(name.to_owned()), value.to_owned()),
            None => (None, word.to_owned()),
        };
        let wanted: Vec<_> = text.split_whitespace().map(wanted).collect();
        let is_whole = |(name, value): &(Option<String>, String)| {
            name.as_ref().is_none_or(|name| !name.is_empty()) && !value.is_empty()
        };
        (!wanted.is_empty() && wanted.iter().all(is_whole)).then_some(Self { wanted })
    }

    /// Returns whether `settings` are meant.
    pub(super) fn means(&self, settings: &Settings) -> bool {
        self.wanted.iter().all(|(name, value)| match name {
            Some(name) => settings.get(name) == Some(value),
            None => settings.iter().any(|(_, own)| own == value),
        })
    }
}

impl std::fmt::Display for VariantChoice {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let word = |(name, value): &(Option<String>, String)| match name {
            Some(name) => format!("{name}={value}"),
            None => value.clone(),
        };
        f.write_str(&self.wanted.iter().map(word).collect::<Vec<_>>().join(" "))
    }
}

impl From<VariantChoice> for String {
    fn from(choice: VariantChoice) -> Self {
        choice.to_string()
    }
}

impl TryFrom<String> for VariantChoice {
    type Error = String;

    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).ok_or_else(|| format!("`{text}` chooses no variant"))
    }
}

impl Choice {
    /// Returns whether the variant `settings` of `workload` is meant, in whatever session.
    pub(crate) fn means(&self, study: &Study, workload: &str, settings: &Settings) -> bool {
        let group = study.workload(workload).and_then(|workload| workload.group.as_ref());
        let in_group = self.groups.is_empty() || group.is_some_and(|g| self.groups.contains(g));
        let variant = || self.variants.iter().any(|variant| variant.means(settings));
        in_group && (self.variants.is_empty() || variant())
    }

    /// Returns whether all of the lab is meant.
    pub fn is_everything(&self) -> bool {
        *self == Self::default()
    }
}
