//! `lap import --sheet`: wide tables as people keep them, as laps read by hand or as numbers of others.

use super::ImportArgs;
use crate::commands::enter::{TakeIn, take_in, told};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::hand_table::read_table;
use crate::study_file::{OpenStudy, STUDY_FILE};
use crate::whole_file::write_whole;
use honest_lap_core::entry::{Entry, wide_entries};
use honest_lap_core::record::{Better, Elsewhere, SECONDS, TIME};
use honest_lap_logbook::Logbook;
use honest_lap_study::elsewhere_text;
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, lap_of, measured};

pub fn run(args: &ImportArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut read = Vec::new();
    for path in &args.files {
        let (headings, rows) = read_table(path, ctx)?;
        let found = wide_entries(&open.study, &headings, &rows).map_err(|err| told(&err))?;
        read.extend(found);
    }
    let numbers: Vec<Elsewhere> = read.iter().flat_map(|entry| numbers(entry, args)).collect();
    if args.preview {
        for one in &numbers {
            let (what, value) =
                (lap_of(&one.workload, &one.settings), measured(one.value, &one.unit));
            ctx.ui.say(Role::Plain, &format!("{}: {what}, {}: {value}", one.rig, one.measure));
        }
        return Ok(Exit::Done);
    }
    if args.elsewhere.is_some() {
        return kept_apart(numbers, open, ctx);
    }
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let from = args.files.iter().map(|path| path.display().to_string()).collect::<Vec<_>>();
    let how = TakeIn {
        new_rig: args.new_rig,
        by: args.by.clone(),
        from: Some(from.join(", ")),
        sure: args.sure,
    };
    take_in(&read, existing, &how, open, ctx)
}

/// Returns what a cell says, as a number of others.
fn numbers(entry: &Entry, args: &ImportArgs) -> Vec<Elsewhere> {
    let one = |measure: &str, unit: &str, better: Better, value: f64| Elsewhere {
        rig: entry.rig.clone(),
        workload: entry.workload.clone(),
        settings: entry.settings.clone(),
        measure: measure.to_owned(),
        better,
        value,
        unit: unit.to_owned(),
        source: args.elsewhere.clone().unwrap_or_default(),
    };
    let time = entry.time.map(|(time, _)| one(TIME, SECONDS, Better::Less, time.seconds()));
    let read = entry.readings.iter().filter_map(|reading| {
        Some(one(&reading.name, &reading.unit, reading.better, reading.value?))
    });
    time.into_iter().chain(read).collect()
}

/// Adds numbers of others at the end of the study, which stays as it was written.
fn kept_apart(numbers: Vec<Elsewhere>, open: &OpenStudy, ctx: &Ctx) -> Result<Exit, CmdError> {
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
