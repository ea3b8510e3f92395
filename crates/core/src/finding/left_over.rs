//! *Left-overs*: a lap left programs behind, which may have gone on with its work.

use super::{Doubt, Known, by_fact};
use crate::lab::LapFacts;
use crate::record::LapHead;

/// Returns a doubt for every workload and rig with laps that left something running.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let names = facts.left_behind.join(", ");
        (!names.is_empty()).then(|| format!("ended and left {names} running, which was ended"))
    };
    let settle = |rig: &str, workload: &str| {
        format!("have the command wait for its own programs; on {rig}: lap run {workload}")
    };
    by_fact(known, "left-overs", says, settle)
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
        assert!(lab.found_in_facts(find)[0].evidence.contains("left renderd running"));
    }
}
