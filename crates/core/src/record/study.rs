//! A study: the question, the workloads and the rigs that are to answer it.

use crate::record::{Better, Meter, Peak, RigPart, Settings, Telling, Workload};
use crate::unit::{Amount, Nanos};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::Arc;

/// The margin within which two cells are the same, until the study says otherwise.
pub const DEFAULT_MARGIN: f64 = 0.02;

/// A study as its `study.toml` writes it, checked.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Study {
    /// Its title.
    pub title: Option<String>,
    /// The question it answers.
    pub question: Option<String>,
    /// The rig the others are held against.
    pub baseline: Option<String>,
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// By how much sessions of a rig differ, as the lab knows it: a standard deviation, as a share.
    pub between_sessions: Option<f64>,
    /// The workloads, in the order written.
    pub workloads: Vec<Workload>,
    /// The rigs, in the order written.
    pub rigs: Vec<Rig>,
    /// Outside meters that are read while laps run, in the order written.
    pub meters: Vec<Meter>,
    /// The rigs in the order in which they are expected to come out, fastest first.
    pub expect: Vec<String>,
    /// Results older than this are doubted.
    pub stale_after: Option<Nanos>,
    /// What an hour of somebody's waiting is worth.
    pub hour: Option<Amount>,
    /// Where the lab's store is.
    pub store: Option<String>,
    /// Sentences that others publish, to be checked.
    pub claims: Vec<PublishedClaim>,
    /// Numbers that were not measured here: shown apart, and part of no verdict.
    pub elsewhere: Vec<Elsewhere>,
}

/// A sentence about results, and who says so.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct PublishedClaim {
    /// The sentence.
    pub says: String,
    /// Who says it.
    pub who: Option<String>,
}

/// A number that was remembered, or published by others.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Elsewhere {
    /// The machine, as its source calls it.
    pub rig: String,
    /// The workload.
    pub workload: String,
    /// Its variant.
    #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub settings: Settings,
    /// The measure.
    pub measure: String,
    /// Which way it is better.
    pub better: Better,
    /// The number; times in seconds.
    pub value: f64,
    /// Its unit.
    pub unit: String,
    /// Where it comes from.
    pub source: String,
}

/// A rig as a person describes it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Rig {
    /// Its name.
    pub name: String,
    /// What people call it: `Osprey Mk II`.
    pub title: Option<String>,
    /// What it is, in a sentence.
    pub about: Option<String>,
    /// What it costs.
    pub price: Option<Amount>,
    /// What it still fetches, sold or traded in.
    pub sells_for: Option<Amount>,
    /// Whether it is there already, so that to keep it costs nothing.
    pub owned: bool,
    /// The model that it is to speak for.
    pub model: Option<String>,
    /// What it is made of, by name: parts, drivers, settings of the machine.
    pub parts: Vec<RigPart>,
    /// Its power as somebody measured it, in watts.
    pub power: StatedPower,
    /// What it could do at most, by documents.
    pub peaks: Vec<Peak>,
    /// What it cannot do.
    pub unsupported: Vec<Unsupported>,
    /// The public keys, in hexadecimal, that its sessions are signed with.
    pub keys: Vec<String>,
    /// The command line that runs a command there: `ssh lab@heron`.
    pub reach: Option<String>,
    /// Whether it is run while no other rig is: it shares power or a network with one.
    pub apart: bool,
}

/// What a rig cannot do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unsupported {
    /// The workload.
    pub workload: String,
    /// Settings of the variants that it cannot do; none means all of them.
    pub settings: Settings,
    /// The reason.
    pub why: String,
}

impl Unsupported {
    /// Returns whether it is about this variant.
    pub fn is_about(&self, workload: &str, settings: &Settings) -> bool {
        self.workload == workload && settings.has_all(&self.settings)
    }
}

/// Digits of a public key in hexadecimal.
pub const KEY_DIGITS: usize = 64;

/// A rig's power as somebody measured it, in watts.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct StatedPower {
    /// In the mean, at work.
    pub mean: Option<f64>,
    /// At most.
    pub peak: Option<f64>,
    /// With nothing to do.
    pub idle: Option<f64>,
}

impl Study {
    /// Returns the rig called `name`.
    pub fn rig(&self, name: &str) -> Option<&Rig> {
        self.rigs.iter().find(|rig| rig.name == name)
    }

    /// Returns the rig whose key `key` is, as the study lists it.
    pub fn rig_of_key(&self, key: &str) -> Option<&Rig> {
        self.rigs.iter().find(|rig| rig.keys.iter().any(|known| known == key))
    }

    /// Has `variants`, each with its workload, told as it tells them.
    pub fn tell<'l>(&self, variants: impl IntoIterator<Item = (&'l str, &'l mut Settings)>) {
        let mut tellings: HashMap<&str, Arc<Telling>> = HashMap::new();
        for workload in &self.workloads {
            tellings.insert(&workload.name, Arc::new(workload.telling()));
        }
        for (workload, settings) in variants {
            if let Some(telling) = tellings.get(workload)
                && !settings.is_empty()
            {
                *settings = std::mem::take(settings).told(telling);
            }
        }
    }

    /// Returns how far pictures of `file` may lie apart and show the same, where the study says so of that file of `workload`.
    pub fn same_picture(&self, workload: &str, file: &str) -> Option<f64> {
        let pictures = &self.workload(workload)?.same_pictures;
        pictures.iter().find(|(known, _)| known == file).map(|(_, within)| *within)
    }

    /// Returns the workload called `name`.
    pub fn workload(&self, name: &str) -> Option<&Workload> {
        self.workloads.iter().find(|workload| workload.name == name)
    }
}
