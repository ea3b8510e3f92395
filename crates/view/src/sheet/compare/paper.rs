//! Paper peaks: how near a rate comes to what its rig could do at most, by a document.

use crate::words::listed;
use honest_lap_core::judge::{Group, Row, WorkloadView};
use honest_lap_core::record::{Peak, Study, TIME, Work, share_of_peak};
use honest_lap_draw::{percent, significant};

/// Returns the share of its rig's paper peak that the rate of `row` is, and the peak, where one of its unit is stated.
pub fn share_of<'a>(
    view: &WorkloadView,
    row: &Row,
    work: Option<&Work>,
    study: &'a Study,
) -> Option<(f64, &'a Peak)> {
    let typical = row.cell.as_ref()?.typical();
    let peaks = &study.rig(&row.rig)?.peaks;
    if view.measure.name == TIME {
        let work = work?.of(&row.settings)?;
        return share_of_peak(work.value / typical, &work.unit, peaks);
    }
    share_of_peak(typical, view.measure.unit.strip_suffix("/s")?, peaks)
}

/// Returns a share of a peak as people read it: what is far below a per mille to two places.
pub fn of_peak_words(share: f64) -> String {
    match share < 0.001 {
        true => format!("{} %", significant(share * 100.0, 2)),
        false => percent(share),
    }
}

/// Says what shares of a peak are of, where `group` shows any.
pub(super) fn note(
    view: &WorkloadView,
    group: &Group,
    work: Option<&Work>,
    study: &Study,
) -> Option<String> {
    let of = |row: &Row| {
        let (_, peak) = share_of(view, row, work, study)?;
        Some(format!("{} {}/s ({})", row.rig, peak.a_second, peak.from))
    };
    let mut peaks: Vec<String> = group.rows.iter().filter_map(of).collect();
    peaks.sort_unstable();
    peaks.dedup();
    (!peaks.is_empty()).then(|| {
        format!(
            "Of peak is measured against paper: the rate over what is stated of {}.",
            listed(&peaks)
        )
    })
}
