//! *Other setting*: counted laps beside each other were run with the program set otherwise, or on a rig with other parts.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::parts::VersionOn;
use super::raised::{Raised, Remedy};
use crate::lab::{LabSession, LapSeries, What};
use crate::record::{LapName, SessionName};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// What something was, in which sessions.
type Values<'a> = BTreeMap<Option<&'a str>, BTreeSet<&'a SessionName>>;

/// Returns what every mode of a workload raises that was not the same everywhere, or that no lap could tell; and every part
/// that was another in some of the sessions which a rig's figures are made of.
///
/// Of a change, what each side has to itself is the change.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    for ((workload, name), values) in modes(evidence) {
        let unlike = values.len() > 1 || values.contains_key(&None);
        let each = values.iter().map(|(value, sessions)| (value, rigs_of(sessions)));
        if unlike && !evidence.is_the_change(each) {
            let what = What::Mode { name: name.to_owned(), workload: workload.to_owned() };
            found.push(raised(evidence, workload, what, values));
        }
    }
    for ((workload, _, part), values) in parts(evidence) {
        if values.len() > 1 {
            found.push(raised(evidence, workload, What::Part { name: part.to_owned() }, values));
        }
    }
    found
}

fn modes<'a>(evidence: &Evidence<'a>) -> BTreeMap<(&'a str, &'a str), Values<'a>> {
    let mut all: BTreeMap<(&str, &str), Values<'_>> = BTreeMap::new();
    for (session, modes) in evidence.modes {
        for ((workload, name), values) in modes {
            if !evidence.run.contains(&(workload.as_str(), session)) {
                continue;
            }
            let seen = all.entry((workload, name)).or_default();
            for value in values {
                seen.entry(value.as_deref()).or_default().insert(session);
            }
        }
    }
    all
}

/// Returns what the parts of each rig were in the sessions of a workload that have counted laps.
fn parts<'a>(evidence: &Evidence<'a>) -> BTreeMap<(&'a str, &'a str, &'a str), Values<'a>> {
    let sessions: HashMap<&SessionName, &LabSession> =
        evidence.sessions.iter().map(|session| (&session.name, session)).collect();
    let mut all: BTreeMap<(&str, &str, &str), Values<'_>> = BTreeMap::new();
    for &(workload, session) in evidence.run {
        let known = sessions.get(session).into_iter().flat_map(|known| &known.parts);
        for (part, is) in known {
            let seen = all.entry((workload, session.rig.as_str(), part)).or_default();
            seen.entry(Some(is)).or_default().insert(session);
        }
    }
    all
}

fn rigs_of<'a>(sessions: &BTreeSet<&'a SessionName>) -> BTreeSet<&'a str> {
    sessions.iter().map(|session| session.rig.as_str()).collect()
}

fn raised(evidence: &Evidence<'_>, workload: &str, what: What, values: Values<'_>) -> Raised {
    let rigs = |sessions: &BTreeSet<&SessionName>| -> Vec<String> {
        rigs_of(sessions).into_iter().map(str::to_owned).collect()
    };
    // One lap of each: enough to look it up.
    let first = |sessions: &BTreeSet<&SessionName>| -> Option<LapName> {
        let of = |one: &LapSeries| one.workload == workload && sessions.contains(&one.session);
        evidence.names(of).into_iter().next()
    };
    let laps: BTreeSet<LapName> = values.values().filter_map(first).collect();
    let all: BTreeSet<String> = values.values().flat_map(rigs).collect();
    let on = |(line, sessions): (&Option<&str>, &BTreeSet<&SessionName>)| VersionOn {
        line: line.map(str::to_owned),
        rigs: rigs(sessions),
    };
    Raised {
        workload: workload.to_owned(),
        laps: laps.into_iter().collect(),
        doubt: Doubt::OtherSetting { what, settings: values.iter().map(on).collect() },
        remedy: Remedy::RunAgain { rigs: all.into_iter().collect() },
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(modes: &[(&str, &[Option<&str>])]) -> Lab {
        let mut lab = modes
            .iter()
            .fold(Lab::default(), |lab, (session, _)| lab.day(session, 3, &[("still", 1000.0)]));
        for (session, values) in modes {
            let values = values.iter().map(|value| value.map(str::to_owned)).collect();
            let key = ("still".to_owned(), "render".to_owned());
            let session = SessionName::parse(session).unwrap();
            lab.modes.insert(session, BTreeMap::from([(key, values)]));
        }
        lab
    }

    fn said(raised: &[Raised]) -> Vec<Vec<(Option<String>, String)>> {
        let of = |raised: &Raised| match &raised.doubt {
            Doubt::OtherSetting { settings, .. } => {
                settings.iter().map(|on| (on.line.clone(), on.rigs.join(", "))).collect()
            }
            other => panic!("{other:?}"),
        };
        raised.iter().map(of).collect()
    }

    #[test]
    fn a_mode_that_is_another_somewhere_or_known_nowhere_is_told() {
        let same = [("heron-1", [Some("graphics")].as_slice()), ("wren-1", &[Some("graphics")])];
        assert_eq!(lab(&same).found(find), []);
        let other = [same[0], ("wren-1", [Some("processor")].as_slice())];
        let found = lab(&other).found(find);
        let on = |line: &str, rigs: &str| (Some(line.to_owned()), rigs.to_owned());
        assert_eq!(said(&found), [[on("graphics", "heron"), on("processor", "wren")]]);
        assert_eq!(found[0].laps.len(), 2, "{found:?}");
        let unknown = lab(&[("heron-1", &[None])]).found(find);
        assert_eq!(said(&unknown), [[(None, "heron".to_owned())]]);
    }

    #[test]
    fn the_change_that_is_asked_about_is_none_and_a_side_that_is_mixed_is() {
        let of_change = |modes: &[(&str, &[Option<&str>])]| {
            let lab = lab(modes);
            lab.found(|evidence| find(&Evidence { is_of_change: true, ..*evidence }))
        };
        let before = ("before-1", [Some("graphics")].as_slice());
        let after = ("after-1", [Some("processor")].as_slice());
        assert_eq!(of_change(&[before, after]), []);
        let mixed = ("before-2", [Some("processor")].as_slice());
        assert_eq!(of_change(&[before, mixed, after]).len(), 1);
    }

    #[test]
    fn a_part_that_was_exchanged_between_sessions_of_a_cell_is_told() {
        let mut lab = lab(&[("heron-1", &[]), ("heron-2", &[]), ("wren-1", &[])]);
        for (session, memory) in lab.sessions.iter_mut().zip(["32 GB", "64 GB", "16 GB"]) {
            session.parts.insert("memory".into(), memory.into());
        }
        let found = lab.found(find);
        let on = |line: &str| (Some(line.to_owned()), "heron".to_owned());
        assert_eq!(said(&found), [[on("32 GB"), on("64 GB")]], "rigs are meant to differ");
    }
}
