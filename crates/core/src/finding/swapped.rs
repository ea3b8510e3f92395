//! *Swapped*: memory was written to disk, or read back from it, while a lap ran.

use super::limit::LEAST_SWAPPED;
use super::{Doubt, Known, again, by_fact};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::display_size;

/// Returns a doubt for every workload and rig with laps during which memory was swapped.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let bytes =
            facts.conditions.sampled.swapped_bytes.filter(|&bytes| bytes >= LEAST_SWAPPED)?;
        Some(format!("ran while {} were swapped", display_size(bytes)))
    };
    let settle = |rig: &str, workload: &str| {
        format!("free memory, or say that this rig has too little; {}", again(rig, workload))
    };
    by_fact(known, "swapped", says, settle)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    #[test]
    fn swapping_is_told_with_its_size() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0, 1.0]);
        lab.facts("wren-1.1").conditions.sampled.swapped_bytes = Some(4096);
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.1").conditions.sampled.swapped_bytes = Some(300_000_000);
        assert_eq!(
            lab.found_in_facts(find)[0].evidence,
            "lap wren-1.1 ran while 300 MB were swapped"
        );
    }
}
