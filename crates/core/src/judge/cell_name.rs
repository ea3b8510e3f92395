//! What a figure of a lab is of: the key by which everything about it is found.

use crate::record::Settings;
use serde::Serialize;

/// A measure of a variant of a workload.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct CellName {
    /// The workload.
    pub workload: String,
    /// The variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
    /// The measure.
    pub measure: String,
}

impl CellName {
    /// Returns the name of `measure` of the variant with `settings` of `workload`.
    pub fn of(workload: &str, settings: &Settings, measure: &str) -> Self {
        let (workload, measure) = (workload.to_owned(), measure.to_owned());
        Self { workload, settings: settings.clone(), measure }
    }
}
