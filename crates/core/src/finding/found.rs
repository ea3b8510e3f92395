//! A finding as it is told: with the cells that it concerns, and what it could change.

use super::doubt::Doubt;
use super::impact::Impact;
use super::raised::{Raised, Remedy};
use crate::record::{LapName, SessionName, Settings};
use serde::Serialize;

/// A cell that a finding concerns.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Concerned {
    /// The rig, as its row is called.
    pub rig: String,
    /// The variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
}

/// A reason why figures may mislead.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Finding {
    /// The workload that it concerns; empty where it concerns the study.
    pub workload: String,
    /// The laps that it concerns, the most telling first; empty where it concerns figures as a whole.
    pub laps: Vec<LapName>,
    /// The cells that these laps are of.
    pub cells: Vec<Concerned>,
    /// What was seen.
    pub doubt: Doubt,
    /// What would resolve it.
    pub remedy: Remedy,
    /// Whether a test raised it, which may err, and not a fact.
    pub by_test: bool,
    /// What it could change.
    pub impact: Impact,
}

impl Finding {
    pub(super) fn of(raised: Raised, cells: Vec<Concerned>, impact: Impact) -> Self {
        let Raised { workload, laps, doubt, remedy } = raised;
        let by_test = doubt.is_by_test();
        Self { workload, laps, cells, doubt, by_test, remedy, impact }
    }

    /// Has it speak of sessions by the names that `own` returns for them, which other commands know.
    pub(crate) fn rename(&mut self, own: &dyn Fn(&SessionName) -> SessionName) {
        let sides: Vec<String> = self.laps.iter().map(|lap| lap.session.rig.clone()).collect();
        let lap = |lap: &mut LapName| lap.session = own(&lap.session);
        self.laps.iter_mut().for_each(lap);
        match &mut self.doubt {
            Doubt::FirstLap { series, .. }
            | Doubt::OddLap { series, .. }
            | Doubt::TwoGroups { series, .. }
            | Doubt::NotSteady { series, .. } => series.session = own(&series.session),
            Doubt::Repeated { session, of, .. }
            | Doubt::SessionsExchanged { session, with: of } => {
                *session = own(session);
                *of = own(of);
            }
            Doubt::SessionsDisagree { session, .. } | Doubt::RigChanged { by: session, .. } => {
                *session = own(session);
            }
            Doubt::OutOfOrder { in_laps, .. } => in_laps.iter_mut().for_each(lap),
            _ => {}
        }
        // Where its laps were run is where they are run again.
        if let Remedy::RunAgain { rigs }
        | Remedy::EnterAgain { rigs }
        | Remedy::ImportAgain { rigs }
        | Remedy::RunLonger { rigs } = &mut self.remedy
        {
            for rig in rigs {
                if let Some(place) = sides.iter().position(|side| side == rig) {
                    rig.clone_from(&self.laps[place].session.rig);
                }
            }
        }
    }
}
