//! *Stale*: results measured under an older program, or on a rig as it no longer is, or long ago.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::lab::{INPUT, LabSession, What};
use crate::record::{RigFound, SessionName};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// Results under an older version of a program than the newest beside them.
pub(super) struct Older<'a> {
    pub(super) workload: &'a str,
    pub(super) program: &'a str,
    pub(super) rig: &'a str,
    line: &'a str,
    newest: &'a str,
    on: &'a str,
}

/// Returns what every workload and rig raises whose results are stale.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    if evidence.is_of_change {
        // What was measured before a change is to be older than what came after it.
        return found;
    }
    for old in older(evidence) {
        let [rig, line, newest, on] = [old.rig, old.line, old.newest, old.on].map(str::to_owned);
        let doubt = Doubt::OlderProgram { rig, line, newest, on };
        found.push(raised(evidence, old.workload, old.rig, doubt));
    }
    for ((workload, rig), sessions) in run(evidence) {
        let Some(last) = sessions.iter().copied().min_by_key(|session| session.age) else {
            continue;
        };
        let now = evidence.sessions.iter().filter(|s| s.name.rig == rig && s.age.is_some());
        if let Some(now) = now.min_by_key(|session| session.age)
            && let Some((what, then, is)) = changed(last, now)
        {
            let (by, rig_name) = (now.name.clone(), rig.to_owned());
            let doubt = Doubt::RigChanged { rig: rig_name, what, then, now: is, by };
            found.push(raised(evidence, workload, rig, doubt));
        }
        if let (Some(age), Some(limit)) = (last.age, evidence.study.stale_after)
            && age > limit
        {
            let doubt = Doubt::TooOld { rig: rig.to_owned(), age, limit };
            found.push(raised(evidence, workload, rig, doubt));
        }
    }
    found
}

fn raised(evidence: &Evidence<'_>, workload: &str, rig: &str, doubt: Doubt) -> Raised {
    let laps = evidence.names(|one| one.workload == workload && one.session.rig == rig);
    Raised { workload: workload.to_owned(), laps, doubt, remedy: Remedy::again(rig) }
}

type Run<'a> = BTreeMap<(&'a str, &'a str), Vec<&'a LabSession>>;

/// Returns the sessions of known age in which each workload was run on each rig, and counts.
fn run<'a>(evidence: &Evidence<'a>) -> Run<'a> {
    let sessions: HashMap<&SessionName, &LabSession> =
        evidence.sessions.iter().map(|session| (&session.name, session)).collect();
    let mut all: Run<'a> = BTreeMap::new();
    for &(workload, session) in evidence.run {
        if let Some(known) = sessions.get(session).filter(|session| session.age.is_some()) {
            all.entry((workload, session.rig.as_str())).or_default().push(known);
        }
    }
    all
}

/// Returns what differs of a machine between then and now, where both are known.
fn changed(then: &LabSession, now: &LabSession) -> Option<(What, String, String)> {
    let another = |(name, is): (&String, &String)| {
        let now = now.parts.get(name).filter(|now| *now != is)?;
        Some((What::Part { name: name.clone() }, is.clone(), now.clone()))
    };
    let part = then.parts.iter().find_map(another);
    part.or_else(|| machine_changed(&then.found, &now.found))
}

/// Returns what the tool found to be another, likewise.
fn machine_changed(then: &RigFound, now: &RigFound) -> Option<(What, String, String)> {
    let text = |what: What, a: &Option<String>, b: &Option<String>| match (a, b) {
        (Some(a), Some(b)) if a != b => Some((what, a.clone(), b.clone())),
        _ => None,
    };
    let memory = match (then.memory_bytes, now.memory_bytes) {
        // A system keeps a little of it for itself, and not always as much.
        (Some(a), Some(b)) if a.abs_diff(b) as f64 > 0.02 * a as f64 => {
            Some((What::Memory, (a >> 30).to_string(), (b >> 30).to_string()))
        }
        _ => None,
    };
    text(What::Processor, &then.processor, &now.processor)
        .or(memory)
        .or_else(|| text(What::System, &then.system, &now.system))
        .or_else(|| text(What::Kernel, &then.kernel, &now.kernel))
        .or_else(|| text(What::ClockGovernor, &then.governor, &now.governor))
}

/// Returns every rig all of whose counted sessions ran an older version than the newest beside it.
///
/// Which version is older, dates tell: a version's age is that of its last use.
pub(super) fn older<'a>(evidence: &Evidence<'a>) -> Vec<Older<'a>> {
    type Lines<'a> = BTreeMap<&'a str, (Nanos, BTreeSet<&'a str>)>;
    let run = run(evidence);
    let ages: BTreeMap<(&str, &SessionName), Nanos> = run
        .iter()
        .flat_map(|((workload, _), sessions)| {
            sessions.iter().filter_map(|s| Some(((*workload, &s.name), s.age?)))
        })
        .collect();
    let mut said: BTreeMap<(&str, &str), Lines<'a>> = BTreeMap::new();
    for (session, version) in evidence.versions {
        let Some(&age) = ages.get(&(version.workload.as_str(), session)) else { continue };
        // An input has no age of its own.
        let line = version.line.as_deref().filter(|_| !version.label.starts_with(INPUT));
        let Some(line) = line else { continue };
        let lines = said.entry((&version.workload, &version.label)).or_default();
        let (youngest, rigs) = lines.entry(line).or_insert((age, BTreeSet::new()));
        *youngest = age.min(*youngest);
        rigs.insert(&session.rig);
    }
    let mut found = Vec::new();
    for ((workload, program), lines) in said {
        let Some((newest, (youngest, on))) = lines.iter().min_by_key(|(_, (age, _))| *age) else {
            continue;
        };
        for (line, (age, rigs)) in &lines {
            // Rigs with both versions mix them, which is another doubt.
            for rig in rigs.difference(on).filter(|_| line != newest && age > youngest) {
                let on = on.first().copied().unwrap_or_default();
                found.push(Older { workload, program, rig, line, newest, on });
            }
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::VersionLine;

    fn lab() -> Lab {
        let mut lab = Lab::default().day("heron-1", 3, &[("still", 1000.0)]).day(
            "wren-1",
            40,
            &[("still", 1200.0)],
        );
        for (session, line) in [("heron-1", "renderer 1.5"), ("wren-1", "renderer 1.4")] {
            let (workload, label) = ("still".to_owned(), "renderer".to_owned());
            let version = VersionLine { workload, label, line: Some(line.to_owned()) };
            lab.versions.push((SessionName::parse(session).unwrap(), version));
        }
        lab
    }

    fn said(lab: &Lab) -> Vec<Doubt> {
        lab.found(find).into_iter().map(|raised| raised.doubt).collect()
    }

    fn older(rig: &str, on: &str, line: &str, newest: &str) -> Doubt {
        let [rig, on, line, newest] = [rig, on, line, newest].map(str::to_owned);
        Doubt::OlderProgram { rig, line, newest, on }
    }

    #[test]
    fn an_older_program_is_told_by_its_date_and_not_by_its_number() {
        let mut lab = lab();
        assert_eq!(said(&lab), [older("wren", "heron", "renderer 1.4", "renderer 1.5")]);
        lab.sessions[1].age = Some(Nanos::from_seconds(86_400));
        assert_eq!(said(&lab), [older("heron", "wren", "renderer 1.5", "renderer 1.4")]);
        lab.versions[1].1.line = Some("renderer 1.5".into());
        assert_eq!(said(&lab), []);
    }

    #[test]
    fn a_rig_that_was_changed_since_and_an_age_beyond_the_stated_are_told() {
        let mut lab = lab();
        lab.versions.clear();
        lab.study.stale_after = Some(Nanos::from_seconds(30 * 86_400));
        let days = |days: u64| Nanos::from_seconds(days * 86_400);
        let rig = "wren".to_owned();
        assert_eq!(
            said(&lab),
            [Doubt::TooOld { rig: rig.clone(), age: days(40), limit: days(30) }]
        );
        lab.study.stale_after = None;
        lab.sessions[1].found.kernel = Some("6.0".into());
        let mut since = lab.sessions[1].clone();
        since.name.number = 2;
        (since.age, since.found.kernel) = (Some(Nanos::from_seconds(86_400)), Some("6.1".into()));
        lab.sessions.push(since);
        let (then, now) = ("6.0".to_owned(), "6.1".to_owned());
        let by = SessionName::parse("wren-2").unwrap();
        assert_eq!(said(&lab), [Doubt::RigChanged { rig, what: What::Kernel, then, now, by }]);
    }
}
