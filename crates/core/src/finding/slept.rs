//! *Slept*: the machine slept while a lap ran.

use super::{Doubt, Known, again, by_fact};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::{Nanos, display_span};

/// Returns a doubt for every workload and rig with laps during which the machine slept.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let slept = facts.conditions.slept.filter(|&slept| slept > Nanos(0))?;
        Some(format!("was under way when the machine slept for {}", display_span(slept)))
    };
    let settle = |rig: &str, workload: &str| format!("keep it awake; {}", again(rig, workload));
    by_fact(known, "slept", says, settle)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn a_sleep_is_told_with_its_length() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0, 1.0]);
        lab.facts("wren-1.1").conditions.slept = Some(Nanos(0));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.3").conditions.slept = Some(Nanos::from_seconds(5_400));
        assert!(lab.found_in_facts(find)[0].evidence.contains("slept for 1 h 30 min"));
    }
}
