//! *Other version*: counted laps beside each other were driven with different program versions.

use super::{Doubt, Evidence, stale};
use crate::record::{LapHead, SessionName};
use std::collections::{BTreeMap, BTreeSet};

/// Returns a doubt for every program of a workload that said more than one version in sessions
/// with counted laps. A version that could not be read is one of its own: it is not known to agree.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let counted: BTreeSet<(&SessionName, &str)> = evidence
        .laps
        .iter()
        .filter(|lap| lap.counted().is_some())
        .map(|lap: &LapHead| (&lap.name.session, lap.workload.as_str()))
        .collect();
    // Program → version → the rigs that had it.
    let mut said: BTreeMap<(&str, &str), BTreeMap<&str, BTreeSet<&str>>> = BTreeMap::new();
    for (session, version) in evidence.versions {
        if counted.contains(&(session, version.workload.as_str())) {
            let line = version.line.as_deref().unwrap_or("a version that could not be read");
            said.entry((&version.workload, &version.label))
                .or_default()
                .entry(line)
                .or_default()
                .insert(&session.rig);
        }
    }
    let stale = stale::older(evidence);
    let is_stale = |workload: &str, label: &str, rig: &str| {
        stale.iter().any(|old| (old.workload, old.program, old.rig) == (workload, label, rig))
    };
    // Where dates tell which rigs are behind, they are stale, and those left agree.
    for ((workload, label), lines) in &mut said {
        lines.values_mut().for_each(|rigs| rigs.retain(|rig| !is_stale(workload, label, rig)));
        lines.retain(|_, rigs| !rigs.is_empty());
    }
    said.into_iter()
        .filter(|(_, lines)| lines.len() > 1)
        .map(|((workload, label), lines)| Doubt {
            name: "other version",
            workload: workload.to_owned(),
            laps: Vec::new(),
            evidence: format!("the {label} differs: {}", sentence(&lines)),
            settle: format!("drive all of them with one version: lap run {workload}"),
            false_alarms: None,
        })
        .collect()
}

fn sentence(lines: &BTreeMap<&str, BTreeSet<&str>>) -> String {
    let clause = |(line, rigs): (&&str, &BTreeSet<&str>)| {
        let rigs: Vec<&str> = rigs.iter().copied().collect();
        format!("{line} on {}", rigs.join(", "))
    };
    lines.iter().map(clause).collect::<Vec<_>>().join("; ")
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{LapName, Outcome, Settings, VersionLine};
    use crate::unit::Nanos;

    fn lap(name: &str, outcome: Outcome) -> LapHead {
        let name = LapName::parse(name).unwrap();
        LapHead { outcome, ..LapHead::done(name, "still", Settings::default(), Nanos(1)) }
    }

    fn version(session: &str, line: Option<&str>) -> (SessionName, VersionLine) {
        let line = line.map(str::to_owned);
        let version = VersionLine { workload: "still".into(), label: "renderer".into(), line };
        (SessionName::parse(session).unwrap(), version)
    }

    fn doubts(laps: &[LapHead], versions: &[(SessionName, VersionLine)]) -> Vec<Doubt> {
        let (laps, versions) = (laps.to_vec(), versions.to_vec());
        Lab { laps, versions, ..Lab::default() }.found(find)
    }

    #[test]
    fn two_versions_side_by_side_are_told_with_their_rigs() {
        let laps = ["heron-1.1", "heron-2.1", "wren-1.1"].map(|name| lap(name, Outcome::Done));
        let versions = [
            version("heron-1", Some("1.4")),
            version("heron-2", Some("1.5")),
            version("wren-1", Some("1.5")),
        ];
        let found = doubts(&laps, &versions);
        assert_eq!(found.len(), 1);
        assert_eq!(found[0].evidence, "the renderer differs: 1.4 on heron; 1.5 on heron, wren");
        assert_eq!(doubts(&laps, &versions[1..]), []);
    }

    #[test]
    fn only_counted_laps_speak_and_an_unknown_version_agrees_with_none() {
        let mut laps = ["heron-1.1", "wren-1.1"].map(|name| lap(name, Outcome::Done));
        let versions = [version("heron-1", Some("1.4")), version("wren-1", None)];
        assert_eq!(doubts(&laps, &versions).len(), 1);
        laps[1].outcome = Outcome::Signal;
        assert_eq!(doubts(&laps, &versions), []);
    }
}
