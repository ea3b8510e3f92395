//! *Still falling at the end*: the rate of an endurance lap falls on behind its last change.

use super::{Doubt, Known, again, by_fact, per_cent};
use crate::lab::LapFacts;
use crate::record::LapHead;

/// Returns a doubt for every workload and rig with laps whose rate still fell.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let course = facts.endured.as_deref()?.course.as_ref()?;
        let falls = course.falling?;
        Some(format!("was still falling, by another {} over its last two fifths", per_cent(falls)))
    };
    let settle = |rig: &str, workload: &str| {
        format!("let it last longer in study.toml: lasts; then {}", again(rig, workload))
    };
    let found = by_fact(known, "still falling at the end", says, settle);
    found.into_iter().map(|doubt| Doubt { false_alarms: Some(0.01), ..doubt }).collect()
}

#[cfg(test)]
mod tests {
    use super::super::testing::{Lab, endured};
    use super::*;

    #[test]
    fn a_slope_that_no_step_explains_still_falls_and_a_level_does_not() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0]);
        lab.facts("wren-1.1").endured = Some(endured(|_| 100.0));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.2").endured = Some(endured(|place| 100.0 - 0.07 * place as f64));
        let found = lab.found_in_facts(find);
        assert!(
            found[0].evidence.starts_with("lap wren-1.2 was still falling, by another"),
            "{found:?}"
        );
    }
}
