//! *Read too coarsely*: laps read in steps, mostly by hand, differ by less than the step in which they were read.

use super::doubt::Doubt;
use super::evidence::Evidence;
use super::raised::{Raised, Remedy};
use crate::judge::{Against, Row, WorkloadView};
use crate::record::LapName;

/// The two sides' standard uncertainties together, turned into what they leave open at worst: half
/// a step on either side (√3, see `Cell::read_in_steps`), in opposite ways (√2 at most).
const AT_WORST: f64 = 2.449_489_742_783_178;

/// Returns what every row raises whose difference is no larger than what reading it by hand leaves open.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let rows = evidence.views.iter().flat_map(|view| {
        let rows = view.groups.iter().flat_map(|group| &group.rows);
        rows.map(move |row| (view, row))
    });
    rows.filter_map(|(view, row)| raised(evidence, view, row)).collect()
}

fn raised(evidence: &Evidence<'_>, view: &WorkloadView, row: &Row) -> Option<Raised> {
    let Against::Other(difference) = &row.against else { return None };
    let (speed, reading) = (difference.speed?, difference.reading);
    let (shown, open) = (speed.ln().abs(), reading * AT_WORST);
    if reading == 0.0 || shown > open {
        return None;
    }
    let cell = (view.workload.as_str(), row.rig.as_str(), &row.settings);
    let runs = evidence.series.iter().filter(|one| one.cell() == cell).flat_map(|one| one.runs());
    let read = runs.filter(|run| run.yields().step_of(&view.measure.name).is_some());
    let mut laps: Vec<LapName> = read.flat_map(|run| run.laps()).map(|lap| lap.name()).collect();
    laps.sort();
    Some(Raised {
        workload: view.workload.clone(),
        laps,
        doubt: Doubt::ReadCoarsely { rig: row.rig.clone(), differs: shown.exp_m1(), open },
        remedy: Remedy::ReadFiner,
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::judge::{Ask, compare};
    use crate::unit::Nanos;

    fn lab(wren_ms: f64, step: Option<Nanos>) -> Lab {
        let mut lab = Lab::default()
            .session("heron-1", &[52_000.0; 4])
            .session("wren-1", &[wren_ms, wren_ms, wren_ms, wren_ms]);
        lab.laps.iter_mut().for_each(|lap| lap.step = step);
        lab.views = compare(&lab.laps, &Ask { margin: 0.02, ..Ask::default() });
        lab
    }

    #[test]
    fn a_second_on_fifty_is_no_difference_when_read_to_the_second() {
        // Half a second on each side of 52 s, in opposite ways: 1.9 %.
        let found = lab(52_500.0, Some(Nanos::from_seconds(1))).found(find);
        let Doubt::ReadCoarsely { differs, open, .. } = found[0].doubt else { panic!("{found:?}") };
        assert!((differs - 0.0096).abs() < 1e-4 && (open - 0.0191).abs() < 1e-3, "{found:?}");
        assert_eq!(found[0].laps.len(), 4);
        assert_eq!(lab(56_000.0, Some(Nanos::from_seconds(1))).found(find), []);
        assert_eq!(lab(52_500.0, None).found(find), []);
    }
}
