//! *Throttled*: the clock fell while the temperature rose; of an endurance lap, where its rate fell.

use super::{Doubt, Known, again, by_fact, per_cent};
use crate::endurance::Throttle;
use crate::lab::LapFacts;
use crate::record::LapHead;

/// Returns a doubt for every workload and rig with laps that were throttled.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        if let Some(endured) = &facts.endured {
            let Throttle { clock_mhz: (first, settled), heat_c: (begin, hottest) } =
                endured.throttle?;
            return Some(format!(
                "settled at a clock {} lower than at first, {settled:.0} and not {first:.0} MHz, after it had \
                 warmed from {begin:.0} to {hottest:.0} °C",
                per_cent(1.0 - settled / first)
            ));
        }
        let (clock, heat) = facts.conditions.sampled.throttled()?;
        Some(format!(
            "saw its clock fall by {}, from {:.0} to {:.0} MHz, while it warmed from {:.0} to {:.0} °C",
            per_cent(1.0 - clock.last / clock.first),
            clock.first,
            clock.last,
            heat.first,
            heat.last
        ))
    };
    // How a machine goes over hours is what an endurance lap is to show: no rest settles that.
    let long = |workload: &str| {
        known.iter().any(|(lap, facts)| lap.workload == workload && facts.endured.is_some())
    };
    let settle = |rig: &str, workload: &str| match long(workload) {
        true => format!(
            "look when it fell: lap plot {workload} --figure course; cool the machine better, then {}",
            again(rig, workload)
        ),
        false => format!("rest = {{ until_below = \"55 °C\" }}, then {}", again(rig, workload)),
    };
    by_fact(known, "throttled", says, settle)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::Course;

    #[test]
    fn a_clock_that_falls_in_the_heat_is_throttled_and_one_that_idles_is_not() {
        let mut lab = Lab::default().session("wren-1", &[1.0, 1.0, 1.0]);
        let course = |first, last| Some(Course { first, last, ..Course::default() });
        let sampled = &mut lab.facts("wren-1.2").conditions.sampled;
        (sampled.clock_mhz, sampled.temperature_c) = (course(4200.0, 2900.0), course(60.0, 61.0));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("wren-1.2").conditions.sampled.temperature_c = course(60.0, 96.0);
        let found = lab.found_in_facts(find);
        assert!(found[0].evidence.contains("fall by 31 %, from 4200 to 2900 MHz"), "{found:?}");
    }
}
