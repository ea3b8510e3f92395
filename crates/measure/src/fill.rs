//! Commands with every placeholder filled in.

use crate::place::Place;
use honest_lap_core::record::{Launch, Settings, Template, Unfilled, Unquotable, standings};

/// Why there is no command to start.
#[derive(Debug, thiserror::Error)]
pub(crate) enum NoCommand {
    #[error(transparent)]
    Unfilled(#[from] Unfilled),
    #[error(transparent)]
    Unquotable(#[from] Unquotable),
}

/// The values of one lap's placeholders.
pub(crate) struct Values<'a> {
    pub(crate) place: &'a Place,
    pub(crate) settings: &'a Settings,
    /// The lap's own folder; none while there is no lap.
    pub(crate) lap_dir: Option<&'a str>,
    /// The load that it is run at, where it is one of a search.
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
    /// In a text for the shell every value is quoted as it has to be where it stands: a folder with a blank in its name
    /// stays one word, and nothing in a value is run.
    pub(crate) fn command(&self, launch: &Launch) -> Result<Vec<String>, NoCommand> {
        match launch {
            Launch::Direct(words) => {
                words.iter().map(|word| self.text(word).map_err(NoCommand::from)).collect()
            }
            Launch::Shell(line) => {
                let standings = standings(line)?;
                let filled = line
                    .fill_each(|at, name| Some(standings.get(at)?.around(&quote(self.get(name)?))));
                Ok(vec!["/bin/sh".to_owned(), "-c".to_owned(), filled?])
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
        let both = Launch::Shell(parse("cp \"{study_dir}/x\" 'y {n}' \"$HOME/{lap_dir}\""));
        assert_eq!(
            values.command(&both).unwrap()[2],
            "cp \"\"'/my study'\"/x\" 'y ''a;b''' \"$HOME/\"'/my study/l'\"\""
        );
        let direct = Launch::Direct(vec![parse("{lap}"), parse("--n={n}")]);
        assert_eq!(values.command(&direct).unwrap(), ["/bin/lap", "--n=a;b"]);
        let early = Values { lap_dir: None, ..values };
        assert_eq!(early.text(&parse("{lap_dir}")).unwrap_err().name, "lap_dir");
    }

    #[test]
    fn no_value_is_run_or_split_wherever_it_stands() {
        let place = Place::new(Path::new("/s"), Path::new("/bin/lap")).unwrap();
        let nasty = "a b'c\"d$(touch run)`touch run`\\ e\n;touch run #$HOME*";
        for value in [nasty, "", "plain", "--", "'", "\"", "\\", "$x", "{}"] {
            let settings = Settings::new(vec![("n".into(), value.into())]);
            let values = Values::of(&place, &settings);
            for (line, before, behind) in [
                ("printf '%s|' {n}", "", "|"),
                ("printf '%s|' \"x{n}y\"", "x", "y|"),
                ("printf '%s|' 'x'{n}'y'", "x", "y|"),
                ("printf '%s|' \"$(printf %s \"{n}\"; echo .)\"", "", ".|"),
                ("printf '%s|' 'x{n}y{n}'", "x", ""),
            ] {
                let line = Launch::Shell(Template::parse(line).unwrap());
                let command = values.command(&line).unwrap();
                let ran = std::process::Command::new(&command[0]).args(&command[1..]).output();
                let said = String::from_utf8(ran.unwrap().stdout).unwrap();
                let wanted = match behind {
                    "" => format!("x{value}y{value}|"),
                    _ => format!("{before}{value}{behind}"),
                };
                assert_eq!(said, wanted, "{}", command[2]);
            }
        }
        assert!(!Path::new("run").exists());
    }
}
