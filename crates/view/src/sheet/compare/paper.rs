//! Paper peaks: how near a rate comes to what its rig could do at most, by a document.

use crate::number::{percent, significant};
use crate::words::{listed, peak_words};
use honest_lap_core::judge::{Group, Row};

/// Returns a share of a peak as people read it: what is far below a per mille to two places.
pub fn of_peak_words(share: f64) -> String {
    match share < 0.001 {
        true => format!("{} %", significant(share * 100.0, 2)),
        false => percent(share),
    }
}

/// Says what shares of a peak are of, where `group` shows any.
pub(super) fn note(group: &Group) -> Option<String> {
    let of = |row: &Row| {
        let peak = &row.rate.as_ref()?.of_peak.as_ref()?.peak;
        Some(format!("{} {}", row.rig, peak_words(peak)))
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
