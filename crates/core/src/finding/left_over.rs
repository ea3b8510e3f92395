//! *Left-overs*: a lap left programs behind, which may have resumed its work.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what laps that left something running raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let programs = facts.left_behind.clone();
        (!programs.is_empty()).then_some(Doubt::LeftOvers { programs })
    };
    ByFact::of(says, Remedy::again)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn what_was_left_is_named() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0, 1.0]);
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.1").left_behind = vec!["renderd".into()];
        let programs = vec!["renderd".to_owned()];
        assert_eq!(lab.found_in_facts(find)[0].doubt, Doubt::LeftOvers { programs });
    }
}
