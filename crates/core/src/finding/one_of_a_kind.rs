//! *One of a kind*: one machine speaks for its model.

use super::{Doubt, Evidence};
use std::collections::{BTreeMap, BTreeSet};

/// Returns a doubt for every model that a study names and one machine alone stands for.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let mut models: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for rig in &evidence.study.rigs {
        let counted = |name: &str| {
            evidence.laps.iter().any(|lap| lap.name.session.rig == name && lap.counts())
        };
        if let Some(model) = rig.model.as_deref().filter(|_| counted(&rig.name)) {
            models.entry(model).or_default().insert(&rig.name);
        }
    }
    let alone = models.into_iter().filter(|(_, rigs)| rigs.len() == 1);
    let doubt = |(model, rigs): (&str, BTreeSet<&str>)| {
        let rig = rigs.first().copied().unwrap_or_default();
        Doubt {
            name: "one of a kind",
            workload: String::new(),
            laps: Vec::new(),
            evidence: format!(
                "{rig} alone stands for every {model}, and machines of one model differ"
            ),
            settle: format!(
                "say \"this {model}\", or drive a second one: [rig.NAME] model = \"{model}\""
            ),
            false_alarms: None,
        }
    };
    alone.map(doubt).collect()
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
        assert!(found[0].evidence.starts_with("heron alone stands for every Harbour H12"));
        lab.study.rigs.push(rig("wren"));
        assert_eq!(lab.found(find), []);
    }
}
