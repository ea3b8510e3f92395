//! What several doubts are made of: series, laps by variant, files and versions by rig.

use crate::record::{SessionName, Settings};
use serde::Serialize;

/// A variant with too few laps.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct FewLaps {
    /// The variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
    /// Its counted laps.
    pub laps: usize,
}

/// A series: the laps of a variant in a session.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct SeriesName {
    /// The session.
    pub session: SessionName,
    /// The variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
}

/// A content of a file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Copies {
    /// Its SHA-256 in hexadecimal.
    pub sha256: String,
    /// The rigs that made it.
    pub rigs: Vec<String>,
    /// In how many laps.
    pub laps: usize,
}

/// A version of a program, or how it was set, and who has it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct VersionOn {
    /// What it said; none where it could not be read.
    pub line: Option<String>,
    /// The rigs.
    pub rigs: Vec<String>,
}

/// A rig without a figure.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Lacking {
    /// The rig.
    pub rig: String,
    /// Its laps, told apart by why they do not count.
    pub counts: crate::judge::Counts,
}
