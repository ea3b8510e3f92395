//! A part of a lab: what is chosen of it.

use super::choice::{Choice, VariantChoice};
use super::laps::Laps;
use super::records::Lab;
use super::series::LapSeries;
use crate::record::{SessionName, Settings};
use std::collections::BTreeSet;

/// Why nothing can be chosen.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ChoiceError {
    /// No lap is of that session.
    #[error("no session {0}")]
    NoSession(SessionName),
    /// No workload belongs to that group.
    #[error("no group {name}")]
    NoGroup {
        /// The group.
        name: String,
        /// Those that there are.
        known: Vec<String>,
    },
    /// No variant with laps has those settings.
    #[error("no variant {name}")]
    NoVariant {
        /// As it was said.
        name: String,
        /// Those that there are.
        known: Vec<String>,
    },
    /// Each is there, and no lap is of all of them.
    #[error("no lap is left")]
    Nothing,
}

impl Lab {
    /// Returns the part of it that is chosen.
    ///
    /// How far days differ is known from all of its sessions, chosen or not.
    ///
    /// * Errors: what is named and not there; nothing that is left.
    pub fn chosen(mut self, choice: &Choice) -> Result<Self, ChoiceError> {
        if choice.is_everything() {
            return Ok(self);
        }
        self.all_are_known(choice)?;
        let means = |series: &LapSeries| {
            (choice.sessions.is_empty() || choice.sessions.contains(&series.session))
                && choice.means(&self.study, &series.workload, &series.settings)
        };
        let kept = |laps: &Laps| laps.filter_map(|one| means(one).then(|| one.clone()));
        let history = self.laps().clone();
        let (recorded, values) = (kept(&self.recorded), self.values.as_ref().map(kept));
        if recorded.is_empty() {
            return Err(ChoiceError::Nothing);
        }
        let left: BTreeSet<SessionName> =
            recorded.series().iter().map(|series| series.session.clone()).collect();
        self.sessions.retain(|session| left.contains(&session.name));
        self.versions.retain(|(session, _)| left.contains(session));
        (self.recorded, self.values) = (recorded, values);
        self.history.get_or_insert(history);
        self.choice = choice.clone();
        Ok(self.settled())
    }

    /// Returns what of `choice` is not there, if anything.
    fn all_are_known(&self, choice: &Choice) -> Result<(), ChoiceError> {
        let sessions: BTreeSet<&SessionName> =
            self.recorded.series().iter().map(|series| &series.session).collect();
        if let Some(name) = choice.sessions.iter().find(|name| !sessions.contains(name)) {
            return Err(ChoiceError::NoSession(name.clone()));
        }
        let groups: BTreeSet<&String> =
            self.study.workloads.iter().filter_map(|workload| workload.group.as_ref()).collect();
        if let Some(name) = choice.groups.iter().find(|name| !groups.contains(name)) {
            let known = groups.into_iter().cloned().collect();
            return Err(ChoiceError::NoGroup { name: name.clone(), known });
        }
        let variants: BTreeSet<&Settings> =
            self.recorded.series().iter().map(|series| &series.settings).collect();
        let is_known = |choice: &&VariantChoice| variants.iter().any(|one| choice.means(one));
        if let Some(unknown) = choice.variants.iter().find(|choice| !is_known(choice)) {
            let known = variants.iter().filter(|settings| !settings.is_empty());
            let known = known.map(ToString::to_string).collect();
            return Err(ChoiceError::NoVariant { name: unknown.to_string(), known });
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::Records;
    use crate::record::{LapHead, LapName, Study};
    use crate::unit::Nanos;

    fn lab() -> Lab {
        let lap = |name: &str, threads: &str| {
            let settings = Settings::new(vec![("threads".to_owned(), threads.to_owned())]);
            LapHead::done(LapName::parse(name).unwrap(), "still", settings, Nanos(5))
        };
        let laps = [lap("heron-1.1", "1"), lap("heron-1.2", "2"), lap("wren-1.1", "2")];
        let laps = laps.into_iter().collect();
        Lab::of(Study::default(), Records { laps, ..Records::default() })
    }

    fn left(choice: &Choice) -> Result<Vec<String>, ChoiceError> {
        let lab = lab().chosen(choice)?;
        assert_eq!(lab.history.as_ref().map(Laps::len), Some(3), "all of it is still known");
        Ok(lab.laps().iter().map(|lap| lap.name().to_string()).collect())
    }

    fn variants(texts: &[&str]) -> Choice {
        let variants = texts.iter().map(|text| VariantChoice::parse(text).unwrap()).collect();
        Choice { variants, ..Choice::default() }
    }

    #[test]
    fn sessions_and_variants_are_chosen_by_name_and_by_value() {
        let sessions = vec![SessionName::parse("heron-1").unwrap()];
        let heron = Choice { sessions, ..Choice::default() };
        assert_eq!(left(&heron).unwrap(), ["heron-1.1", "heron-1.2"]);
        assert_eq!(left(&variants(&["threads=2"])).unwrap(), ["heron-1.2", "wren-1.1"]);
        assert_eq!(left(&variants(&["2"])).unwrap(), ["heron-1.2", "wren-1.1"]);
        assert_eq!(left(&variants(&["1", "threads=2"])).unwrap().len(), 3, "either is enough");
        let both = Choice { sessions: heron.sessions.clone(), ..variants(&["2"]) };
        assert_eq!(left(&both).unwrap(), ["heron-1.2"]);
        assert!(lab().chosen(&Choice::default()).unwrap().history.is_none());
    }

    #[test]
    fn what_is_not_there_is_named_with_what_is() {
        let unknown = left(&variants(&["threads=4"]));
        let known = vec!["threads=1".to_owned(), "threads=2".to_owned()];
        assert_eq!(unknown, Err(ChoiceError::NoVariant { name: "threads=4".into(), known }));
        let wren = Choice {
            sessions: vec![SessionName::parse("wren-1").unwrap()],
            ..variants(&["threads=1"])
        };
        assert_eq!(left(&wren), Err(ChoiceError::Nothing), "each is there, both together not");
        assert_eq!(VariantChoice::parse(" "), None);
        assert_eq!(VariantChoice::parse("=2"), None);
    }
}
