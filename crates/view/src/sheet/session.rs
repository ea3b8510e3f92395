//! `lap show SESSION`: its rig as found, and every lap in the order run.

use super::remarks::kind_words;
use super::sessions::minute;
use super::time_cell::time_cell;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{count, display_number, reading_words, time_read};
use honest_lap_core::judge::is_minor;
use honest_lap_core::record::SessionPage;
use honest_lap_core::record::{
    LapHead, Origin, Outcome, Remark, RigFound, SessionAbout, SessionRecord, Subject,
};
use honest_lap_core::unit::display_size;

/// Returns the sheet of one session.
pub fn session(page: &SessionPage, laps: &[LapHead], remarks: &[Remark]) -> Sheet {
    let record = &page.record;
    let failed: usize = page.not_done.values().sum();
    let aside = match page.set_aside {
        0 => String::new(),
        n => format!("{n} set aside, "),
    };
    let mut lead = vec![format!(
        "{} counted, {} to warm up, {aside}{failed} not done.",
        count(page.counted, "lap"),
        page.warm_up
    )];
    let about = &record.about;
    match about.origin {
        Origin::Run => lead.push(machine(&record.found)),
        Origin::Entered | Origin::Clocked | Origin::Imported => lead.push(by_hand(about)),
    }
    let room = about.room_c.map(|c| format!("Room at {} °C.", display_number(c)));
    let parts = about.parts.iter().map(|(name, is)| format!("{name}: {is}"));
    lead.extend(room.into_iter().chain(parts).chain(about.remark.clone()));
    lead.extend(about.against.iter().map(|against| format!("When it began: {against}")));
    lead.extend(record.versions.iter().map(|version| {
        let line = version.line.as_deref().unwrap_or("not known: the command failed");
        format!("{} of {}: {line}", version.label, version.workload)
    }));
    Sheet {
        schema: "honest-lap/session",
        version: 2,
        title: Some(match record.about.on {
            Some(day) => format!("session {} · {day}", record.name),
            None => format!("session {} · {}", record.name, record.started),
        }),
        lead,
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("lap", "lap"),
                Column::text("workload", "workload"),
                Column::text("variant", "variant"),
                Column::figure("round", "round"),
                Column::machine("warm_up"),
                Column::figure("time_ns", "time"),
                Column::text("readings", "read").wrap(36).spare(1),
                Column::machine("wall_ns"),
                Column::text("outcome", "outcome"),
                Column::machine("counted"),
            ],
            rows: laps.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: remarked(record, laps, remarks),
        }],
        notes: vec![
            match about.origin {
                Origin::Run => {
                    format!("Order seeded with {}; run by lap {}.", record.seed, record.tool)
                }
                Origin::Entered | Origin::Clocked | Origin::Imported => {
                    let day = record.started.get(..10).unwrap_or(&record.started);
                    format!("Recorded {day} by lap {}.", record.tool)
                }
            },
            "One lap in full: lap show NAME".to_owned(),
        ],
    }
}

/// Returns who read the laps of a session, and from what.
fn by_hand(about: &SessionAbout) -> String {
    let how = match about.origin {
        Origin::Clocked => "Timed by hand with the tool's stopwatch",
        Origin::Imported => "Captured elsewhere and imported from logs",
        Origin::Entered | Origin::Run => "Read by hand",
    };
    let who = about.reader.as_ref().map(|who| format!(" by {who}")).unwrap_or_default();
    let from = about.source.as_ref().map(|from| format!(", from {from}")).unwrap_or_default();
    format!("{how}{who}{from}.")
}

/// Returns what people said of the session and its laps, in the order said.
fn remarked(record: &SessionRecord, laps: &[LapHead], remarks: &[Remark]) -> Vec<String> {
    let here = |subject: &Subject| match subject {
        Subject::Session(name) => *name == record.name,
        Subject::Lap(name) => laps.iter().any(|lap| lap.name == *name),
        Subject::Rig(_) | Subject::Workload(_) => false,
    };
    let said = remarks.iter().filter(|remark| here(&remark.subject));
    said.map(|remark| {
        let (kind, about) = (kind_words(remark.kind), &remark.subject);
        format!("{about}, {kind} ({}): {}", minute(&remark.made), remark.text)
    })
    .collect()
}

fn row(lap: &LapHead) -> Vec<Cell> {
    let done = lap.outcome == Outcome::Done;
    let outcome = match (done, lap.warm_up) {
        _ if lap.set_aside.is_some() => "set aside",
        (true, true) => "warm-up",
        _ => lap.outcome.phrase(),
    };
    let role = match lap.outcome {
        Outcome::Done if lap.warm_up || lap.set_aside.is_some() => Role::Quiet,
        Outcome::Done => Role::Plain,
        Outcome::Interrupted | Outcome::Lost => Role::Open,
        _ => Role::Failed,
    };
    let variant = lap.settings.to_string();
    vec![
        Cell::text(lap.name.to_string()),
        Cell::text(&lap.workload),
        if variant.is_empty() { Cell::missing() } else { Cell::text(variant) },
        Cell::whole(u64::from(lap.round)),
        Cell::flag(lap.warm_up),
        // How long a failed lap lasted is kept, and is no time of the work.
        Cell::or_missing(lap.time(), |time| {
            let text = if done { time_read(time, lap.step) } else { "–".to_owned() };
            time_cell(time, text)
        }),
        readings(lap),
        Cell::or_missing(lap.wall, |wall| Cell::whole(wall.0)),
        Cell::text(lap.outcome.word()).shown(outcome).role(role),
        Cell::flag(lap.counts()),
    ]
}

/// Returns what was read from a lap: of a pass, people see the two measures that are compared.
fn readings(lap: &LapHead) -> Cell {
    let all = Cell::list(lap.readings.iter().map(reading_words).collect());
    let shown = lap.readings.iter().filter(|reading| !is_minor(&reading.name));
    let shown: Vec<String> = shown.map(reading_words).collect();
    if shown.is_empty() { all } else { all.shown(shown.join("; ")) }
}

/// Returns the machine in a line; what is not known is not guessed.
fn machine(found: &RigFound) -> String {
    let cores = match (found.cores, found.threads) {
        (Some(cores), Some(threads)) if cores != threads => {
            Some(format!("{} ({threads} threads)", count(cores as usize, "core")))
        }
        (Some(cores), _) => Some(count(cores as usize, "core")),
        (None, Some(threads)) => Some(count(threads as usize, "thread")),
        (None, None) => None,
    };
    let parts = [
        found.processor.clone(),
        cores,
        found.memory_bytes.map(|bytes| format!("{} of memory", display_size(bytes))),
        found.system.clone(),
        found.kernel.clone(),
        found.governor.as_ref().map(|governor| format!("{governor} governor")),
    ];
    let known: Vec<String> = parts.into_iter().flatten().collect();
    if known.is_empty() {
        "The machine said nothing of itself.".to_owned()
    } else {
        known.join(" · ")
    }
}
