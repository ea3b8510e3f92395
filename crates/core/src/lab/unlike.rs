//! In what cells differ so much that they did other work, or did it otherwise.

use super::traits::{Contents, MILLIONTHS, Traits};
use crate::record::{Picture, PicturesApart};
use serde::Serialize;
use std::collections::BTreeSet;

/// Sizes that differ by no more than this are an encoder's whim.
const SAME_SIZE: f64 = 0.02;

/// Screens whose brightness differs by no more than so many per cent of their most are as bright.
const SAME_SCREEN: u32 = 5;

/// In what a cell differs from the one it is held against, so that it did other work, or did it otherwise.
#[derive(Clone, Debug, PartialEq, Serialize)]
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
    /// A file that it always makes alike is another one.
    Content {
        /// The file.
        file: String,
    },
    /// A picture that it made shows something else.
    Picture {
        /// The file.
        file: String,
        /// How far both lie apart.
        apart: PicturesApart,
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
        let mut all = self.other_sizes(other);
        all.extend(self.other_pictures(other));
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

    /// Returns the files of which `other` made more or less.
    fn other_sizes(&self, other: &Self) -> Vec<Unlike> {
        let mut all = Vec::new();
        for (file, (_, most)) in &self.produced {
            let Some((least, _)) = other.produced.get(file) else { continue };
            if self.pictures.contains_key(file) && other.pictures.contains_key(file) {
                // What they show says more.
                continue;
            }
            let (small, large) = (least.min(most), least.max(most));
            let apart = |a: u64, b: u64| b as f64 > a as f64 * (1.0 + SAME_SIZE);
            let (ours, theirs) = (self.produced[file], other.produced[file]);
            // Sizes that meet are of laps that made the same now and then.
            if apart(*small, *large) && (apart(ours.1, theirs.0) || apart(theirs.1, ours.0)) {
                all.push(Unlike::Size { file: file.clone(), ours: theirs.0, theirs: ours.1 });
            }
        }
        all
    }

    /// Returns the pictures of `other` that show something else.
    fn other_pictures(&self, other: &Self) -> Vec<Unlike> {
        let apart = |(file, (ours, within)): (&String, &(Picture, u32))| {
            let (theirs, _) = other.pictures.get(file)?;
            let apart = ours.apart(theirs);
            let differs = apart.share * MILLIONTHS > f64::from(*within);
            differs.then(|| Unlike::Picture { file: file.clone(), apart })
        };
        self.pictures.iter().filter_map(apart).collect()
    }

    /// Returns in what `other` came to something else than this: files of another size or content, other pictures. What
    /// varies from lap to lap anyway is not held against it.
    pub fn other_output(&self, other: &Self) -> Vec<Unlike> {
        let mut all = self.other_sizes(other);
        all.extend(self.other_pictures(other));
        let told = |file: &String| {
            all.iter().any(|unlike| {
                matches!(unlike, Unlike::Size { file: known, .. } | Unlike::Picture { file: known, .. }
                    if known == file)
            })
        };
        let contents = self.contents.iter().filter(|(file, ours)| {
            let theirs = other.contents.get(*file).and_then(Contents::always);
            // Pictures that are to show the same may be other files.
            let differ = ours.always().zip(theirs).is_some_and(|(a, b)| a != b);
            differ && !self.pictures.contains_key(*file) && !told(file)
        });
        let contents: Vec<Unlike> =
            contents.map(|(file, _)| Unlike::Content { file: file.clone() }).collect();
        all.extend(contents);
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
    use super::super::traits::{INPUT, cell_traits};
    use super::*;
    use crate::lab::{KnownLap, LapFacts, Laps};
    use crate::record::{LapHead, LapName, Mode, Produced, Settings, VersionLine};
    use crate::unit::Nanos;
    use std::sync::Arc;

    fn traits(rig: &str, bytes: u64, on_mains: Option<bool>, input: &str) -> Traits {
        let name = LapName::parse(&format!("{rig}-1.1")).unwrap();
        let session = name.session.clone();
        let mut facts = LapFacts::default();
        facts.conditions.sampled.on_mains = on_mains;
        facts.produced = vec![Produced {
            file: "still.png".into(),
            bytes: Some(bytes),
            sha256: None,
            picture: None,
        }];
        let head = LapHead::done(name, "still", Settings::default(), Nanos(1));
        let laps = [KnownLap { head, facts: Arc::new(facts) }];
        let (workload, label) = ("still".to_owned(), format!("{INPUT}sky.txt"));
        let versions = [(session, VersionLine { workload, label, line: Some(input.to_owned()) })];
        let all = cell_traits(Laps::from(&laps[..]).series(), &versions, &|_, _| None).0;
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
            let head = LapHead::done(name, "wait", Settings::default(), Nanos(1));
            let laps = [KnownLap { head, facts: Arc::new(facts) }];
            let all = cell_traits(Laps::from(&laps[..]).series(), &[], &|_, _| None).0;
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
            let head = LapHead::done(name, "still", Settings::default(), Nanos(1));
            let laps = [KnownLap { head, facts: Arc::new(facts) }];
            let (all, modes) = cell_traits(Laps::from(&laps[..]).series(), &[], &|_, _| None);
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

    #[test]
    fn output_is_another_by_size_by_content_and_by_what_it_shows() {
        let made = |laps: &[(u64, &str, Option<u8>)]| {
            let of = |(number, (bytes, sum, shade)): (u32, &(u64, &str, Option<u8>))| {
                let name = LapName::parse(&format!("heron-1.{number}")).unwrap();
                let picture = shade.and_then(|shade| Picture::of(16, 16, &[shade; 768]));
                let produced = vec![Produced {
                    file: "still.png".into(),
                    bytes: Some(*bytes),
                    sha256: Some((*sum).to_owned()),
                    picture,
                }];
                let facts = Arc::new(LapFacts { produced, ..LapFacts::default() });
                let head = LapHead::done(name, "still", Settings::default(), Nanos(1));
                KnownLap { head, facts }
            };
            let laps: Vec<KnownLap> = (1..).zip(laps).map(of).collect();
            let (all, _) = cell_traits(Laps::from(&laps[..]).series(), &[], &|_, _| Some(0.02));
            all.into_values().next().unwrap()
        };
        let (png, again) = ((100_000, "aa", None), (100_000, "aa", None));
        let base = made(&[png, again]);
        assert_eq!(base.other_output(&made(&[png, again])), []);
        let file = || "still.png".to_owned();
        let other = made(&[(100_100, "bb", None), (100_100, "bb", None)]);
        assert_eq!(base.other_output(&other), [Unlike::Content { file: file() }]);
        assert_eq!(base.differences(&other), [], "rigs may well make other files");
        let varies = made(&[(100_100, "bb", None), (100_100, "cc", None)]);
        assert_eq!(base.other_output(&varies), [], "what varies anyway says nothing");
        let small = base.other_output(&made(&[(60_000, "bb", None), (60_000, "bb", None)]));
        assert_eq!(small, [Unlike::Size { file: file(), ours: 60_000, theirs: 100_000 }]);
        let shows =
            |shade: u8, sum| made(&[(100_000, sum, Some(shade)), (100_000, sum, Some(shade))]);
        assert_eq!(shows(90, "aa").other_output(&shows(92, "bb")), [], "within 2 %");
        let dark = shows(90, "aa").other_output(&shows(40, "bb"));
        assert!(matches!(dark.as_slice(), [Unlike::Picture { apart, .. }] if apart.share > 0.19));
        assert_eq!(shows(90, "aa").differences(&shows(40, "bb")), dark, "and so for rigs");
    }
}
