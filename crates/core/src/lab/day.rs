//! Which sessions are one day: what begins soon after another on the same machine shares what a day does to it.

use crate::record::{RigFound, SessionName, VersionLine};
use crate::unit::Nanos;
use std::collections::BTreeMap;

/// How long after the first session of a day another still belongs to it.
pub const DAY: Nanos = Nanos::from_seconds(6 * 3_600);

/// When and on what a session began.
#[derive(Clone, Debug, PartialEq)]
pub struct Began<'a> {
    /// Its name.
    pub name: &'a SessionName,
    /// How long ago; `None` where that is not known.
    pub age: Option<Nanos>,
    /// The machine as found.
    pub found: &'a RigFound,
    /// What its parts were, as people say.
    pub parts: &'a BTreeMap<String, String>,
}

/// Returns the session whose day each session shares: itself, or the first that began at most six hours before it on the
/// same rig, with the same machine, the same parts and the same program versions.
///
/// Three runs within an hour are three looks at one day: taken as three days, two equal rigs would be told apart in most labs.
///
/// * Shape: one entry for each of `began`. A session whose start is not known is a day of its own. O(n log n).
pub fn days(
    began: &[Began<'_>],
    versions: &[(SessionName, VersionLine)],
) -> BTreeMap<SessionName, SessionName> {
    let mut lines: BTreeMap<&SessionName, Vec<&VersionLine>> = BTreeMap::new();
    for (session, line) in versions {
        lines.entry(session).or_default().push(line);
    }
    let mut sorted: Vec<&Began<'_>> = began.iter().collect();
    sorted.sort_by(|a, b| {
        // The oldest first; of one moment, in the order of their numbers.
        (&a.name.rig, b.age, a.name.number).cmp(&(&b.name.rig, a.age, b.name.number))
    });
    let mut all = BTreeMap::new();
    let mut first: Option<&Began<'_>> = None;
    let mut last: Option<&Began<'_>> = None;
    for session in sorted {
        let shares = first.zip(last).is_some_and(|(first, last)| {
            let apart = first.age.zip(session.age).map(|(then, now)| then.0.saturating_sub(now.0));
            first.name.rig == session.name.rig
                && apart.is_some_and(|apart| apart <= DAY.0)
                && (last.found, last.parts) == (session.found, session.parts)
                && agree(lines.get(last.name), lines.get(session.name))
        });
        if !shares {
            first = Some(session);
        }
        last = Some(session);
        if let Some(first) = first {
            all.insert(session.name.clone(), first.name.clone());
        }
    }
    all
}

/// Returns whether no program that both had said another version.
fn agree(a: Option<&Vec<&VersionLine>>, b: Option<&Vec<&VersionLine>>) -> bool {
    let (Some(a), Some(b)) = (a, b) else { return true };
    a.iter().all(|one| {
        let same =
            |other: &&&VersionLine| (&other.workload, &other.label) == (&one.workload, &one.label);
        b.iter().find(same).is_none_or(|other| other.line == one.line)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    static NO_PARTS: BTreeMap<String, String> = BTreeMap::new();

    fn found(governor: &str) -> RigFound {
        RigFound { governor: Some(governor.to_owned()), ..RigFound::default() }
    }

    /// Returns the days of sessions that began so many hours ago, as the names of their first sessions.
    fn of(sessions: &[(&str, f64, &RigFound)], versions: &[(&str, &str)]) -> Vec<String> {
        let names: Vec<SessionName> =
            sessions.iter().map(|(name, ..)| SessionName::parse(name).unwrap()).collect();
        let began: Vec<Began<'_>> = names
            .iter()
            .zip(sessions)
            .map(|(name, (_, hours, found))| Began {
                name,
                age: Some(Nanos::from_seconds((hours * 3_600.0) as u64)),
                found,
                parts: &NO_PARTS,
            })
            .collect();
        let line = |(session, line): &(&str, &str)| {
            let (workload, label) = ("still".to_owned(), "renderer".to_owned());
            let line = Some((*line).to_owned());
            (SessionName::parse(session).unwrap(), VersionLine { workload, label, line })
        };
        let versions: Vec<_> = versions.iter().map(line).collect();
        let days = days(&began, &versions);
        names.iter().map(|name| days[name].to_string()).collect()
    }

    #[test]
    fn what_begins_within_six_hours_is_one_day_and_a_day_does_not_stretch() {
        let same = found("fast");
        let sessions = [
            ("heron-1", 30.0, &same),
            ("heron-2", 29.0, &same),
            ("heron-3", 23.5, &same),
            ("heron-4", 23.0, &same),
        ];
        assert_eq!(of(&sessions, &[]), ["heron-1", "heron-1", "heron-3", "heron-3"]);
        // Another rig at the same hour is another machine.
        let two = [("heron-1", 30.0, &same), ("wren-1", 30.0, &same)];
        assert_eq!(of(&two, &[]), ["heron-1", "wren-1"]);
    }

    #[test]
    fn a_changed_machine_or_program_begins_another_day() {
        let (fast, slow) = (found("fast"), found("slow"));
        let sessions = [("heron-1", 3.0, &fast), ("heron-2", 2.0, &slow), ("heron-3", 1.0, &slow)];
        assert_eq!(of(&sessions, &[]), ["heron-1", "heron-2", "heron-2"]);
        let sessions = [("heron-1", 3.0, &fast), ("heron-2", 2.0, &fast), ("heron-3", 1.0, &fast)];
        let versions =
            [("heron-1", "renderer 1"), ("heron-2", "renderer 2"), ("heron-3", "renderer 2")];
        assert_eq!(of(&sessions, &versions), ["heron-1", "heron-2", "heron-2"]);
    }

    #[test]
    fn without_a_known_start_a_session_is_a_day_of_its_own() {
        let found = found("fast");
        let name = |text| SessionName::parse(text).unwrap();
        let (one, two) = (name("heron-1"), name("heron-2"));
        let began =
            [&one, &two].map(|name| Began { name, age: None, found: &found, parts: &NO_PARTS });
        assert!(days(&began, &[]).iter().all(|(session, day)| session == day));
    }
}
