//! *Slept*: the machine slept while a lap ran.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};
use crate::unit::Nanos;

/// Returns what laps during which the machine slept raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let time = facts.conditions.slept.filter(|&slept| slept > Nanos(0))?;
        Some(Doubt::Slept { time })
    };
    ByFact::of(says, Remedy::again)
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
        let time = Nanos::from_seconds(5_400);
        assert_eq!(lab.found_in_facts(find)[0].doubt, Doubt::Slept { time });
    }
}
