//! *Never settled*: the rate of an endurance lap last changed shortly ahead of its end.

use super::{Doubt, Known, again, by_fact};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::{Nanos, display_span};

/// Returns a doubt for every workload and rig with laps that never settled.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let endured = facts.endured.as_deref()?;
        let course = endured.course.as_ref().filter(|course| course.late)?;
        let span = |seconds: f64| display_span(Nanos((seconds * 1e9) as u64));
        Some(format!(
            "changed its rate for the last time after {} of {}, so what it settles at is not known",
            span(course.since),
            span(endured.lasted)
        ))
    };
    let settle = |rig: &str, workload: &str| {
        format!("let it last longer in study.toml: lasts; then {}", again(rig, workload))
    };
    by_fact(known, "never settled", says, settle)
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
        assert!(found[0].evidence.contains("lap wren-1.2 changed its rate"), "{found:?}");
        assert!(found[0].evidence.contains("after 4 min 50 s of 5 min"), "{found:?}");
    }
}
