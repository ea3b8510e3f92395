//! *Still falling at the end*: the rate of an endurance lap falls on behind its last change.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what laps whose rate still fell raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let course = facts.endured.as_deref()?.course.as_ref()?;
        Some(Doubt::StillFalling { by: course.falling? })
    };
    ByFact::of(says, |rig| Remedy::RunLonger { rigs: vec![rig.to_owned()] })
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
        assert_eq!(found[0].laps[0].to_string(), "wren-1.2");
        assert!(matches!(found[0].doubt, Doubt::StillFalling { by } if by > 0.01), "{found:?}");
    }
}
