//! What cells must agree in before they may be held against each other.

use super::facts::AllFacts;
use super::settings::{AllModes, add_modes};
use crate::record::{LapHead, SessionName, Settings, VersionLine};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// Sizes that differ by no more than this are an encoder's whim.
const SAME_SIZE: f64 = 0.02;

/// Screens whose brightness differs by no more than so many per cent of their most are as bright.
const SAME_SCREEN: u32 = 5;

/// The label of a session's version lines that tell an input file's checksum.
pub const INPUT: &str = "input ";

/// What is known of a cell's counted laps, besides their values.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Traits {
    /// The least and the most bytes of each file that they produced.
    produced: BTreeMap<String, (u64, u64)>,
    /// Whether they ran on mains, on a battery, or some of either.
    on_mains: BTreeSet<bool>,
    /// How bright the screen was while they ran on a battery, in per cent.
    screen: BTreeSet<u32>,
    /// The power profiles while they did.
    profiles: BTreeSet<String>,
    /// What each input file was.
    inputs: BTreeMap<String, BTreeSet<String>>,
    /// How its program was set, by the name of each mode.
    modes: BTreeMap<String, BTreeSet<String>>,
}

/// The traits of cells, by workload, rig and variant.
pub type CellTraits = BTreeMap<(String, String, Settings), Traits>;

/// Returns the traits of every cell of `laps`, and how programs were set in each session.
pub fn cell_traits(
    laps: &[LapHead],
    facts: &AllFacts,
    versions: &[(SessionName, VersionLine)],
) -> (CellTraits, AllModes) {
    let mut modes = AllModes::new();
    let mut inputs: BTreeMap<(&SessionName, &str), Vec<(&str, &str)>> = BTreeMap::new();
    for (session, version) in versions {
        if let (Some(file), Some(line)) = (version.label.strip_prefix(INPUT), &version.line) {
            inputs.entry((session, &version.workload)).or_default().push((file, line));
        }
    }
    let mut all: HashMap<(&str, &str, &Settings), Traits> = HashMap::new();
    for lap in laps.iter().filter(|lap| lap.counts()) {
        let Some(facts) = facts.get(&lap.name) else { continue };
        let cell = (lap.workload.as_str(), lap.name.session.rig.as_str(), &lap.settings);
        let traits = all.entry(cell).or_default();
        for product in &facts.produced {
            let Some(bytes) = product.bytes else { continue };
            let range = traits.produced.entry(product.file.clone()).or_insert((bytes, bytes));
            *range = (range.0.min(bytes), range.1.max(bytes));
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
            add_modes(&mut modes, &lap.name.session, &lap.workload, set);
        }
        for mode in set {
            let values = traits.modes.entry(mode.name.clone()).or_default();
            values.extend(mode.values().map(str::to_owned));
        }
        let read = inputs.get(&(&lap.name.session, lap.workload.as_str()));
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

/// In what a cell differs from the one it is held against, so that it did other work, or did it otherwise.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum Unlike {
    /// A file that it made is of another size.
    Size {
        /// The file.
        file: String,
        /// How many bytes of it there were here, at least.
        ours: u64,
        /// How many there, at most.
        theirs: u64,
    },
    /// One ran on mains, the other on a battery.
    Power {
        /// Whether this one ran on mains.
        on_mains: bool,
    },
    /// On a battery, the screen was not as bright.
    Screen {
        /// Per cent here.
        ours: u32,
        /// Per cent there.
        theirs: u32,
    },
    /// On a battery, the power profile was another.
    Profile {
        /// The profile here.
        ours: String,
        /// The profile there.
        theirs: String,
    },
    /// An input is another file.
    Input {
        /// The input.
        file: String,
    },
    /// The program was set otherwise.
    Setting {
        /// Which of its modes.
        mode: String,
        /// What it was here.
        ours: Vec<String>,
        /// What it was there.
        theirs: Vec<String>,
    },
}

impl Traits {
    /// Returns in what `other` differs so much that it did other work, or did it otherwise.
    pub fn differences(&self, other: &Self) -> Vec<Unlike> {
        let mut all = Vec::new();
        for (file, (_, most)) in &self.produced {
            let Some((least, _)) = other.produced.get(file) else { continue };
            let (small, large) = (least.min(most), least.max(most));
            let apart = |a: u64, b: u64| b as f64 > a as f64 * (1.0 + SAME_SIZE);
            let (ours, theirs) = (self.produced[file], other.produced[file]);
            // Sizes that meet are of laps that made the same now and then.
            if apart(*small, *large) && (apart(ours.1, theirs.0) || apart(theirs.1, ours.0)) {
                all.push(Unlike::Size { file: file.clone(), ours: theirs.0, theirs: ours.1 });
            }
        }
        if let (Some(ours), Some(theirs)) = (only(&self.on_mains), only(&other.on_mains))
            && ours != theirs
        {
            all.push(Unlike::Power { on_mains: theirs });
        }
        if let (Some(ours), Some(theirs)) = (ends(&self.screen), ends(&other.screen))
            && (ours.0 > theirs.1 + SAME_SCREEN || theirs.0 > ours.1 + SAME_SCREEN)
        {
            all.push(Unlike::Screen { ours: theirs.0, theirs: ours.0 });
        }
        let profiles = (&self.profiles, &other.profiles);
        if let (Some(ours), Some(theirs)) = (profiles.0.first(), profiles.1.first())
            && profiles.0.is_disjoint(profiles.1)
        {
            all.push(Unlike::Profile { ours: theirs.clone(), theirs: ours.clone() });
        }
        for (file, ours) in &self.inputs {
            let Some(theirs) = other.inputs.get(file) else { continue };
            if ours.is_disjoint(theirs) {
                all.push(Unlike::Input { file: file.clone() });
            }
        }
        for (mode, ours) in &self.modes {
            let Some(theirs) = other.modes.get(mode) else { continue };
            if ours != theirs && !ours.is_empty() && !theirs.is_empty() {
                let values = |set: &BTreeSet<String>| set.iter().cloned().collect();
                let (ours, theirs) = (values(theirs), values(ours));
                all.push(Unlike::Setting { mode: mode.clone(), ours, theirs });
            }
        }
        all
    }

    /// Takes how its program was set for no difference.
    pub(super) fn forget_modes(&mut self) {
        self.modes.clear();
    }
}

/// Returns the least and the most of a set.
fn ends(set: &BTreeSet<u32>) -> Option<(u32, u32)> {
    Some((*set.first()?, *set.last()?))
}

/// Returns the only item of a set.
fn only(set: &BTreeSet<bool>) -> Option<bool> {
    set.first().copied().filter(|_| set.len() == 1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::LapFacts;
    use crate::record::{LapName, Mode, Produced};
    use crate::unit::Nanos;
    use std::sync::Arc;

    fn traits(rig: &str, bytes: u64, on_mains: Option<bool>, input: &str) -> Traits {
        let name = LapName::parse(&format!("{rig}-1.1")).unwrap();
        let session = name.session.clone();
        let mut facts = LapFacts::default();
        facts.conditions.sampled.on_mains = on_mains;
        facts.produced =
            vec![Produced { file: "still.png".into(), bytes: Some(bytes), sha256: None }];
        let laps = [LapHead::done(name.clone(), "still", Settings::default(), Nanos(1))];
        let (workload, label) = ("still".to_owned(), format!("{INPUT}sky.txt"));
        let versions = [(session, VersionLine { workload, label, line: Some(input.to_owned()) })];
        let all = cell_traits(&laps, &HashMap::from([(name, Arc::new(facts))]), &versions).0;
        all.into_values().next().unwrap()
    }

    #[test]
    fn less_output_a_battery_and_another_input_are_told() {
        let heron = traits("heron", 100_000, Some(true), "aa");
        assert_eq!(heron.differences(&traits("wren", 101_000, Some(true), "aa")), []);
        assert_eq!(heron.differences(&traits("wren", 101_000, None, "aa")), []);
        assert_eq!(
            heron.differences(&traits("wren", 60_000, Some(false), "bb")),
            [
                Unlike::Size { file: "still.png".into(), ours: 60_000, theirs: 100_000 },
                Unlike::Power { on_mains: false },
                Unlike::Input { file: "sky.txt".into() }
            ]
        );
    }

    #[test]
    fn on_a_battery_screen_and_profile_must_agree_and_on_mains_they_need_not() {
        let seen = |on_mains, share: f64, profile: &str| {
            let name = LapName::parse("heron-1.1").unwrap();
            let mut facts = LapFacts::default();
            facts.conditions.sampled.on_mains = Some(on_mains);
            facts.conditions.sampled.brightness = Some(share);
            facts.conditions.sampled.power_profile = Some(profile.to_owned());
            let laps = [LapHead::done(name.clone(), "wait", Settings::default(), Nanos(1))];
            let all = cell_traits(&laps, &HashMap::from([(name, Arc::new(facts))]), &[]).0;
            all.into_values().next().unwrap()
        };
        let ours = seen(false, 0.60, "balanced");
        assert_eq!(ours.differences(&seen(false, 0.64, "balanced")), []);
        assert_eq!(
            ours.differences(&seen(false, 1.0, "performance")),
            [
                Unlike::Screen { ours: 100, theirs: 60 },
                Unlike::Profile { ours: "performance".into(), theirs: "balanced".into() }
            ]
        );
        let mains = seen(true, 0.60, "balanced");
        assert_eq!(mains.differences(&seen(true, 1.0, "performance")), []);
    }
    #[test]
    fn a_program_that_was_set_otherwise_is_told_and_one_that_did_not_say_is_not() {
        let set = |values: &[(&str, &str)]| {
            let name = LapName::parse("heron-1.1").unwrap();
            let mut facts = LapFacts::default();
            let mode = |(before, after): &(&str, &str)| Mode {
                name: "render".into(),
                before: Some((*before).to_owned()),
                after: Some((*after).to_owned()),
                unknown: None,
            };
            facts.conditions.modes = values.iter().map(mode).collect();
            let laps = [LapHead::done(name.clone(), "still", Settings::default(), Nanos(1))];
            let (all, modes) = cell_traits(&laps, &HashMap::from([(name, Arc::new(facts))]), &[]);
            (all.into_values().next().unwrap(), modes)
        };
        let (ours, modes) = set(&[("graphics", "graphics")]);
        let session = modes.into_values().next().unwrap();
        let key = ("still".to_owned(), "render".to_owned());
        assert_eq!(session[&key], BTreeSet::from([Some("graphics".to_owned())]));
        assert_eq!(ours.differences(&set(&[("graphics", "graphics")]).0), []);
        assert_eq!(ours.differences(&set(&[]).0), []);
        let mixed = set(&[("graphics", "processor")]).0;
        let (here, there) = (vec!["graphics".into(), "processor".into()], vec!["graphics".into()]);
        let other = Unlike::Setting { mode: "render".into(), ours: here, theirs: there };
        assert_eq!(ours.differences(&mixed), [other]);
    }
}
