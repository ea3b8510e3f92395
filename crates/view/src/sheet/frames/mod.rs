//! `lap frames`: every measure of every pass, and a strip of each.

mod cells;
mod notes;
mod passes;
mod strips;

use cells::{Cells, cells_of, limited, seen, seen_cell, value};
use notes::{TOO_SHORT, limits, notes, played_whole, too_short};
pub use passes::{FramedWorkload, ShownPass};
use strips::strips;

use super::field_key;
use crate::number::fixed;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{count, lap_of, limit_words};
use honest_lap_core::frame;
use honest_lap_core::lab::{CellLimited, Limited, known_conditions};
use honest_lap_core::record::{Measure, Reading, Settings};
use honest_lap_core::unit::Nanos;

type Shown = (&'static str, &'static str, &'static str, f64, usize);

/// The measures of playback that have a column where something is played, likewise.
const PLAYED: [Shown; 2] =
    [("plays on time", "plays on time", "%", 1.0, 1), ("dropped frames", "dropped", "", 1.0, 0)];
/// The measures that have a column: name, heading, unit, what turns it into that unit, decimals.
const SHOWN: [Shown; 11] = [
    (frame::AVERAGE_RATE, "average", "fps", 1.0, 1),
    (frame::LOW_1, "low 1%", "fps", 1.0, 1),
    ("low 0.1%", "low 0.1%", "fps", 1.0, 1),
    ("median frame", "median", "ms", 1e3, 2),
    ("99% frame", "99%", "ms", 1e3, 2),
    ("worst frame", "worst", "ms", 1e3, 1),
    (frame::HITCHES_A_MINUTE, "hitches", "1/min", 1.0, 1),
    ("frame change", "change", "ms", 1e3, 2),
    ("over budget", "over budget", "%", 1.0, 1),
    ("missed refreshes", "missed", "", 1.0, 0),
    ("on time", "on time", "%", 1.0, 1),
];
/// When a column is left out for want of width; those not named never are.
const SPARE: [(&str, u8); 6] = [
    ("frame change", 1),
    ("missed refreshes", 2),
    ("on time", 3),
    ("low 0.1%", 4),
    ("median frame", 5),
    ("over budget", 8),
];

/// Returns the sheet of passes with all workloads in one table ahead of it, where there are several.
pub fn frames_listed(title: Option<&str>, workloads: &[FramedWorkload]) -> Sheet {
    let mut sheet = frames(title, workloads);
    sheet.groups.splice(0..0, list(workloads));
    sheet
}

/// Returns the sheet of passes.
pub fn frames(title: Option<&str>, workloads: &[FramedWorkload]) -> Sheet {
    let none = workloads.iter().all(|workload| workload.passes.is_empty());
    Sheet {
        schema: "honest-lap/frames",
        version: 1,
        title: title.map(str::to_owned),
        lead: match none {
            true => vec!["No passes yet: lap import FILE… --rig NAME".to_owned()],
            false => Vec::new(),
        },
        groups: workloads.iter().flat_map(tables).collect(),
        notes: match none {
            true => Vec::new(),
            false => vec![
                "A rate is frames over time. low 1% is the rate at the 99th percentile frame time. A \
                 hitch takes more than twice the median of the 31 frames around it and 8 ms more. \
                 Passes are compared by: lap compare. Drawn by: lap plot."
                    .to_owned(),
            ],
        },
    }
}

/// Returns a table of all workloads, a line a cell, where there are several.
fn list(workloads: &[FramedWorkload]) -> Option<Group> {
    if workloads.len() < 2 {
        return None;
    }
    let columns = vec![
        Column::text("workload", "workload"),
        Column::text("rig", "rig"),
        Column::figure("passes", "passes").spare(1),
        Column::figure("average_rate_fps", "average").unit("fps"),
        Column::figure("low_1_fps", "low 1%").unit("fps"),
        Column::figure("hitches_per_min", "hitches").unit("1/min"),
        Column::figure("use_percent", USE).unit("%").spare(3),
        Column::figure("graphics_use_percent", "graphics").unit("%").spare(4),
        Column::text("capped_hz", "cap"),
        Column::text("limited_by", "limited by").spare(2),
    ];
    let rows = workloads.iter().flat_map(|workload| {
        variants(workload).into_iter().flat_map(move |settings| {
            let of = lap_of(&workload.name, settings);
            cells_of(workload, settings).into_iter().map(move |cell| line(&of, &cell))
        })
    });
    Some(Group::of(columns, rows.collect()))
}

/// Returns a cell's line among all workloads.
fn line(of: &str, cell: &Cells<'_>) -> Vec<Cell> {
    let figure = |name: &str| {
        let found = cell.summed.as_ref().and_then(|summed| value(summed, name));
        Cell::or_missing(found, |value| Cell::number(value, fixed(value, 1)))
    };
    let counted = || cell.passes.iter().filter(|pass| pass.counts());
    let limited = limited(&cell.passes).map(|limited| limit_words(limited.limited.by));
    let cap = counted().find_map(|pass| pass.digest.cap);
    vec![
        Cell::text(of),
        Cell::text(cell.rig),
        Cell::whole(counted().count() as u64),
        figure(frame::AVERAGE_RATE),
        figure(frame::LOW_1),
        figure(frame::HITCHES_A_MINUTE),
        seen(&cell.passes, USE),
        seen(&cell.passes, GRAPHICS_USE),
        Cell::or_missing(cap, |cap| {
            Cell::number(cap.hz, format!("{} Hz", cap.hz)).role(Role::Open)
        }),
        Cell::or_missing(limited, Cell::text),
    ]
}

/// The conditions that have a column for people.
const USE: &str = "use";
const GRAPHICS_USE: &str = "graphics use";

fn variants(workload: &FramedWorkload) -> Vec<&Settings> {
    let mut variants: Vec<&Settings> = workload.passes.iter().map(|pass| &pass.settings).collect();
    variants.sort();
    variants.dedup();
    variants
}

/// Returns a table for every variant of a workload.
fn tables(workload: &FramedWorkload) -> Vec<Group> {
    variants(workload).into_iter().map(|settings| table(workload, settings)).collect()
}

fn table(workload: &FramedWorkload, settings: &Settings) -> Group {
    let cells = cells_of(workload, settings);
    let against = || cells.iter().flat_map(|cell| &cell.passes).map(|pass| pass.digest.against);
    let display = against().find_map(|against| against.display).map(|display| {
        let budget = fixed(display.budget_ns() / 1e6, 1);
        format!("Held against a display of {} Hz: a frame has {budget} ms.", display.hz)
    });
    let source = against().find_map(|against| against.plays_at);
    let has = |(name, ..): &&Shown| {
        let mut readings =
            cells.iter().flat_map(|cell| &cell.passes).flat_map(|pass| pass.digest.readings());
        readings.any(|reading| reading.name == *name && reading.value.is_some())
    };
    // A measure that every pass is too short for is a note and no column; programs get all of them.
    let is_short = |(name, ..): &&&Shown| TOO_SHORT.iter().any(|(short, _)| short == name);
    let shown: Vec<&Shown> = SHOWN.iter().chain(&PLAYED).collect();
    let lacking: Vec<&'static str> =
        shown.iter().filter(|one| is_short(one) && !has(one)).map(|(name, ..)| *name).collect();
    // What is played is judged by the rate of its source.
    let verdicts = source.iter().flat_map(|_| cells.iter().filter_map(played_whole));
    let lead = verdicts.chain(display).chain(source.map(|rate| {
        format!("The source has {rate} frames a second: each has its turn to be shown.")
    }));
    let named = |(name, title, unit, ..): &&Shown| {
        let column = Column::figure(key(name), *title);
        let column = if unit.is_empty() { column } else { column.unit(*unit) };
        // Programs get all of them, so that tables of several workloads are one.
        let unplayed = source.is_none() && PLAYED.iter().any(|(played, ..)| played == name);
        if unplayed || lacking.contains(name) {
            return Column::machine(column.key);
        }
        match SPARE.iter().find(|(spare, _)| spare == name) {
            Some((_, rank)) => column.spare(*rank),
            None => column,
        }
    };
    let mut columns = vec![
        Column::text("pass", "pass").people(),
        Column::machine("workload"),
        Column::machine("rig"),
        Column::machine("variant"),
        Column::machine("lap"),
        Column::machine("passes"),
    ];
    columns.extend(shown.iter().map(named));
    columns.push(Column::figure("between_percent", "between").unit("%").spare(6));
    columns.push(Column::figure("within_percent", "within").unit("%").spare(7));
    columns.push(Column::machine("cut"));
    let all = || cells.iter().flat_map(|cell| &cell.passes);
    for measure in known_conditions() {
        let key = field_key(&measure.name, &measure.unit);
        let known = all().any(|pass| pass.condition(&measure.name).is_some());
        columns.push(match (measure.name.as_str(), known) {
            (USE, true) => Column::figure(key, USE).unit("%").spare(0),
            (GRAPHICS_USE, true) => Column::figure(key, "graphics").unit("%").spare(0),
            _ => Column::machine(key),
        });
    }
    columns.push(Column::machine("limited_by"));
    let mut rows = Vec::new();
    rows.extend(cells.iter().map(|cell| cell_row(workload, settings, cell, &shown)));
    for cell in &cells {
        rows.extend(cell.passes.iter().map(|pass| pass_row(workload, settings, pass, &shown)));
    }
    Group {
        heading: Some(lap_of(&workload.name, settings)),
        lead: workload.about.iter().cloned().chain(lead).collect(),
        columns,
        rows,
        layout: Layout::Table,
        drawing: strips(&cells.iter().flat_map(|cell| &cell.passes).copied().collect::<Vec<_>>()),
        notes: too_short(&cells).into_iter().chain(notes(&cells)).chain(limits(&cells)).collect(),
    }
}

/// Returns the field's name for programs.
fn key(name: &str) -> &'static str {
    match name {
        frame::AVERAGE_RATE => "average_rate_fps",
        frame::LOW_1 => "low_1_fps",
        "low 0.1%" => "low_01_fps",
        "median frame" => "median_frame_ms",
        "99% frame" => "p99_frame_ms",
        "worst frame" => "worst_frame_ms",
        frame::HITCHES_A_MINUTE => "hitches_per_min",
        "frame change" => "frame_change_ms",
        "over budget" => "over_budget_percent",
        "missed refreshes" => "missed_refreshes",
        "plays on time" => "plays_on_time_percent",
        "dropped frames" => "dropped_frames",
        _ => "on_time_percent",
    }
}

fn cell_row(
    workload: &FramedWorkload,
    settings: &Settings,
    cell: &Cells<'_>,
    shown: &[&Shown],
) -> Vec<Cell> {
    let passes = cell.summed.as_ref().map_or(0, |summed| summed.passes);
    let words = match passes {
        0 => format!("{}: no pass counts", cell.rig),
        n => format!("{}: {}", cell.rig, count(n, "pass")),
    };
    let mut cells = vec![
        Cell::text(words).role(Role::Heading),
        Cell::text(&workload.name),
        Cell::text(cell.rig),
        Cell::text(settings.to_string()),
        Cell::missing(),
        Cell::whole(passes as u64),
    ];
    let figure = |(name, _, _, factor, digits): &&Shown| {
        let value = cell.summed.as_ref().and_then(|summed| value(summed, name));
        Cell::or_missing(value, |value| {
            Cell::number(value * factor, fixed(value * factor, *digits)).role(Role::Heading)
        })
    };
    cells.extend(shown.iter().map(figure));
    let share = |share: Option<f64>| {
        Cell::or_missing(share, |share| Cell::number(share * 100.0, fixed(share * 100.0, 1)))
    };
    cells.push(share(cell.summed.as_ref().and_then(|summed| summed.between)));
    cells.push(share(cell.summed.as_ref().and_then(|summed| summed.within)));
    cells.push(Cell::missing());
    let conditions = known_conditions();
    cells.extend(conditions.iter().map(|measure| seen(&cell.passes, &measure.name)));
    let words = |limited: CellLimited| Cell::text(limit_words(limited.limited.by));
    cells.push(Cell::or_missing(limited(&cell.passes), words));
    cells
}

fn pass_row(
    workload: &FramedWorkload,
    settings: &Settings,
    pass: &ShownPass,
    shown: &[&Shown],
) -> Vec<Cell> {
    let role = if pass.counts() { Role::Plain } else { Role::Quiet };
    let note = match (pass.set_aside, pass.warm_up, pass.digest.cut.is_empty()) {
        (true, ..) => " (set aside)",
        (_, true, _) => " (warm-up)",
        (.., false) => " (cut)",
        (false, false, true) => "",
    };
    let mut cells = vec![
        Cell::text(format!("  {}{note}", pass.lap)).role(role),
        Cell::text(&workload.name),
        Cell::text(&pass.lap.session.rig),
        Cell::text(settings.to_string()),
        Cell::text(pass.lap.to_string()),
        Cell::whole(1),
    ];
    let readings = pass.digest.readings();
    let figure = |(name, _, _, factor, digits): &&Shown| {
        let found: Option<&Reading> = readings.iter().find(|reading| reading.name == *name);
        match found.map(|reading| reading.value) {
            Some(Some(value)) => Cell::number(value * factor, fixed(value * factor, *digits)),
            Some(None) => Cell::missing().shown("refused"),
            None => Cell::missing(),
        }
        .role(role)
    };
    cells.extend(shown.iter().map(figure));
    cells.push(Cell::missing());
    cells.push(Cell::or_missing(pass.digest.sums.cv, |cv| {
        Cell::number(cv * 100.0, fixed(cv * 100.0, 1)).role(role)
    }));
    cells.push(Cell::text(pass.digest.cut.to_string()));
    let seen = |measure: &Measure| pass.condition(&measure.name);
    let conditions = known_conditions();
    let seen = conditions.iter().map(|one| Cell::or_missing(seen(one), seen_cell).role(role));
    cells.extend(seen);
    let words = |(_, limited): &(Nanos, Limited)| Cell::text(limit_words(limited.by));
    cells.push(Cell::or_missing(pass.limited.as_ref(), words));
    cells
}
