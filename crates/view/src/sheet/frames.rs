//! `lap frames`: every measure of every pass, and a strip of each.

use crate::number::fixed;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet, strip};
use crate::words::{lap_of, listed, some_of};
use honest_lap_core::frame::{self, PassesSummed, envelope, passes_summed, proposals};
use honest_lap_core::record::{Busy, Digest, LapName, Played, Reading, RecordedPass, Settings};

/// Columns of a strip.
const STRIP: usize = 72;

/// A pass, as it is counted.
pub struct ShownPass {
    pub lap: LapName,
    pub settings: Settings,
    pub set_aside: bool,
    pub digest: Digest,
    pub recorded: RecordedPass,
}

/// The passes of a workload.
pub struct FramedWorkload {
    pub name: String,
    pub about: Option<String>,
    pub passes: Vec<ShownPass>,
}

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
const SPARE: [(&str, u8); 5] = [
    ("low 0.1%", 4),
    ("frame change", 1),
    ("missed refreshes", 2),
    ("on time", 3),
    ("median frame", 5),
];

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

/// Returns a table for every variant of a workload.
fn tables(workload: &FramedWorkload) -> Vec<Group> {
    let mut variants: Vec<&Settings> = workload.passes.iter().map(|pass| &pass.settings).collect();
    variants.sort();
    variants.dedup();
    variants.into_iter().map(|settings| table(workload, settings)).collect()
}

/// A rig with its passes, and what those that count come to.
struct Cells<'a> {
    rig: &'a str,
    passes: Vec<&'a ShownPass>,
    summed: Option<PassesSummed>,
}

fn table(workload: &FramedWorkload, settings: &Settings) -> Group {
    let here: Vec<&ShownPass> =
        workload.passes.iter().filter(|pass| pass.settings == *settings).collect();
    let mut rigs: Vec<&str> = here.iter().map(|pass| pass.lap.session.rig.as_str()).collect();
    rigs.sort_unstable();
    rigs.dedup();
    let cell = |rig: &&'_ str| {
        let passes: Vec<&ShownPass> =
            here.iter().copied().filter(|pass| pass.lap.session.rig == **rig).collect();
        let counted: Vec<&Digest> =
            passes.iter().filter(|pass| !pass.set_aside).map(|pass| &pass.digest).collect();
        Cells { rig: passes[0].lap.session.rig.as_str(), passes, summed: passes_summed(&counted) }
    };
    let mut cells: Vec<Cells<'_>> = rigs.iter().map(cell).collect();
    let rate = |cell: &Cells<'_>| {
        cell.summed.as_ref().map_or(0.0, |summed| value(summed, frame::AVERAGE_RATE).unwrap_or(0.0))
    };
    cells.sort_by(|a, b| rate(b).total_cmp(&rate(a)));
    let against = || here.iter().map(|pass| pass.digest.against);
    let display = against().find_map(|against| against.display).map(|display| {
        let budget = fixed(display.budget_ns() / 1e6, 1);
        format!("Held against a display of {} Hz: a frame has {budget} ms.", display.hz)
    });
    let source = against().find_map(|against| against.plays_at);
    let played = if source.is_some() { &PLAYED[..] } else { &[] };
    let shown: Vec<&Shown> = SHOWN.iter().chain(played).collect();
    let lead = display.into_iter().chain(source.map(|rate| {
        format!("Held against a source of {rate} frames a second: each has its turn to be shown.")
    }));
    let named = |(name, title, unit, ..): &&Shown| {
        let column = Column::figure(key(name), *title);
        let column = if unit.is_empty() { column } else { column.unit(*unit) };
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
    columns.push(Column::figure("between_percent", "between").unit("%"));
    columns.push(Column::figure("within_percent", "within").unit("%"));
    columns.push(Column::machine("cut"));
    let mut rows = Vec::new();
    for cell in &cells {
        rows.push(cell_row(workload, settings, cell, &shown));
        rows.extend(cell.passes.iter().map(|pass| pass_row(workload, settings, pass, &shown)));
    }
    Group {
        heading: Some(lap_of(&workload.name, settings)),
        lead: workload.about.iter().cloned().chain(lead).collect(),
        columns,
        rows,
        layout: Layout::Table,
        drawing: strips(&cells.iter().flat_map(|cell| &cell.passes).copied().collect::<Vec<_>>()),
        notes: notes(&cells),
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

fn value(summed: &PassesSummed, name: &str) -> Option<f64> {
    summed.values.iter().find(|(measure, _)| measure.name == name).map(|(_, value)| *value)
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
        1 => format!("{}: 1 pass", cell.rig),
        n => format!("{}: {n} passes", cell.rig),
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
    cells
}

fn pass_row(
    workload: &FramedWorkload,
    settings: &Settings,
    pass: &ShownPass,
    shown: &[&Shown],
) -> Vec<Cell> {
    let role = if pass.set_aside { Role::Quiet } else { Role::Plain };
    let note = match (pass.set_aside, pass.digest.cut.is_empty()) {
        (true, _) => " (set aside)",
        (false, false) => " (cut)",
        (false, true) => "",
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
    cells
}

/// Returns what is to be said of passes.
fn notes(cells: &[Cells<'_>]) -> Vec<String> {
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
        let least = digest.sums.low_1.is_none();
        if least {
            notes.push(format!(
                "{lap}: low 1% is refused: {} frames, and 1,000 are needed",
                digest.sums.frames
            ));
        }
        if digest.cut.is_empty() {
            let found = proposals(&pass.recorded.pass.shown);
            notes.extend(found.iter().map(|found| super::imported::proposed(found, Some(lap))));
        }
    }
    for cell in cells {
        let busy = cell.passes.iter().filter(|pass| !pass.set_aside);
        let busy: Vec<&Busy> = busy.filter_map(|pass| pass.digest.busy.as_ref()).collect();
        notes.extend(uncapped(cell.rig, &busy));
    }
    notes
}

/// Returns how a pass held the rate of what it played.
fn played_words(played: &Played) -> String {
    if played.late + played.dropped == 0 {
        return format!("holds real time: all {} frames on time", played.due);
    }
    let late = if played.late > 0 { format!(", {} late", played.late) } else { String::new() };
    // 99.96 % is not all of them: rounded towards what is wrong.
    let share = (played.on_time() * 1_000.0).floor() / 10.0;
    let missed = format!("{} of {} dropped{late}", played.dropped, played.due);
    format!("real time: {} % of frames on time; {missed}", fixed(share, 1))
}

fn strips(passes: &[&ShownPass]) -> Vec<String> {
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
        "The longest frame in each of {STRIP} slices of a pass; a full mark is {} ms or more:",
        fixed(top * 1e3, 1)
    )];
    for (pass, columns) in passes.iter().zip(&all) {
        let most: Vec<Option<f64>> = columns.iter().map(|c| c.map(|column| column.most)).collect();
        let seconds = fixed(pass.digest.sums.time.seconds(), 1);
        lines.push(format!("{:<width$} {} {seconds} s", pass.lap.to_string(), strip(&most, top)));
    }
    lines
}

/// Returns what the work behind the frames would allow.
fn uncapped(rig: &str, passes: &[&Busy]) -> Option<String> {
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
