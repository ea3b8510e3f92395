//! Commands with every placeholder filled in.

use crate::place::Place;
use honest_lap_core::record::{Launch, Settings, Template, Unfilled};

/// The values of one lap's placeholders.
pub(crate) struct Values<'a> {
    pub(crate) place: &'a Place,
    pub(crate) settings: &'a Settings,
    /// The lap's own folder; none while there is no lap.
    pub(crate) lap_dir: Option<&'a str>,
    /// The load that it is driven at, where it is one of a search.
    pub(crate) load: Option<&'a str>,
    /// How long it is to last, in seconds, where it is an endurance lap.
    pub(crate) seconds: Option<&'a str>,
}

impl<'a> Values<'a> {
    /// Returns the values that are known while there is no lap.
    pub(crate) fn of(place: &'a Place, settings: &'a Settings) -> Self {
        Self { place, settings, lap_dir: None, load: None, seconds: None }
    }
    fn get(&self, name: &str) -> Option<&str> {
        match name {
            "lap" => Some(self.place.tool()),
            "study_dir" => Some(self.place.study()),
            "lap_dir" => self.lap_dir,
            "load" if self.load.is_some() => self.load,
            "seconds" if self.seconds.is_some() => self.seconds,
            other => self.settings.get(other),
        }
    }

    /// Returns `template` filled in.
    pub(crate) fn text(&self, template: &Template) -> Result<String, Unfilled> {
        template.fill(|name| self.get(name))
    }

    /// Returns program and arguments of `launch`.
    ///
    /// In a text for the shell every value is quoted where it needs to be: a folder with a blank
    /// in its name stays one word.
    pub(crate) fn command(&self, launch: &Launch) -> Result<Vec<String>, Unfilled> {
        match launch {
            Launch::Direct(words) => words.iter().map(|word| self.text(word)).collect(),
            Launch::Shell(line) => {
                let quoted: Vec<(String, String)> = line
                    .places()
                    .filter_map(|name| Some((name.to_owned(), quote(self.get(name)?))))
                    .collect();
                let value = |name: &str| {
                    quoted.iter().find(|(key, _)| key == name).map(|(_, value)| value.as_str())
                };
                Ok(vec!["/bin/sh".to_owned(), "-c".to_owned(), line.fill(value)?])
            }
        }
    }
}

fn quote(value: &str) -> String {
    // Only a NUL byte cannot be quoted, and neither a path nor a setting can hold one.
    shlex::try_quote(value).map(std::borrow::Cow::into_owned).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::path::Path;

    #[test]
    fn a_blank_in_a_folder_splits_no_word() {
        let place = Place::new(Path::new("/my study"), Path::new("/bin/lap")).unwrap();
        let settings = Settings::new(vec![("n".into(), "a;b".into())]);
        let values = Values { lap_dir: Some("/my study/l"), ..Values::of(&place, &settings) };
        let parse = |text| Template::parse(text).unwrap();
        let shell = Launch::Shell(parse("cp {study_dir}/x {lap_dir} {n}"));
        assert_eq!(values.command(&shell).unwrap()[2], "cp '/my study'/x '/my study/l' 'a;b'");
        let direct = Launch::Direct(vec![parse("{lap}"), parse("--n={n}")]);
        assert_eq!(values.command(&direct).unwrap(), ["/bin/lap", "--n=a;b"]);
        let early = Values { lap_dir: None, ..values };
        assert_eq!(early.text(&parse("{lap_dir}")).unwrap_err().name, "lap_dir");
    }
}
