//! A study: the question, the workloads and the rigs that are to answer it.

use crate::unit::Amount;
use crate::workload::{Meter, Workload};

/// The margin within which two cells are the same, until the study says otherwise.
pub const DEFAULT_MARGIN: f64 = 0.02;

/// A study as its `study.toml` writes it, checked.
#[derive(Clone, Debug, PartialEq)]
pub struct Study {
    /// Its title.
    pub title: Option<String>,
    /// The question it answers.
    pub question: Option<String>,
    /// The rig the others are held against.
    pub baseline: Option<String>,
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// The workloads, in the order written.
    pub workloads: Vec<Workload>,
    /// The rigs, in the order written.
    pub rigs: Vec<Rig>,
    /// Outside meters that are read while laps run, in the order written.
    pub meters: Vec<Meter>,
}

/// A rig as a person describes it.
#[derive(Clone, Debug, PartialEq)]
pub struct Rig {
    /// Its name.
    pub name: String,
    /// What it is, in a sentence.
    pub about: Option<String>,
    /// What it costs.
    pub price: Option<Amount>,
}

impl Study {
    /// Returns the workload called `name`.
    pub fn workload(&self, name: &str) -> Option<&Workload> {
        self.workloads.iter().find(|workload| workload.name == name)
    }
}
