//! A variant: one combination of a workload's varied settings.

use serde::{Deserialize, Serialize, Serializer};

/// The settings of one variant, sorted by name, so that equal settings are equal variants.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Settings(Vec<(String, String)>);

impl Settings {
    /// Returns the settings `pairs`, in order of their names.
    pub fn new(mut pairs: Vec<(String, String)>) -> Self {
        pairs.sort();
        Self(pairs)
    }

    /// Returns the value of setting `name`.
    pub fn get(&self, name: &str) -> Option<&str> {
        self.0.iter().find(|(key, _)| key == name).map(|(_, value)| value.as_str())
    }

    /// Returns name and value of every setting, in order of the names.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &str)> {
        self.0.iter().map(|(key, value)| (key.as_str(), value.as_str()))
    }

    /// Returns whether every one of `pairs` is among them.
    pub fn has_all(&self, pairs: &Self) -> bool {
        pairs.iter().all(|(name, value)| self.get(name) == Some(value))
    }

    /// Returns whether nothing is varied.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

/// Writes settings as an object: `{"threads": "2"}`.
///
/// # Errors
///
/// Those of the writer.
pub(crate) fn by_name<S: Serializer>(settings: &Settings, writer: S) -> Result<S::Ok, S::Error> {
    writer.collect_map(settings.iter())
}

impl std::fmt::Display for Settings {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        for (place, (key, value)) in self.iter().enumerate() {
            let comma = if place > 0 { ", " } else { "" };
            write!(f, "{comma}{key}={value}")?;
        }
        Ok(())
    }
}

/// Returns every combination of `vary`, the first setting changing slowest.
///
/// No varied setting at all gives one variant, with no settings.
pub fn variants(vary: &[(String, Vec<String>)]) -> Vec<Settings> {
    let mut rows: Vec<Vec<(String, String)>> = vec![Vec::new()];
    for (name, values) in vary {
        rows = rows
            .iter()
            .flat_map(|row| {
                values.iter().map(move |value| {
                    let mut longer = row.clone();
                    longer.push((name.clone(), value.clone()));
                    longer
                })
            })
            .collect();
    }
    rows.into_iter().map(Settings::new).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn varied(name: &str, values: &[&str]) -> (String, Vec<String>) {
        (name.into(), values.iter().map(|&v| v.into()).collect())
    }

    #[test]
    fn every_combination_once() {
        let all = variants(&[varied("threads", &["1", "2"]), varied("encoder", &["soft", "hard"])]);
        let said: Vec<String> = all.iter().map(ToString::to_string).collect();
        assert_eq!(
            said,
            [
                "encoder=soft, threads=1",
                "encoder=hard, threads=1",
                "encoder=soft, threads=2",
                "encoder=hard, threads=2"
            ]
        );
        assert_eq!(all[3].get("encoder"), Some("hard"));
        assert_eq!(variants(&[]), [Settings::default()]);
    }
}
