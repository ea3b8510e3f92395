//! Whom a finding is about.

use honest_lap_core::finding::{Doubt, Finding};

/// Returns the rigs that `finding` is about, each once: those of its laps, or those that it names.
pub fn rigs_of(finding: &Finding) -> Vec<&str> {
    let mut rigs: Vec<&str> = finding.cells.iter().map(|cell| cell.rig.as_str()).collect();
    if rigs.is_empty() {
        rigs = finding.laps.iter().map(|lap| lap.session.rig.as_str()).collect();
    }
    if rigs.is_empty() {
        rigs = named(&finding.doubt);
    }
    let mut once: Vec<&str> = Vec::new();
    for rig in rigs {
        if !once.contains(&rig) {
            once.push(rig);
        }
    }
    once
}

/// Returns the rigs that a finding without laps names.
fn named(doubt: &Doubt) -> Vec<&str> {
    match doubt {
        Doubt::TooFewLaps { rig, .. }
        | Doubt::SessionsDisagree { rig, .. }
        | Doubt::OlderProgram { rig, .. }
        | Doubt::RigChanged { rig, .. }
        | Doubt::TooOld { rig, .. }
        | Doubt::ReadCoarsely { rig, .. }
        | Doubt::SlippedDigit { rig, .. }
        | Doubt::DoesNotFit { rig, .. }
        | Doubt::MostlyWaiting { rig, .. }
        | Doubt::OddOneOut { rig, .. }
        | Doubt::OneOfAKind { rig, .. }
        | Doubt::OutOfOrder { rig, .. } => vec![rig],
        Doubt::UpsideDown { behind, .. } => vec![behind],
        Doubt::Repeated { session, .. } => vec![&session.rig],
        Doubt::SessionsExchanged { session, with } => vec![&session.rig, &with.rig],
        Doubt::AveragesHide { rigs: (one, other), .. }
        | Doubt::TwoThingsChanged { rigs: (one, other), .. } => vec![one, other],
        Doubt::NothingToChoose { rigs, .. } | Doubt::LessWork { rigs, .. } => {
            rigs.iter().map(String::as_str).collect()
        }
        Doubt::Missing { rigs, .. } => rigs.iter().map(|lacking| lacking.rig.as_str()).collect(),
        Doubt::OtherVersion { versions, .. } => {
            versions.iter().flat_map(|on| &on.rigs).map(String::as_str).collect()
        }
        // These are about laps, which name their rigs.
        Doubt::FirstLap { .. }
        | Doubt::OddLap { .. }
        | Doubt::TwoGroups { .. }
        | Doubt::NotSteady { .. }
        | Doubt::OtherSetting { .. }
        | Doubt::OtherSize { .. }
        | Doubt::OtherContent { .. }
        | Doubt::OtherPicture { .. }
        | Doubt::MachineBusy { .. }
        | Doubt::Throttled { .. }
        | Doubt::NeverSettled { .. }
        | Doubt::StillFalling { .. }
        | Doubt::Swapped { .. }
        | Doubt::Slept { .. }
        | Doubt::MeterSilent { .. }
        | Doubt::LeftOvers { .. }
        | Doubt::OwnTime { .. }
        | Doubt::Capped { .. }
        | Doubt::AverageHides { .. } => Vec::new(),
    }
}
