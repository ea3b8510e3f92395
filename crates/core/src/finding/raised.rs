//! What a look at a lab raises: what may mislead, the laps it concerns, and what would resolve it.

use super::doubt::Doubt;
use crate::record::LapName;
use serde::Serialize;

/// What would resolve a finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum Remedy {
    /// Run the workload again on these rigs, once the cause is gone.
    RunAgain {
        /// The rigs.
        rigs: Vec<String>,
    },
    /// Do the workload again by hand on these rigs, and enter what it comes to.
    EnterAgain {
        /// The rigs.
        rigs: Vec<String>,
    },
    /// Do the workload again by hand on these rigs, and import the frames that were logged.
    ImportAgain {
        /// The rigs.
        rigs: Vec<String>,
    },
    /// Run it for longer on these rigs.
    RunLonger {
        /// The rigs.
        rigs: Vec<String>,
    },
    /// Look the value up, and enter it again.
    Reenter,
    /// Read it more finely.
    ReadFiner,
    /// Compare something else, or say it otherwise.
    CompareOtherwise,
    /// Give the rigs work in which they can differ.
    OtherWork,
}

impl Remedy {
    /// Returns the remedy of running again on `rig`.
    pub(super) fn again(rig: &str) -> Self {
        Self::RunAgain { rigs: vec![rig.to_owned()] }
    }

    /// Returns the remedy for a workload that people do: nothing runs it.
    pub(super) fn by_hand(self, logs_frames: bool) -> Self {
        match self {
            Self::RunAgain { rigs } | Self::RunLonger { rigs } if logs_frames => {
                Self::ImportAgain { rigs }
            }
            Self::RunAgain { rigs } | Self::RunLonger { rigs } => Self::EnterAgain { rigs },
            other => other,
        }
    }

    /// Returns the rigs on which laps would resolve it.
    pub fn rigs(&self) -> &[String] {
        match self {
            Self::RunAgain { rigs }
            | Self::EnterAgain { rigs }
            | Self::ImportAgain { rigs }
            | Self::RunLonger { rigs } => rigs,
            Self::Reenter | Self::ReadFiner | Self::CompareOtherwise | Self::OtherWork => &[],
        }
    }
}

/// What was found, before it is known what it could change.
#[derive(Clone, Debug, PartialEq)]
pub struct Raised {
    /// The workload that it concerns; empty where it concerns the study.
    pub workload: String,
    /// The laps that it concerns, the most telling first; empty where it concerns figures as a whole.
    pub laps: Vec<LapName>,
    /// What was seen.
    pub doubt: Doubt,
    /// What would resolve it.
    pub remedy: Remedy,
}
