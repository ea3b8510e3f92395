//! *Stale*: results measured under an older program, or on a rig as it no longer is, or long ago.

use super::{Doubt, Evidence, again};
use crate::judge::INPUT;
use crate::lab::Sitting;
use crate::record::{LapName, RigFound, SessionName};
use crate::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet, HashMap};

const NAME: &str = "stale";

/// Results under an older version of a program than the newest beside them.
pub(super) struct Older<'a> {
    pub(super) workload: &'a str,
    pub(super) program: &'a str,
    pub(super) rig: &'a str,
    line: &'a str,
    newest: &'a str,
    on: &'a str,
}

/// Returns a doubt for every workload and rig whose results are stale.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let mut found = Vec::new();
    for old in older(evidence) {
        let said = format!(
            "{} ran {}; the newest results beside it, on {}, have {}",
            old.rig, old.line, old.on, old.newest
        );
        found.push(doubt(evidence, old.workload, old.rig, said));
    }
    for ((workload, rig), sittings) in driven(evidence) {
        let Some(last) = sittings.iter().copied().min_by_key(|sitting| sitting.age) else {
            continue;
        };
        let now = evidence.sittings.iter().filter(|s| s.name.rig == rig && s.age.is_some());
        if let Some(now) = now.min_by_key(|sitting| sitting.age)
            && let Some(change) = changed(&last.found, &now.found)
        {
            let said = format!("{rig} has changed since: {change} by session {}", now.name);
            found.push(doubt(evidence, workload, rig, said));
        }
        if let (Some(age), Some(limit)) = (last.age, evidence.study.stale_after)
            && age > limit
        {
            let days = |span: Nanos| (span.seconds() / 86_400.0).floor();
            let said = format!(
                "on {rig} it was last driven {} days ago, and the study wants it within {}",
                days(age),
                days(limit)
            );
            found.push(doubt(evidence, workload, rig, said));
        }
    }
    found
}

fn doubt(evidence: &Evidence<'_>, workload: &str, rig: &str, said: String) -> Doubt {
    let of = evidence
        .laps
        .iter()
        .filter(|lap| lap.workload == workload && lap.name.session.rig == rig && lap.counts());
    let laps: Vec<LapName> = of.map(|lap| lap.name.clone()).collect();
    let settle = again(rig, workload);
    let (name, workload) = (NAME, workload.to_owned());
    Doubt { name, workload, laps, evidence: said, settle, false_alarms: None }
}

type Driven<'a> = BTreeMap<(&'a str, &'a str), Vec<&'a Sitting>>;

/// Returns the sittings of known age in which each workload was driven on each rig, and counts.
fn driven<'a>(evidence: &Evidence<'a>) -> Driven<'a> {
    let sittings: HashMap<&SessionName, &Sitting> =
        evidence.sittings.iter().map(|sitting| (&sitting.name, sitting)).collect();
    let counted: BTreeSet<(&str, &SessionName)> = evidence
        .laps
        .iter()
        .filter(|lap| lap.counts())
        .map(|lap| (lap.workload.as_str(), &lap.name.session))
        .collect();
    let mut all: Driven<'a> = BTreeMap::new();
    for (workload, session) in counted {
        if let Some(sitting) = sittings.get(session).filter(|sitting| sitting.age.is_some()) {
            all.entry((workload, session.rig.as_str())).or_default().push(sitting);
        }
    }
    all
}

/// Returns what differs of a machine between then and now, where both are known.
fn changed(then: &RigFound, now: &RigFound) -> Option<String> {
    let text = |what: &str, a: &Option<String>, b: &Option<String>| match (a, b) {
        (Some(a), Some(b)) if a != b => Some(format!("{what} from {a} to {b}")),
        _ => None,
    };
    let memory = match (then.memory_bytes, now.memory_bytes) {
        // A system keeps a little of it for itself, and not always as much.
        (Some(a), Some(b)) if a.abs_diff(b) as f64 > 0.02 * a as f64 => {
            Some(format!("memory from {} to {} GiB", a >> 30, b >> 30))
        }
        _ => None,
    };
    text("processor", &then.processor, &now.processor)
        .or(memory)
        .or_else(|| text("system", &then.system, &now.system))
        .or_else(|| text("kernel", &then.kernel, &now.kernel))
        .or_else(|| text("clock governor", &then.governor, &now.governor))
}

/// Returns every rig all of whose counted sessions ran an older version than the newest beside it.
///
/// Which version is older, dates tell: a version's age is that of its last use.
pub(super) fn older<'a>(evidence: &Evidence<'a>) -> Vec<Older<'a>> {
    type Lines<'a> = BTreeMap<&'a str, (Nanos, BTreeSet<&'a str>)>;
    let driven = driven(evidence);
    let ages: BTreeMap<(&str, &SessionName), Nanos> = driven
        .iter()
        .flat_map(|((workload, _), sittings)| {
            sittings.iter().filter_map(|s| Some(((*workload, &s.name), s.age?)))
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

    fn said(lab: &Lab) -> Vec<String> {
        lab.found(find).into_iter().map(|doubt| doubt.evidence).collect()
    }

    #[test]
    fn an_older_program_is_told_by_its_date_and_not_by_its_number() {
        let mut lab = lab();
        let older =
            "wren ran renderer 1.4; the newest results beside it, on heron, have renderer 1.5";
        assert_eq!(said(&lab), [older]);
        lab.sittings[1].age = Some(Nanos::from_seconds(86_400));
        assert_eq!(
            said(&lab),
            ["heron ran renderer 1.5; the newest results beside it, on wren, have renderer 1.4"]
        );
        lab.versions[1].1.line = Some("renderer 1.5".into());
        assert_eq!(said(&lab), [""; 0]);
    }

    #[test]
    fn a_rig_that_was_changed_since_and_an_age_beyond_the_stated_are_told() {
        let mut lab = lab();
        lab.versions.clear();
        lab.study.stale_after = Some(Nanos::from_seconds(30 * 86_400));
        assert_eq!(
            said(&lab),
            ["on wren it was last driven 40 days ago, and the study wants it within 30"]
        );
        lab.study.stale_after = None;
        lab.sittings[1].found.kernel = Some("6.0".into());
        let mut since = lab.sittings[1].clone();
        since.name.number = 2;
        (since.age, since.found.kernel) = (Some(Nanos::from_seconds(86_400)), Some("6.1".into()));
        lab.sittings.push(since);
        assert_eq!(
            said(&lab),
            ["wren has changed since: kernel from 6.0 to 6.1 by session wren-2"]
        );
    }
}
