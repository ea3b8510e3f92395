//! A campaign as its session keeps it: what was to be run, and what ends it.

use super::variant::Settings;
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What ends a campaign.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Goal {
    /// Every lap asked for was run.
    All,
    /// At one of three announced looks every figure is known to within this share; or every lap
    /// asked for was run.
    Until(f64),
    /// This much time was spent.
    Budget(Nanos),
}

/// What is to be run of one workload, as a session keeps it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CampaignPart {
    /// The workload.
    pub workload: String,
    /// Its variants, in order.
    pub variants: Vec<Settings>,
    /// How many of them follow each other in a fixed order.
    pub block: usize,
    /// Counted laps of each.
    pub laps: u32,
    /// Warm-up laps of each.
    pub warm_up: u32,
}

/// A campaign, as its session keeps it so that it can be resumed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Campaign {
    /// Its workloads.
    pub parts: Vec<CampaignPart>,
    /// What ends it.
    pub goal: Goal,
}
