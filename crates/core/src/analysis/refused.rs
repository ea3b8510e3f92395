//! Questions that a lab cannot be asked: they name what it does not have.

use super::question::{Across, Question};
use crate::lab::{JOULES, Lab, LapSeries, WATTS};
use std::collections::BTreeSet;

/// What kind of name is not known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum NameKind {
    /// Of a workload.
    Workload,
    /// Of a measure.
    Measure,
    /// Of a rig.
    Rig,
    /// Of a setting in which two variants with laps differ.
    Setting,
}

/// Why a question has no answer.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum QuestionError {
    /// The laps do not have that.
    #[error("no laps with `{name}`")]
    Unknown {
        /// What kind of name it is.
        kind: NameKind,
        /// The name.
        name: String,
        /// The names that there are.
        known: Vec<String>,
    },
}

/// Returns the name of `question` that the laps of `lab` do not have, if there is one.
pub(super) fn check_names(question: &Question, lab: &Lab) -> Result<(), QuestionError> {
    let names =
        |of: fn(&LapSeries) -> &str| lab.series().iter().map(of).collect::<BTreeSet<&str>>();
    among(NameKind::Workload, &question.workloads, || names(|series| &series.workload))?;
    if !question.measures.is_empty() || !question.columns.is_empty() {
        let measures = lab.measures();
        let names = || measures.iter().map(|measure| measure.name.as_str()).collect();
        among(NameKind::Measure, &question.measures, names)?;
        let with_power = || [WATTS, JOULES].into_iter().chain(names()).collect();
        among(NameKind::Measure, &question.columns, with_power)?;
    }
    let way = question.worth.iter().flat_map(|way| way.from.iter().chain(&way.to));
    let rigs = question.baseline.iter().chain(&question.rigs).chain(way);
    among(NameKind::Rig, rigs, || names(|series| &series.session.rig))
}

/// Checks that all of `asked` are among those that are known, which are only looked up where anything is asked.
fn among<'a, 'l>(
    kind: NameKind,
    asked: impl IntoIterator<Item = &'a String>,
    known: impl FnOnce() -> BTreeSet<&'l str>,
) -> Result<(), QuestionError> {
    let mut asked = asked.into_iter().peekable();
    if asked.peek().is_none() {
        return Ok(());
    }
    let known = known();
    match asked.find(|name| !known.contains(name.as_str())) {
        Some(name) => Err(unknown(kind, name, known)),
        None => Ok(()),
    }
}

/// Returns that no two variants differ in the setting that was asked for.
pub(super) fn no_such_setting(question: &Question, lab: &Lab) -> QuestionError {
    let known =
        lab.series().iter().flat_map(|one| one.settings.iter().map(|(key, _)| key)).collect();
    let name = match &question.across {
        Across::Setting(name) => name,
        Across::Both | Across::Rigs | Across::Variants => "",
    };
    unknown(NameKind::Setting, name, known)
}

fn unknown(kind: NameKind, name: &str, known: BTreeSet<&str>) -> QuestionError {
    let known = known.into_iter().map(str::to_owned).collect();
    QuestionError::Unknown { kind, name: name.to_owned(), known }
}
