//! *Throttled*: the clock fell while the temperature rose; of an endurance lap, where its rate fell.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what laps that were throttled raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        if let Some(endured) = &facts.endured {
            let throttle = endured.throttle?;
            let (clock_mhz, heat_c) = (throttle.clock_mhz, throttle.heat_c);
            return Some(Doubt::Throttled { clock_mhz, heat_c, settled: true });
        }
        let (clock, heat) = facts.conditions.sampled.throttled()?;
        let (clock_mhz, heat_c) = ((clock.first, clock.last), (heat.first, heat.last));
        Some(Doubt::Throttled { clock_mhz, heat_c, settled: false })
    };
    ByFact::of(says, Remedy::again)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::QuantitySummary;

    #[test]
    fn a_clock_that_falls_in_the_heat_is_throttled_and_one_that_idles_is_not() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0, 1.0]);
        let course =
            |first, last| Some(QuantitySummary { first, last, ..QuantitySummary::default() });
        let sampled = &mut lab.facts("wren-1.2").conditions.sampled;
        (sampled.clock_mhz, sampled.temperature_c) = (course(4200.0, 2900.0), course(60.0, 61.0));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.2").conditions.sampled.temperature_c = course(60.0, 96.0);
        let found = lab.found_in_facts(find);
        let Doubt::Throttled { clock_mhz, settled, .. } = found[0].doubt else {
            panic!("{found:?}")
        };
        assert_eq!((clock_mhz, settled), ((4200.0, 2900.0), false));
    }
}
