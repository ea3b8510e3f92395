//! How a program is set: what its files say ahead of a lap and behind it, and what it says itself.

use crate::lap::{Lap, LapResult, below};
use crate::reading::{Text, key, word, word_in_file};
use crate::starter::Spools;
use honest_lap_core::record::{Mode, ModeRule, Source};
use std::path::PathBuf;

impl Lap<'_> {
    /// Returns what the files of the program say of its modes, right ahead of the lap.
    ///
    /// What is not there yet is no mistake: a program may write its settings down when it first runs.
    pub(crate) fn modes_ahead(&self) -> Vec<Mode> {
        let ahead = |rule: &ModeRule| Mode {
            name: rule.name.clone(),
            before: self.in_file(rule).and_then(Result::ok),
            ..Mode::default()
        };
        self.job.workload.modes.iter().map(ahead).collect()
    }

    /// Adds what is said of each mode once the lap has ended.
    pub(crate) fn modes_behind(&self, ahead: Vec<Mode>, spools: &Spools, ended: &mut LapResult) {
        let body = &ended.body;
        let behind = |(rule, mode): (&ModeRule, Mode)| {
            let said = match &rule.source {
                Source::File(_) => self.in_file(rule),
                Source::Output => in_stream(rule, spools.stdout.as_ref(), body.stdout.total),
                Source::Errors => in_stream(rule, spools.stderr.as_ref(), body.stderr.total),
            };
            match said {
                Some(Ok(after)) => Mode { after: Some(after), ..mode },
                Some(Err(why)) => Mode { unknown: Some(why), ..mode },
                None => mode,
            }
        };
        let rules = self.job.workload.modes.iter();
        ended.body.conditions.modes = rules.zip(ahead).map(behind).collect();
    }

    /// Returns what a file says of a mode, where a file is to say it.
    fn in_file(&self, rule: &ModeRule) -> Option<Result<String, String>> {
        let Source::File(file) = &rule.source else { return None };
        let path = match self.values.text(file) {
            Ok(path) => self.place_of(&path),
            Err(err) => return Some(Err(err.to_string())),
        };
        Some(word_in_file(rule, &path, file.source()))
    }

    /// Returns where a file lies that the study names: below the study's folder, or below its user's own.
    fn place_of(&self, path: &str) -> PathBuf {
        match (path.strip_prefix("~/"), std::env::var_os("HOME")) {
            (Some(below_home), Some(home)) => PathBuf::from(home).join(below_home),
            _ => PathBuf::from(below(self.job.place.study(), path)),
        }
    }
}

fn in_stream(
    rule: &ModeRule,
    spool: Option<&String>,
    total: u64,
) -> Option<Result<String, String>> {
    let text = Text::Spool { path: PathBuf::from(spool?), total };
    Some(word(rule, &text, &key(&rule.source)))
}
