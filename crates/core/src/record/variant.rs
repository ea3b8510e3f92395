//! A variant: one combination of a workload's varied settings.

use serde::{Deserialize, Serialize, Serializer};
use std::cmp::Ordering;
use std::hash::{Hash, Hasher};
use std::sync::Arc;

/// The settings of one variant: equal settings are equal variants, however they are told.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Settings {
    /// Name and value, sorted by name: all that it is known by.
    pairs: Vec<(String, String)>,
    /// How it is told to people, where a study says so.
    #[serde(skip)]
    told: Option<Arc<Telling>>,
}

/// How a study tells the variants of a workload: in its own order, and without what is the same in all of them.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Telling {
    order: Vec<String>,
    same: Vec<(String, String)>,
}

impl Telling {
    /// Returns how the variants of `vary` are told.
    pub fn of(vary: &[(String, Vec<String>)]) -> Self {
        let one = |(name, values): &(String, Vec<String>)| match values.as_slice() {
            [only] => Some((name.clone(), only.clone())),
            _ => None,
        };
        let order = vary.iter().map(|(name, _)| name.clone()).collect();
        Self { order, same: vary.iter().filter_map(one).collect() }
    }
}

impl PartialEq for Settings {
    fn eq(&self, other: &Self) -> bool {
        self.pairs == other.pairs
    }
}

impl Eq for Settings {}

impl PartialOrd for Settings {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Settings {
    fn cmp(&self, other: &Self) -> Ordering {
        self.pairs.cmp(&other.pairs)
    }
}

impl Hash for Settings {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.pairs.hash(state);
    }
}

impl Settings {
    /// Returns the settings `pairs`, told in order of their names.
    pub fn new(mut pairs: Vec<(String, String)>) -> Self {
        pairs.sort();
        Self { pairs, told: None }
    }

    /// Returns the settings, told as `telling` says.
    #[must_use]
    pub fn told(self, telling: &Arc<Telling>) -> Self {
        Self { told: Some(Arc::clone(telling)), ..self }
    }

    /// Returns the settings but for `name`, told as they are.
    pub fn without(&self, name: &str) -> Self {
        let mut other = self.clone();
        other.pairs.retain(|(key, _)| key != name);
        other
    }

    /// Returns whether there is nothing to tell: nothing is varied, or nothing that differs.
    pub fn is_untold(&self) -> bool {
        self.telling().next().is_none()
    }

    /// Returns what is told of it, in that order.
    fn telling(&self) -> impl Iterator<Item = &(String, String)> {
        let told = self.told.as_deref();
        let place = move |name: &String| {
            told.and_then(|told| told.order.iter().position(|known| known == name))
        };
        let is_same = move |pair: &&(String, String)| told.is_some_and(|t| t.same.contains(pair));
        let mut pairs: Vec<&(String, String)> =
            self.pairs.iter().filter(|pair| !is_same(pair)).collect();
        pairs.sort_by_key(|(name, _)| place(name).unwrap_or(usize::MAX));
        pairs.into_iter()
    }

    /// Returns the value of setting `name`.
    pub fn get(&self, name: &str) -> Option<&str> {
        self.pairs.iter().find(|(key, _)| key == name).map(|(_, value)| value.as_str())
    }

    /// Returns name and value of every setting, in order of the names.
    pub fn iter(&self) -> impl Iterator<Item = (&str, &str)> {
        self.pairs.iter().map(|(key, value)| (key.as_str(), value.as_str()))
    }

    /// Returns whether every one of `pairs` is among them.
    pub fn has_all(&self, pairs: &Self) -> bool {
        pairs.iter().all(|(name, value)| self.get(name) == Some(value))
    }

    /// Returns whether nothing is varied.
    pub fn is_empty(&self) -> bool {
        self.pairs.is_empty()
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
        for (place, (key, value)) in self.telling().enumerate() {
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

    #[test]
    fn a_study_s_order_is_kept_and_what_is_the_same_everywhere_is_left_out_of_names_alone() {
        let vary = [
            varied("threads", &["1", "2"]),
            varied("encoder", &["soft"]),
            varied("codec", &["sky", "sea"]),
        ];
        let telling = Arc::new(Telling::of(&vary));
        let told: Vec<Settings> =
            variants(&vary).into_iter().map(|settings| settings.told(&telling)).collect();
        assert_eq!(told[1].to_string(), "threads=1, codec=sea");
        assert_eq!(told[1].get("encoder"), Some("soft"));
        assert_eq!(told, variants(&vary), "they are the same variants");
        assert_eq!(
            serde_json::to_string(&told[0]).unwrap(),
            serde_json::to_string(&variants(&vary)[0]).unwrap()
        );
        // What was recorded under another value is told; so is what the study no longer has.
        let pairs = [("encoder", "hard"), ("look", "fine"), ("threads", "2")];
        let old = Settings::new(pairs.map(|(k, v)| (k.to_owned(), v.to_owned())).to_vec());
        let old = old.told(&telling);
        assert_eq!(old.to_string(), "threads=2, encoder=hard, look=fine");
        assert_eq!(old.without("threads").to_string(), "encoder=hard, look=fine");
        let one = [varied("encoder", &["soft"])];
        let only = variants(&one).remove(0).told(&Arc::new(Telling::of(&one)));
        assert!(only.is_untold() && !only.is_empty());
    }
}
