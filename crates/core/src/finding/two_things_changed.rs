//! *Two things changed*: two rigs share parts and differ in several, so no one of them explains it.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::record::{Rig, RigPart};

/// Returns what every two rigs of a comparison raise that share a part of those the study states, and differ in more
/// than one. Rigs that share nothing are compared as wholes.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let rigs = &evidence.study.rigs;
    let mut found = Vec::new();
    for (place, one) in rigs.iter().enumerate() {
        for other in &rigs[place + 1..] {
            let (shared, parts) = parts(one, other);
            let beside = |rig: &Rig| evidence.has_laps_of(&rig.name);
            if shared == 0 || parts.len() < 2 || !beside(one) || !beside(other) {
                continue;
            }
            let rigs = (one.name.clone(), other.name.clone());
            found.push(Raised {
                workload: String::new(),
                laps: Vec::new(),
                doubt: Doubt::TwoThingsChanged { rigs, parts },
                remedy: Remedy::CompareOtherwise,
            });
        }
    }
    found
}

/// Returns how many stated parts two rigs share, and in which they differ: its name, and what it is in each.
fn parts(one: &Rig, other: &Rig) -> (usize, Vec<(String, String, String)>) {
    let (mut shared, mut differing) = (0, Vec::new());
    for part in &one.parts {
        let Some(ours) = part.now() else { continue };
        let other = other.parts.iter().find(|known| known.name == part.name);
        match other.and_then(RigPart::now) {
            Some(theirs) if theirs == ours => shared += 1,
            Some(theirs) => differing.push((part.name.clone(), ours.into(), theirs.into())),
            None => {}
        }
    }
    (shared, differing)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(wren: &[(&str, &str)]) -> Lab {
        let rig = |name: &str, parts: &[(&str, &str)]| Rig {
            name: name.to_owned(),
            parts: parts.iter().map(|(name, is)| RigPart::always(name, is)).collect(),
            ..Rig::default()
        };
        let mut lab = Lab::default().session("heron-1", &[1.0; 3]).session("wren-1", &[1.0; 3]);
        let heron = rig("heron", &[("card", "L2"), ("driver", "8.1"), ("memory", "32 GB")]);
        lab.study.rigs = vec![heron, rig("wren", wren)];
        lab
    }

    #[test]
    fn a_card_and_its_driver_are_two_things() {
        let two = lab(&[("card", "L4"), ("driver", "8.2"), ("memory", "32 GB")]).found(find);
        let Doubt::TwoThingsChanged { parts, .. } = &two[0].doubt else { panic!("{two:?}") };
        let driver = ("driver".to_owned(), "8.1".to_owned(), "8.2".to_owned());
        assert_eq!((parts.len(), &parts[1]), (2, &driver));
        assert_eq!(lab(&[("card", "L4"), ("driver", "8.1"), ("memory", "32 GB")]).found(find), []);
        let wholes = lab(&[("card", "L4"), ("driver", "8.2"), ("memory", "16 GB")]);
        assert_eq!(wholes.found(find), [], "nothing in common");
    }
}
