//! *One of a kind*: one machine speaks for its model.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use std::collections::{BTreeMap, BTreeSet};

/// Returns what every model raises that a study names and one machine alone stands for.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut models: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for rig in &evidence.study.rigs {
        let counted = evidence.has_laps_of(&rig.name);
        if let Some(model) = rig.model.as_deref().filter(|_| counted) {
            models.entry(model).or_default().insert(&rig.name);
        }
    }
    let raised = |(model, rigs): (&str, BTreeSet<&str>)| {
        let rig = rigs.first().filter(|_| rigs.len() == 1)?;
        Some(Raised {
            workload: String::new(),
            laps: Vec::new(),
            doubt: Doubt::OneOfAKind { rig: (*rig).to_owned(), model: model.to_owned() },
            remedy: Remedy::CompareOtherwise,
        })
    };
    models.into_iter().filter_map(raised).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::Rig;

    #[test]
    fn two_of_a_model_speak_for_it_and_one_does_not() {
        let mut lab = Lab::default().session("heron-1", &[1.0; 3]).session("wren-1", &[1.0; 3]);
        let rig = |name: &str| Rig {
            name: name.to_owned(),
            model: Some("Harbour H12".into()),
            ..Rig::default()
        };
        lab.study.rigs = vec![rig("heron"), rig("dunlin")];
        let found = lab.found(find);
        assert_eq!(found.len(), 1, "dunlin has no laps");
        let model = "Harbour H12".to_owned();
        assert_eq!(found[0].doubt, Doubt::OneOfAKind { rig: "heron".into(), model });
        lab.study.rigs.push(rig("wren"));
        assert_eq!(lab.found(find), []);
    }
}
