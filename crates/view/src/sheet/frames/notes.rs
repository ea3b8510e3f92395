//! What is to be said below a table of passes.

use super::cells::{Cells, limited};
use super::passes::ShownPass;
use crate::number::fixed;
use crate::sheet::compare::evidence;
use crate::words::{count, limit_words, listed, listed_in_short, some_of};
use honest_lap_core::frame::{self, proposals_of};
use honest_lap_core::record::{Busy, Played};

/// How many frames a low needs.
pub(super) const TOO_SHORT: [(&str, &str); 2] = [(frame::LOW_1, "1,000"), ("low 0.1%", "10,000")];

/// Returns which passes are too short for a low, in a line a measure.
pub(super) fn too_short(cells: &[Cells<'_>]) -> Vec<String> {
    let passes = || cells.iter().flat_map(|cell| &cell.passes);
    let line = |(name, needed): (&str, &str)| {
        let refused = |pass: &&&ShownPass| {
            let readings = pass.digest.readings();
            readings.iter().any(|reading| reading.name == name && reading.value.is_none())
        };
        let names: Vec<String> =
            passes().filter(refused).map(|pass| pass.lap.to_string()).collect();
        let of = match names.len() {
            0 => return None,
            n if n == passes().count() => "every pass".to_owned(),
            _ => listed_in_short(&names),
        };
        Some(format!("{name} needs {needed} frames: refused for {of}"))
    };
    TOO_SHORT.into_iter().filter_map(line).collect()
}

/// Returns whether what was played was shown whole: `heron plays whole: 3 of 3 passes`, `wren drops 14 of 720 frames`.
pub(super) fn played_whole(cell: &Cells<'_>) -> Option<String> {
    let counted = cell.passes.iter().filter(|pass| pass.counts());
    let played: Vec<Played> = counted.filter_map(|pass| pass.digest.played).collect();
    let whole = played.iter().filter(|played| played.late + played.dropped == 0).count();
    let due: u64 = played.iter().map(|played| played.due).sum();
    let dropped: u64 = played.iter().map(|played| played.dropped).sum();
    let late: u64 = played.iter().map(|played| played.late).sum();
    if played.is_empty() {
        return None;
    }
    let rig = cell.rig;
    let of = count(played.len(), "pass");
    Some(match (whole == played.len(), dropped, late) {
        (true, ..) => format!("{rig} plays whole: {whole} of {of}"),
        (false, 0, late) => {
            format!("{rig} shows {late} of {due} frames late; {whole} of {of} whole")
        }
        (false, dropped, _) => {
            format!("{rig} drops {dropped} of {due} frames; {whole} of {of} whole")
        }
    })
}

/// Returns what limited each rig's passes, a line a cell.
pub(super) fn limits(cells: &[Cells<'_>]) -> Vec<String> {
    let line = |cell: &Cells<'_>| {
        let limited = limited(&cell.passes)?;
        let (words, shows) = (limit_words(limited.limited.by), evidence(&limited));
        Some(format!("{}, {words}: {shows}", cell.rig))
    };
    cells.iter().filter_map(line).collect()
}

/// Returns what is to be said of passes.
pub(super) fn notes(cells: &[Cells<'_>]) -> Vec<String> {
    let passes = || cells.iter().flat_map(|cell| &cell.passes);
    let mut notes = Vec::new();
    for pass in passes() {
        let (lap, digest) = (&pass.lap, &pass.digest);
        if !digest.cut.is_empty() {
            notes.push(format!("{lap}, cut: {}", digest.cut));
        }
        notes.extend(digest.played.map(|played| format!("{lap} {}", played_words(&played))));
        notes.extend(
            some_of(&pass.recorded.about.also)
                .map(|other| format!("{lap}: also presented, and not in it: {other}")),
        );
        if digest.cut.is_empty() {
            let found = proposals_of(&pass.recorded.pass);
            notes.extend(
                found.iter().map(|found| crate::sheet::imported::proposed(found, Some(lap))),
            );
        }
    }
    for cell in cells {
        let busy = cell.passes.iter().filter(|pass| pass.counts());
        let busy: Vec<&Busy> = busy.filter_map(|pass| pass.digest.busy.as_ref()).collect();
        notes.extend(uncapped(cell.rig, &busy));
    }
    notes
}

/// Returns how a pass held the rate of what it played.
pub(super) fn played_words(played: &Played) -> String {
    if played.late + played.dropped == 0 {
        return format!("holds real time: all {} frames on time", played.due);
    }
    let late = if played.late > 0 { format!(", {} late", played.late) } else { String::new() };
    // 99.96 % is not all of them: rounded towards what is wrong.
    let share = (played.on_time() * 1_000.0).floor() / 10.0;
    let missed = format!("{} of {} dropped{late}", played.dropped, played.due);
    format!("real time: {} % of frames on time; {missed}", fixed(share, 1))
}

/// Returns what the work behind the frames would allow.
pub(super) fn uncapped(rig: &str, passes: &[&Busy]) -> Option<String> {
    let first = passes.first()?;
    let rate = passes.iter().map(|busy| busy.rate).sum::<f64>() / passes.len() as f64;
    let of = match (first.processor, first.graphics) {
        (true, true) => "processor and graphics card",
        (true, false) => "the processor",
        _ => "the graphics card",
    };
    let mut said = Vec::new();
    let mut at: Vec<(f64, f64, f64)> = Vec::new();
    for (place, holds) in first.at.iter().enumerate() {
        // The worst pass decides what is held.
        let spare = passes.iter().map(|busy| busy.at[place].spare).fold(f64::INFINITY, f64::min);
        let missed = passes.iter().map(|busy| busy.at[place].missed).fold(0.0, f64::max);
        at.push((holds.hz, spare, missed));
    }
    if let Some((hz, spare, _)) = at.iter().rev().find(|(_, spare, _)| *spare >= 0.0) {
        said.push(format!("it would hold {hz} Hz with {} % to spare", fixed(spare * 100.0, 0)));
    }
    if let Some((hz, _, missed)) = at.iter().find(|(_, spare, _)| *spare < 0.0) {
        said.push(format!("{hz} Hz would be missed on {} % of frames", fixed(missed * 100.0, 0)));
    }
    Some(format!(
        "{rig}, uncapped rate {} fps by the busy times of {of}: {}",
        fixed(rate, 0),
        listed(&said)
    ))
}
