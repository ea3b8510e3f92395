//! Passes as strips.

use super::passes::ShownPass;
use crate::number::fixed;
use crate::table::strip;
use honest_lap_core::frame::envelope;

/// Columns of a strip, and passes that are drawn so.
const STRIP: usize = 56;

const STRIPS: usize = 16;

pub(super) fn strips(passes: &[&ShownPass]) -> Vec<String> {
    let of =
        |pass: &&ShownPass| envelope(&pass.digest.cut.applied(&pass.recorded.pass).shown, STRIP);
    let all: Vec<_> = passes.iter().map(of).collect();
    // Half of the passes fit under the top: a single stall must not flatten all the rest.
    let mut tops: Vec<f64> =
        passes.iter().map(|pass| pass.digest.sums.p99.unwrap_or(pass.digest.sums.worst)).collect();
    tops.sort_by(f64::total_cmp);
    let Some(&middle) = tops.get(tops.len() / 2) else { return Vec::new() };
    let top = middle * 2.0;
    let width = passes.iter().map(|pass| pass.lap.to_string().len()).max().unwrap_or(0);
    let mut lines = vec![format!(
        "Longest frame in each of {STRIP} slices; a full mark is {} ms or more:",
        fixed(top * 1e3, 1)
    )];
    let more = passes.len().saturating_sub(STRIPS);
    for (pass, columns) in passes.iter().zip(&all).take(STRIPS) {
        let most: Vec<Option<f64>> = columns.iter().map(|c| c.map(|column| column.most)).collect();
        let seconds = fixed(pass.digest.sums.time.seconds(), 1);
        lines.push(format!("{:<width$} {} {seconds} s", pass.lap.to_string(), strip(&most, top)));
    }
    lines.extend((more > 0).then(|| format!("and {more} more passes: lap plot --figure passes")));
    lines
}
