//! *Meter silent*: a lap has no value of an outside meter that the same rig's other laps have.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::evidence::counted;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};
use std::collections::{BTreeMap, BTreeSet};

/// Returns what laps without a meter's value raise, by workload and rig.
pub(super) fn find<'s>(series: &[&'s LapSeries]) -> ByFact<'s> {
    let mut metered: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
    for run in counted(series) {
        let mut meters = run.alike.meters().peekable();
        if meters.peek().is_some() {
            metered.entry(run.rig()).or_default().extend(meters);
        }
    }
    let says = move |lap: &Lap<'_>, facts: &LapFacts| {
        // What was typed or imported was beside no meter: only of laps that the tool ran is it known whether it slept.
        facts.conditions.slept?;
        let of_rig = metered.get(lap.rig())?;
        let has = |name: &str| facts.conditions.sampled.meters.iter().any(|m| m.name == name);
        let silent = of_rig.iter().filter(|name| !has(name));
        let meters: Vec<String> = silent.map(|&name| name.to_owned()).collect();
        (!meters.is_empty()).then_some(Doubt::MeterSilent { meters })
    };
    ByFact::of(says, Remedy::again)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{MeterSum, QuantitySummary};
    use crate::unit::Nanos;

    fn metered(lab: &mut Lab, lap: &str, names: &[&str]) {
        let course = QuantitySummary::default();
        let meter = |name: &&str| MeterSum { name: (*name).into(), unit: "W".into(), course };
        lab.facts(lap).conditions.sampled.meters = names.iter().map(meter).collect();
        lab.facts(lap).conditions.slept = Some(Nanos(0));
    }

    #[test]
    fn a_meter_is_missed_where_the_rig_has_it_otherwise() {
        let mut lab = Lab::default().session("wren-1", &[1.0; 3]).session("heron-1", &[1.0; 2]);
        for lap in ["wren-1.1", "wren-1.2", "wren-1.3", "heron-1.1", "heron-1.2"] {
            metered(&mut lab, lap, &[]);
        }
        assert_eq!(lab.found_in_facts(find), [], "a rig without a meter lacks none");
        metered(&mut lab, "wren-1.1", &["wall"]);
        metered(&mut lab, "wren-1.2", &["wall", "rail"]);
        let found = lab.found_in_facts(find);
        let laps: Vec<String> = found[0].laps.iter().map(ToString::to_string).collect();
        assert_eq!((found.len(), laps), (1, vec!["wren-1.1".to_owned(), "wren-1.3".to_owned()]));
        assert_eq!(found[0].doubt, Doubt::MeterSilent { meters: vec!["rail".into()] });
        // Nothing is known of what a person typed.
        lab.facts("wren-1.1").conditions.slept = None;
        lab.facts("wren-1.3").conditions.slept = None;
        assert_eq!(lab.found_in_facts(find), []);
    }
}
