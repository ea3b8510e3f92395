//! An analysis as programs read it.

use super::analyse::Analysis;
use serde::Serialize;

/// What every document of this kind is called.
pub const SCHEMA: &str = "honest-lap/analysis";

/// Which version of it this is: a change of meaning raises it.
pub const VERSION: u32 = 3;

/// An analysis with the name and version of its form.
#[derive(Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Document<'a, 'l> {
    /// `honest-lap/analysis`.
    schema: &'static str,
    /// 3.
    version: u32,
    /// What the laps support.
    #[serde(flatten)]
    analysis: &'a Analysis<'l>,
}

impl<'a, 'l> Document<'a, 'l> {
    /// Returns `analysis` as a document.
    pub fn of(analysis: &'a Analysis<'l>) -> Self {
        Self { schema: SCHEMA, version: VERSION, analysis }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use schemars::generate::SchemaSettings;

    #[test]
    fn the_published_schema_is_that_of_these_types() {
        let settings = SchemaSettings::draft2020_12().for_serialize();
        let mut schema = settings.into_generator().into_root_schema_for::<Document<'_, '_>>();
        schema.insert("title".into(), SCHEMA.into());
        let made = format!("{}\n", serde_json::to_string_pretty(&schema).unwrap());
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/analysis.schema.json");
        if std::env::var_os("LAP_WRITE_SCHEMA").is_some() {
            std::fs::write(path, &made).unwrap();
        }
        let published = std::fs::read_to_string(path).unwrap_or_default();
        assert!(
            made == published,
            "{path} is not what the types say: LAP_WRITE_SCHEMA=1 cargo test -p honest-lap-core schema"
        );
    }
}
