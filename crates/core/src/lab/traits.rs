//! What cells must agree in before they may be held against each other.

use super::series::{LapSeries, Run};
use super::settings::{AllModes, add_modes};
use crate::record::{Picture, SessionName, Settings, VersionLine};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// The label of a session's version lines that tell an input file's checksum.
pub const INPUT: &str = "input ";

/// What is known of a cell's counted laps, besides their values.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Traits {
    /// The least and the most bytes of each file that they produced.
    pub(super) produced: BTreeMap<String, (u64, u64)>,
    /// Whether they ran on mains, on a battery, or some of either.
    pub(super) on_mains: BTreeSet<bool>,
    /// How bright the screen was while they ran on a battery, in per cent.
    pub(super) screen: BTreeSet<u32>,
    /// The power profiles while they did.
    pub(super) profiles: BTreeSet<String>,
    /// What each input file was.
    pub(super) inputs: BTreeMap<String, BTreeSet<String>>,
    /// What each file was, to the last byte: two contents at most, which are enough to know that it varies.
    pub(super) contents: BTreeMap<String, Contents>,
    /// The first picture of each file that is to show the same everywhere, and how far others may lie from it.
    pub(super) pictures: BTreeMap<String, (Picture, u32)>,
    /// How its program was set, by the name of each mode.
    pub(super) modes: BTreeMap<String, BTreeSet<String>>,
}

/// What a file was in the laps of a cell.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Contents {
    sums: BTreeSet<String>,
    laps: usize,
}

impl Contents {
    /// Returns the one content that it had, again and again.
    pub(super) fn always(&self) -> Option<&String> {
        self.sums.first().filter(|_| self.sums.len() == 1 && self.laps > 1)
    }
}

/// Pictures that lie apart by less are the same: in millionths.
pub(super) const MILLIONTHS: f64 = 1e6;

/// The traits of cells, by workload, rig and variant.
pub type CellTraits = BTreeMap<(String, String, Settings), Traits>;

/// Returns the traits of every cell of `series`, and how programs were set in each session.
pub fn cell_traits(
    series: &[LapSeries],
    versions: &[(SessionName, VersionLine)],
    same_picture: &dyn Fn(&str, &str) -> Option<f64>,
) -> (CellTraits, AllModes) {
    let mut modes = AllModes::new();
    let mut inputs: BTreeMap<(&SessionName, &str), Vec<(&str, &str)>> = BTreeMap::new();
    for (session, version) in versions {
        if let (Some(file), Some(line)) = (version.label.strip_prefix(INPUT), &version.line) {
            inputs.entry((session, &version.workload)).or_default().push((file, line));
        }
    }
    let mut all: HashMap<(&str, &str, &Settings), Traits> = HashMap::new();
    for series in series.iter().filter(|series| series.counts()) {
        let traits = all.entry(series.cell()).or_default();
        for run in series.runs().filter(Run::counts) {
            add(traits, &mut modes, series, &run, same_picture);
        }
        let read = inputs.get(&(&series.session, series.workload.as_str()));
        for (file, line) in read.into_iter().flatten() {
            let lines = traits.inputs.entry((*file).to_owned()).or_default();
            lines.insert((*line).to_owned());
        }
    }
    let owned = |((workload, rig, settings), traits): ((&str, &str, &Settings), Traits)| {
        ((workload.to_owned(), rig.to_owned(), settings.clone()), traits)
    };
    (all.into_iter().map(owned).collect(), modes)
}

/// Adds what is known of a counted lap to the traits of its cell, and how its programs were set to those of its session.
fn add(
    traits: &mut Traits,
    modes: &mut AllModes,
    series: &LapSeries,
    run: &Run<'_>,
    same_picture: &dyn Fn(&str, &str) -> Option<f64>,
) {
    let facts = run.alike.facts();
    for product in &facts.produced {
        let Some(bytes) = product.bytes else { continue };
        let range = traits.produced.entry(product.file.clone()).or_insert((bytes, bytes));
        *range = (range.0.min(bytes), range.1.max(bytes));
        if let Some(sum) = &product.sha256 {
            let contents = traits.contents.entry(product.file.clone()).or_default();
            contents.laps += run.len();
            if contents.sums.len() < 2 && !contents.sums.contains(sum) {
                contents.sums.insert(sum.clone());
            }
        }
        if let Some(picture) = &product.picture
            && !traits.pictures.contains_key(&product.file)
            && let Some(within) = same_picture(&series.workload, &product.file)
        {
            let within = (within * MILLIONTHS) as u32;
            traits.pictures.insert(product.file.clone(), (picture.clone(), within));
        }
    }
    let seen = &facts.conditions.sampled;
    traits.on_mains.extend(seen.on_mains);
    // On mains neither decides what is measured.
    if seen.on_mains == Some(false) {
        traits.screen.extend(seen.brightness.map(|share| (share * 100.0).round() as u32));
        traits.profiles.extend(seen.power_profile.clone());
    }
    let set = &facts.conditions.modes;
    if !set.is_empty() {
        add_modes(modes, &series.session, &series.workload, set);
    }
    for mode in set {
        let values = traits.modes.entry(mode.name.clone()).or_default();
        values.extend(mode.values().map(str::to_owned));
    }
}
