//! *Machine busy*: other programs used the processor while a lap ran.

use super::doubt::Doubt;
use super::evidence::{Known, by_fact};
use super::raised::{Raised, Remedy};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::Nanos;

/// The share of one hardware thread, over the lap, that others may use.
const QUIET: f64 = 0.05;
/// Less than this is below what the kernel's ticks can tell.
const LEAST: Nanos = Nanos(100_000_000);

/// Returns what laps during which others were busy raise, by workload and rig.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Raised> {
    let says = |lap: &LapHead, facts: &LapFacts| {
        let used = facts.conditions.others_cpu?;
        // What others used was counted between the looks, which a short lap fills only in part.
        let counted_over = facts.conditions.sampled.looked.or(lap.wall)?;
        let share = used.seconds() / counted_over.seconds();
        (used >= LEAST && share > QUIET).then_some(Doubt::MachineBusy { used, share })
    };
    by_fact(known, says, Remedy::again)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

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
        lab.facts("heron-1.3").conditions.others_cpu = Some(Nanos(400_000_000));
        let found = lab.found_in_facts(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 2));
        let used = Nanos(900_000_000);
        assert_eq!(found[0].doubt, Doubt::MachineBusy { used, share: 0.45 }, "that of the first");
    }
}
