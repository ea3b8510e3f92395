//! *Other version*: counted laps beside each other were run with different program versions.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::parts::VersionOn;
use super::raised::{Raised, Remedy};
use super::stale;
use std::collections::{BTreeMap, BTreeSet};

/// Returns what every program of a workload raises that said more than one version in sessions
/// with counted laps. A version that could not be read is one of its own: it is not known to agree.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    // Program → version → the rigs that had it.
    type Versions<'a> = BTreeMap<Option<&'a str>, BTreeSet<&'a str>>;
    let mut said: BTreeMap<(&str, &str), Versions<'_>> = BTreeMap::new();
    for (session, version) in evidence.versions {
        if evidence.run.contains(&(version.workload.as_str(), session)) {
            let versions = said.entry((&version.workload, &version.label)).or_default();
            versions.entry(version.line.as_deref()).or_default().insert(&session.rig);
        }
    }
    let stale = stale::older(evidence);
    let is_stale = |workload: &str, label: &str, rig: &str| {
        stale.iter().any(|old| (old.workload, old.program, old.rig) == (workload, label, rig))
    };
    // Where dates tell which rigs are behind, they are stale, and those left agree.
    for ((workload, label), versions) in &mut said {
        versions.values_mut().for_each(|rigs| rigs.retain(|rig| !is_stale(workload, label, rig)));
        versions.retain(|_, rigs| !rigs.is_empty());
    }
    let raised = |((workload, program), versions): ((&str, &str), Versions<'_>)| {
        let rigs: BTreeSet<&str> = versions.values().flatten().copied().collect();
        let on = |(line, rigs): (Option<&str>, BTreeSet<&str>)| VersionOn {
            line: line.map(str::to_owned),
            rigs: rigs.into_iter().map(str::to_owned).collect(),
        };
        Raised {
            workload: workload.to_owned(),
            laps: Vec::new(),
            doubt: Doubt::OtherVersion {
                program: program.to_owned(),
                versions: versions.into_iter().map(on).collect(),
            },
            remedy: Remedy::RunAgain { rigs: rigs.into_iter().map(str::to_owned).collect() },
        }
    };
    let unlike = |(_, versions): &((&str, &str), Versions<'_>)| {
        let each = versions.iter().map(|(line, rigs)| (line, rigs.clone()));
        versions.len() > 1 && !evidence.is_the_change(each)
    };
    said.into_iter().filter(unlike).map(raised).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::lab::KnownLap;
    use crate::record::{LapHead, LapName, Outcome, SessionName, Settings, VersionLine};
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

    fn raised(laps: &[LapHead], versions: &[(SessionName, VersionLine)]) -> Vec<Raised> {
        let laps = laps.iter().cloned().map(KnownLap::from).collect();
        let versions = versions.to_vec();
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
        let found = raised(&laps, &versions);
        assert_eq!(found.len(), 1);
        let Doubt::OtherVersion { versions: on, .. } = &found[0].doubt else { panic!("{found:?}") };
        let said: Vec<_> = on.iter().map(|on| (on.line.as_deref(), on.rigs.join(", "))).collect();
        assert_eq!(said, [(Some("1.4"), "heron".into()), (Some("1.5"), "heron, wren".into())]);
        assert_eq!(raised(&laps, &versions[1..]), []);
    }

    #[test]
    fn only_counted_laps_speak_and_an_unknown_version_agrees_with_none() {
        let mut laps = ["heron-1.1", "wren-1.1"].map(|name| lap(name, Outcome::Done));
        let versions = [version("heron-1", Some("1.4")), version("wren-1", None)];
        assert_eq!(raised(&laps, &versions).len(), 1);
        laps[1].outcome = Outcome::Signal;
        assert_eq!(raised(&laps, &versions), []);
    }
}
