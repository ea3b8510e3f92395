//! *Own time differs*: a program reports another time than the clock measured.

use super::{Doubt, Known, by_fact, per_cent};
use crate::lab::LapFacts;
use crate::record::LapHead;
use crate::unit::{Nanos, display_span};

/// A report may leave out this share: starting and ending are not in it.
const LEAST_SHARE: f64 = 0.05;
/// Nor is a difference below this worth a word.
const LEAST_SECONDS: f64 = 0.05;

/// Returns a doubt for every workload and rig whose program reports another time than was measured.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |lap: &LapHead, _: &LapFacts| {
        let own = lap.readings.iter().find(|reading| reading.reports_time)?.value?;
        let wall = lap.wall?;
        let off = own - wall.seconds();
        let differs = off.abs() > LEAST_SECONDS && off.abs() > LEAST_SHARE * wall.seconds();
        differs.then(|| {
            let way = if off < 0.0 { "less" } else { "more" };
            let own = Nanos((own.max(0.0) * 1e9) as u64);
            format!(
                "reports {}, {} {way} than the {} measured",
                display_span(own),
                per_cent(off / wall.seconds()),
                display_span(wall)
            )
        })
    };
    let settle = |rig: &str, workload: &str| {
        format!(
            "find what its report leaves out; splits say which part is meant; on {rig}: lap run {workload}"
        )
    };
    by_fact(known, "own time differs", says, settle)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{Better, Reading};

    #[test]
    fn a_report_that_leaves_out_half_is_doubted() {
        let mut lab = Lab::default().session("wren-1", &[2_000.0, 2_000.0, 2_000.0]);
        let mut report = |number: usize, seconds: f64| {
            lab.laps[number].readings = vec![Reading {
                name: "own".into(),
                unit: "s".into(),
                better: Better::Less,
                value: Some(seconds),
                step: None,
                seen: String::new(),
                reports_time: true,
            }];
        };
        report(0, 1.98);
        report(1, 1.2);
        let found = lab.found_in_facts(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 1));
        assert!(found[0].evidence.contains("reports 1.2 s, 40 % less than the 2 s"), "{found:?}");
    }
}
