//! *Machine busy*: other programs used the processor while a lap ran.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what laps during which others were busy raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |lap: &Lap<'_>, facts: &LapFacts| {
        // What others used was counted between the looks, which a short lap fills only in part.
        let counted_over = facts.conditions.sampled.looked.or(lap.wall)?;
        let used = facts.conditions.busy_others(Some(counted_over))?;
        let share = used.seconds() / counted_over.seconds();
        Some(Doubt::MachineBusy { used, share, by: facts.named_others() })
    };
    ByFact::of(says, Remedy::again)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::OtherProgram;
    use crate::unit::Nanos;

    #[test]
    fn what_was_used_around_a_short_lap_is_no_more_than_the_machine_has() {
        let mut lab = Lab::default().session("heron-1", &[9.0, 9.0, 9.0]);
        let conditions = &mut lab.facts("heron-1.1").conditions;
        conditions.others_cpu = Some(Nanos(140_000_000));
        conditions.sampled.looked = Some(Nanos(100_000_000));
        let found = lab.found_in_facts(find);
        let Doubt::MachineBusy { share, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((share - 1.4).abs() < 1e-9);
    }

    #[test]
    fn others_are_told_where_they_show() {
        let mut lab = Lab::default().session("heron-1", &[2_000.0, 2_000.0, 2_000.0]);
        lab.facts("heron-1.1").conditions.others_cpu = Some(Nanos(90_000_000));
        assert_eq!(lab.found_in_facts(find), []);
        lab.facts("heron-1.2").conditions.others_cpu = Some(Nanos(900_000_000));
        let indexer = OtherProgram { name: "indexer".into(), used: Nanos(880_000_000) };
        lab.facts("heron-1.2").conditions.other_programs = vec![indexer];
        lab.facts("heron-1.3").conditions.others_cpu = Some(Nanos(400_000_000));
        let found = lab.found_in_facts(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 2));
        let used = Nanos(900_000_000);
        let by = vec!["indexer".to_owned()];
        assert_eq!(
            found[0].doubt,
            Doubt::MachineBusy { used, share: 0.45, by },
            "that of the first"
        );
    }
}
