//! *Swapped*: memory was written to disk, or read back from it, while a lap ran.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{LEAST_SWAPPED, Lap, LapFacts, LapSeries};

/// Returns what laps during which memory was swapped raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let swapped = facts.conditions.sampled.swapped_bytes;
        let bytes = swapped.filter(|&bytes| bytes >= LEAST_SWAPPED)?;
        Some(Doubt::Swapped { bytes })
    };
    ByFact::of(says, Remedy::again)
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
        assert_eq!(lab.found_in_facts(find)[0].doubt, Doubt::Swapped { bytes: 300_000_000 });
    }
}
