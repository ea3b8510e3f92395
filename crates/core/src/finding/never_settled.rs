//! *Never settled*: the rate of an endurance lap last changed shortly ahead of its end.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what laps that never settled raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let endured = facts.endured.as_deref()?;
        let course = endured.course.as_ref().filter(|course| course.late)?;
        Some(Doubt::NeverSettled { since: course.since, lasted: endured.lasted })
    };
    ByFact::of(says, |rig| Remedy::RunLonger { rigs: vec![rig.to_owned()] })
}

#[cfg(test)]
mod tests {
    use super::super::testing::{Lab, endured};
    use super::*;

    #[test]
    fn a_change_shortly_ahead_of_the_end_never_settled_and_an_early_one_did() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0]);
        let level = |from: usize| move |place: usize| if place < from { 100.0 } else { 80.0 };
        lab.facts("wren-1.1").endured = Some(endured(level(60)));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.2").endured = Some(endured(level(290)));
        let found = lab.found_in_facts(find);
        assert_eq!(found[0].laps[0].to_string(), "wren-1.2");
        assert_eq!(found[0].doubt, Doubt::NeverSettled { since: 290.0, lasted: 300.0 });
    }
}
