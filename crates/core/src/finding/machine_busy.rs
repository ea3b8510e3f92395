//! *Machine busy*: other programs used the processor while a lap ran.

use super::{Doubt, Known, again, by_fact, per_cent};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::{Nanos, display_span};

/// The share of one hardware thread, over the lap, that others may use.
const QUIET: f64 = 0.05;
/// Less than this is below what the kernel's ticks can tell.
const LEAST: Nanos = Nanos(100_000_000);

/// Returns a doubt for every workload and rig with laps during which others were busy.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |lap: &LapHead, facts: &LapFacts| {
        let others = facts.conditions.others_cpu?;
        // What others used was counted between the looks, which a short lap fills only in part.
        let counted_over = facts.conditions.sampled.looked.or(lap.wall)?;
        let share = others.seconds() / counted_over.seconds();
        (others >= LEAST && share > QUIET).then(|| {
            format!(
                "ran beside other programs that used {} of processor time, {} of one hardware thread",
                display_span(others),
                per_cent(share)
            )
        })
    };
    let settle = |rig: &str, workload: &str| {
        format!("end what else runs (lap rig check), then {}", again(rig, workload))
    };
    by_fact(known, "machine busy", says, settle)
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
        assert!(found[0].evidence.contains("140 % of one hardware thread"), "{found:?}");
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
        assert_eq!(
            found[0].evidence,
            "lap heron-1.2 ran beside other programs that used 900 ms of processor time, 45 % of \
             one hardware thread; likewise one other lap"
        );
    }
}
