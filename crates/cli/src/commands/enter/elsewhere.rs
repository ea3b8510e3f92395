//! Numbers of others: added at the end of the study, apart from laps.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{OpenStudy, STUDY_FILE};
use crate::whole_file::write_whole;
use honest_lap_core::entry::Entry;
use honest_lap_core::record::{Better, Elsewhere, SECONDS, TIME};
use honest_lap_study::elsewhere_text;
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, lap_of, measured};

/// Adds what `entries` say, from `source`, to the study, which stays as it was written; a preview only tells.
pub(super) fn add(
    entries: &[Entry],
    source: &str,
    preview: bool,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let numbers: Vec<Elsewhere> = entries.iter().flat_map(|entry| numbers(entry, source)).collect();
    if preview {
        for one in &numbers {
            let (what, value) =
                (lap_of(&one.workload, &one.settings), measured(one.value, &one.unit));
            ctx.ui.say(Role::Plain, &format!("{}: {what}, {}: {value}", one.rig, one.measure));
        }
        return Ok(Exit::Done);
    }
    let path = open.folder.join(STUDY_FILE);
    let mut text =
        std::fs::read_to_string(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    let new: Vec<&Elsewhere> =
        numbers.iter().filter(|number| !open.study.elsewhere.contains(number)).collect();
    if !text.ends_with('\n') {
        text.push('\n');
    }
    for number in &new {
        text.push('\n');
        text.push_str(&elsewhere_text(number));
    }
    // Nothing is written that could not be read back.
    let wanted = open.study.elsewhere.len() + new.len();
    match honest_lap_study::read(&text) {
        Ok(study) if study.elsewhere.len() == wanted => {}
        _ => {
            return Err(CmdError::request(
                format!(
                    "{STUDY_FILE} would not be read back with these numbers; nothing was added"
                ),
                "is every name in the table one that a study can hold?",
            ));
        }
    }
    write_whole(&open.folder, &path, text.as_bytes())?;
    let known = match numbers.len() - new.len() {
        0 => String::new(),
        known => format!("; {known} were there already"),
    };
    let said = format!("{STUDY_FILE}: {} from elsewhere added{known}", count(new.len(), "number"));
    ctx.ui.say(Role::Plain, &said);
    ctx.ui.say(Role::Quiet, "next: lap compare");
    Ok(Exit::Done)
}

/// Returns what a row says, as numbers of others.
fn numbers(entry: &Entry, source: &str) -> Vec<Elsewhere> {
    let one = |measure: &str, unit: &str, better: Better, value: f64| Elsewhere {
        rig: entry.rig.clone(),
        workload: entry.workload.clone(),
        settings: entry.settings.clone(),
        measure: measure.to_owned(),
        better,
        value,
        unit: unit.to_owned(),
        source: source.to_owned(),
    };
    let time = entry.time.map(|(time, _)| one(TIME, SECONDS, Better::Less, time.seconds()));
    let read = entry.readings.iter().filter_map(|reading| {
        Some(one(&reading.name, &reading.unit, reading.better, reading.value?))
    });
    time.into_iter().chain(read).collect()
}
