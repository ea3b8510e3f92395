//! *Two things changed*: two rigs share parts and differ in several, so no one of them explains it.

use super::{Doubt, Evidence, listed};
use crate::record::Rig;

/// Returns a doubt for every two rigs of a comparison that share a part of those the study states,
/// and differ in more than one. Rigs that share nothing are compared as wholes.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let rigs = &evidence.study.rigs;
    let mut found = Vec::new();
    for (place, one) in rigs.iter().enumerate() {
        for other in &rigs[place + 1..] {
            let (shared, differing) = parts(one, other);
            let beside = |rig: &Rig| {
                evidence.laps.iter().any(|lap| lap.name.session.rig == rig.name && lap.counts())
            };
            if shared == 0 || differing.len() < 2 || !beside(one) || !beside(other) {
                continue;
            }
            found.push(Doubt {
                name: "two things changed",
                workload: String::new(),
                laps: Vec::new(),
                evidence: format!(
                    "{} and {} differ in {}, so their difference cannot be put down to one of them",
                    one.name,
                    other.name,
                    listed(&differing)
                ),
                settle: "drive a rig in which only one of them differs".to_owned(),
                false_alarms: None,
            });
        }
    }
    found
}

/// Returns how many stated parts two rigs share, and in which they differ.
fn parts<'a>(one: &'a Rig, other: &'a Rig) -> (usize, Vec<String>) {
    let (mut shared, mut differing) = (0, Vec::new());
    for (name, ours) in &one.parts {
        match other.parts.iter().find(|(known, _)| known == name) {
            Some((_, theirs)) if theirs == ours => shared += 1,
            Some((_, theirs)) => differing.push(format!("{name} ({ours} and {theirs})")),
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
            parts: parts.iter().map(|(a, b)| ((*a).to_owned(), (*b).to_owned())).collect(),
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
        assert!(two[0].evidence.contains("card (L2 and L4) and driver (8.1 and 8.2)"), "{two:?}");
        assert_eq!(lab(&[("card", "L4"), ("driver", "8.1"), ("memory", "32 GB")]).found(find), []);
        let wholes = lab(&[("card", "L4"), ("driver", "8.2"), ("memory", "16 GB")]);
        assert_eq!(wholes.found(find), [], "nothing in common");
    }
}
