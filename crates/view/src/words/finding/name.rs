//! What findings, and the cells that they are about, are called.

use crate::words::{lap_of, percent_of};
use honest_lap_core::finding::Doubt;
use honest_lap_core::judge::CellName;
use honest_lap_core::record::TIME;

/// Returns what a finding is called.
pub fn name(doubt: &Doubt) -> &'static str {
    match doubt {
        Doubt::TooFewLaps { .. } => "too few laps",
        Doubt::FirstLap { .. } => "first lap",
        Doubt::OddLap { .. } => "odd lap",
        Doubt::TwoGroups { .. } => "two groups",
        Doubt::NotSteady { .. } => "not steady",
        Doubt::SessionsDisagree { .. } => "sessions disagree",
        Doubt::OtherSize { .. } | Doubt::OtherContent { .. } | Doubt::OtherPicture { .. } => {
            "other work"
        }
        Doubt::LessWork { .. } => "less work",
        Doubt::MachineBusy { .. } => "machine busy",
        Doubt::Throttled { .. } => "throttled",
        Doubt::NeverSettled { .. } => "never settled",
        Doubt::StillFalling { .. } => "still falling at the end",
        Doubt::Swapped { .. } => "swapped",
        Doubt::Slept { .. } => "slept",
        Doubt::MeterSilent { .. } => "meter silent",
        Doubt::LeftOvers { .. } => "left-overs",
        Doubt::OwnTime { .. } => "own time differs",
        Doubt::Capped { .. } => "capped",
        Doubt::AverageHides { .. } | Doubt::AveragesHide { .. } => "the average hides it",
        Doubt::OlderProgram { .. } | Doubt::RigChanged { .. } | Doubt::TooOld { .. } => "stale",
        Doubt::OtherVersion { .. } => "other version",
        Doubt::OtherSetting { .. } => "other setting",
        Doubt::ReadCoarsely { .. } => "read too coarsely",
        Doubt::SlippedDigit { .. } => "slipped digit",
        Doubt::DoesNotFit { .. } => "does not fit",
        Doubt::Repeated { .. } => "repeated",
        Doubt::SessionsExchanged { .. } => "sessions exchanged",
        Doubt::MostlyWaiting { .. } => "mostly waiting",
        Doubt::NothingToChoose { .. } => "nothing to choose",
        Doubt::UpsideDown { .. } => "upside down",
        Doubt::OddOneOut { .. } => "odd one out",
        Doubt::Missing { .. } => "missing",
        Doubt::TwoThingsChanged { .. } => "two things changed",
        Doubt::OneOfAKind { .. } => "one of a kind",
        Doubt::OutOfOrder { .. } => "out of order",
    }
}

/// Returns a cell as a reader names it: `dome-still threads=2, low 1%`.
pub(super) fn cell(of: &CellName) -> String {
    let name = lap_of(&of.workload, &of.settings);
    if of.measure == TIME { name } else { format!("{name}, {}", of.measure) }
}

/// Returns a share in per cent, to the figures that a reader needs.
pub(super) fn per_cent(share: f64) -> String {
    percent_of(share.abs())
}
