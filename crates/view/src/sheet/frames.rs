//! `lap frames`: every measure of every pass, and a strip of each.

use super::compare::evidence;
use super::field_key;
use crate::number::{fixed, sampled};
use crate::table::{Cell, Column, Group, Layout, Role, Sheet, strip};
use crate::words::{count, lap_of, limit_words, listed, listed_in_short, some_of};
use honest_lap_core::frame::{self, PassesSummed, envelope, passes_summed, proposals_of};
use honest_lap_core::lab::{CellLimited, Limited, known_conditions, most_limited};
use honest_lap_core::record::{
    Busy, Digest, LapName, Measure, Played, Reading, RecordedPass, Settings,
};
use honest_lap_core::unit::Nanos;

/// Columns of a strip, and passes that are drawn so.
const STRIP: usize = 56;
const STRIPS: usize = 16;

/// A pass, as it is counted.
pub struct ShownPass {
    pub lap: LapName,
    pub settings: Settings,
    pub set_aside: bool,
    pub warm_up: bool,
    pub digest: Digest,
    pub recorded: RecordedPass,
    /// What the machine did meanwhile, as far as it is known.
    pub conditions: Vec<(Measure, f64)>,
    /// What limited it, and how long it took.
    pub limited: Option<(Nanos, Limited)>,
}

impl ShownPass {
    /// Returns whether it counts.
    pub fn counts(&self) -> bool {
        !self.set_aside && !self.warm_up
    }

    fn condition(&self, name: &str) -> Option<f64> {
        self.conditions.iter().find(|(measure, _)| measure.name == name).map(|(_, value)| *value)
    }
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

/// Returns a condition of the passes that count, in the mean.
fn seen(passes: &[&ShownPass], name: &str) -> Cell {
    let counted = passes.iter().filter(|pass| pass.counts());
    let known: Vec<f64> = counted.filter_map(|pass| pass.condition(name)).collect();
    let mean = known.iter().sum::<f64>() / known.len() as f64;
    Cell::or_missing(Some(mean).filter(|mean| mean.is_finite()), seen_cell)
}

fn seen_cell(value: f64) -> Cell {
    Cell::number(value, sampled(value))
}

/// Returns what limited most of the passes that count.
fn limited(passes: &[&ShownPass]) -> Option<CellLimited> {
    let counted = || passes.iter().filter(|pass| pass.counts());
    most_limited(counted().filter_map(|pass| pass.limited.clone()).collect(), counted().count())
}

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

/// A rig with its passes, and what those that count come to.
struct Cells<'a> {
    rig: &'a str,
    passes: Vec<&'a ShownPass>,
    summed: Option<PassesSummed>,
}

/// Returns the cells of a variant, the highest rate first.
fn cells_of<'a>(workload: &'a FramedWorkload, settings: &Settings) -> Vec<Cells<'a>> {
    let here: Vec<&ShownPass> =
        workload.passes.iter().filter(|pass| pass.settings == *settings).collect();
    let mut rigs: Vec<&str> = here.iter().map(|pass| pass.lap.session.rig.as_str()).collect();
    rigs.sort_unstable();
    rigs.dedup();
    let cell = |rig: &&'a str| {
        let passes: Vec<&ShownPass> =
            here.iter().copied().filter(|pass| pass.lap.session.rig == **rig).collect();
        let counted: Vec<&Digest> =
            passes.iter().filter(|pass| pass.counts()).map(|pass| &pass.digest).collect();
        Cells { rig, summed: passes_summed(&counted), passes }
    };
    let mut cells: Vec<Cells<'_>> = rigs.iter().map(cell).collect();
    let rate = |cell: &Cells<'_>| {
        cell.summed.as_ref().map_or(0.0, |summed| value(summed, frame::AVERAGE_RATE).unwrap_or(0.0))
    };
    cells.sort_by(|a, b| rate(b).total_cmp(&rate(a)));
    cells
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

/// How many frames a low needs.
const TOO_SHORT: [(&str, &str); 2] = [(frame::LOW_1, "1,000"), ("low 0.1%", "10,000")];

/// Returns which passes are too short for a low, in a line a measure.
fn too_short(cells: &[Cells<'_>]) -> Vec<String> {
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
fn played_whole(cell: &Cells<'_>) -> Option<String> {
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

/// Returns what limited each rig's passes, a line a cell.
fn limits(cells: &[Cells<'_>]) -> Vec<String> {
    let line = |cell: &Cells<'_>| {
        let limited = limited(&cell.passes)?;
        let (words, shows) = (limit_words(limited.limited.by), evidence(&limited));
        Some(format!("{}, {words}: {shows}", cell.rig))
    };
    cells.iter().filter_map(line).collect()
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
        if digest.cut.is_empty() {
            let found = proposals_of(&pass.recorded.pass);
            notes.extend(found.iter().map(|found| super::imported::proposed(found, Some(lap))));
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
