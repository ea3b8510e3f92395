//! `lap show LAP`: one lap in full.

use super::remarks::kind_words;
use super::sessions::minute;
use super::time_cell::time_cell;
use crate::number::{percent, significant};
use crate::table::{Cell, Column, Group, Layout, Role, Sheet, Show, Value};
use crate::words::limited_words;
use crate::words::{lap_of, lap_time, reading_words, time_read};
use honest_lap_core::lab::LapFacts;
use honest_lap_core::lab::limit;
use honest_lap_core::record::LapPage;
use honest_lap_core::record::{
    Captured, LapBody, LapHead, MeterSum, Mode, Outcome, Produced, QuantitySummary, RecordedPass,
    Remark, Sampled, Subject, TreeKept, TreeMemory, plain_lines,
};
use honest_lap_core::unit::{Nanos, display_count, display_size, display_span};

/// Lines of output that people see of each end of a stream.
const LINES: usize = 20;

/// Returns the sheet of one lap.
pub fn lap(page: &LapPage, threads: Option<u32>, remarks: &[Remark]) -> Sheet {
    let (head, body) = (&page.head, &page.body);
    let mut fields = [
        what(head, body),
        frames(body),
        how(head, body),
        conditions(body),
        vec![limited_by(head, body, threads)],
        sampled(&body.conditions.sampled),
    ]
    .concat();
    for (column, cell) in &mut fields {
        let nothing = cell.value == Value::Missing || cell.value == Value::List(Vec::new());
        // A lap without a signal or a left-over needs no line that says so; an unknown
        // condition does.
        if nothing && QUIET_IF_NOTHING.contains(&&*column.key) {
            column.show = Show::Machines;
        }
    }
    let (columns, cells): (Vec<Column>, Vec<Cell>) = fields.into_iter().unzip();
    let record = Group {
        heading: None,
        lead: Vec::new(),
        columns,
        rows: vec![cells],
        layout: Layout::Record,
        drawing: Vec::new(),
        notes: said(head, remarks)
            .into_iter()
            .chain(output(&body.stdout, "standard output"))
            .chain(output(&body.stderr, "standard error"))
            .collect(),
    };
    Sheet {
        schema: "honest-lap/lap",
        version: 3,
        title: Some(format!("lap {} · {}", head.name, lap_of(&head.workload, &head.settings))),
        lead: Vec::new(),
        groups: vec![record],
        notes: Vec::new(),
    }
}

const QUIET_IF_NOTHING: [&str; 16] = [
    "modes",
    "limited_by",
    "also_presented",
    "frame_log",
    "frames_read_as",
    "frames_left_out",
    "marks",
    "frames",
    "reason",
    "exit_code",
    "signal",
    "produced",
    "left_behind",
    "readings",
    "counted_ns",
    "step_ns",
];

type Field = (Column, Cell);

fn what(head: &LapHead, body: &LapBody) -> Vec<Field> {
    let counts = match (head.counts(), head.warm_up, head.outcome) {
        (true, _, Outcome::ReadingFailed) => "not counted, but for what could be read",
        (true, ..) => "counted",
        _ if head.set_aside.is_some() => "not counted: set aside",
        (_, true, Outcome::Done) => "not counted: a warm-up",
        _ => "not counted: not done",
    };
    let failed = head.outcome != Outcome::Done;
    let role = if failed { Role::Failed } else { Role::Plain };
    vec![
        (Column::machine("lap"), Cell::text(head.name.to_string())),
        (Column::machine("workload"), Cell::text(&head.workload)),
        (Column::machine("variant"), Cell::text(head.settings.to_string())),
        (Column::machine("warm_up"), Cell::flag(head.warm_up)),
        (
            Column::text("outcome", "outcome"),
            Cell::text(head.outcome.word()).shown(head.outcome.phrase()).role(role),
        ),
        (Column::text("counts", "in the sums"), Cell::text(counts)),
        (
            Column::text("wall_ns", if failed { "lasted" } else { "time" }),
            Cell::or_missing(head.wall, |wall| time_cell(wall, time_read(wall, head.step))),
        ),
        (
            Column::text("counted_ns", "of it counts"),
            Cell::or_missing(head.parts, |parts| time_cell(parts, lap_time(parts))),
        ),
        (
            Column::text("step_ns", "read to the nearest"),
            Cell::or_missing(head.step, |step| time_cell(step, display_span(step))),
        ),
        (
            Column::text("readings", "read"),
            Cell::list(head.readings.iter().map(reading_words).collect()),
        ),
        (Column::text("reason", "because"), Cell::or_missing(body.reason.clone(), Cell::text)),
        (Column::text("started", "started"), Cell::text(&body.started)),
        (Column::text("round", "round"), Cell::whole(u64::from(head.round))),
    ]
}

/// Returns where the frames of a pass come from, and what its log held besides.
fn frames(body: &LapBody) -> Vec<Field> {
    let about = body.pass.as_ref().map(|pass| &pass.about);
    let marks = about.map(|about| about.marks.iter().map(|mark| mark.name.clone()).collect());
    let seconds = |pass: &RecordedPass| Nanos(pass.pass.shown.iter().sum());
    vec![
        (
            Column::text("frames", "frames"),
            Cell::or_missing(body.pass.as_deref(), |pass| {
                let (n, time) = (pass.pass.shown.len(), seconds(pass));
                Cell::whole(n as u64).shown(format!("{} in {}", display_count(n), lap_time(time)))
            }),
        ),
        (Column::text("frame_log", "log"), Cell::or_missing(about, |about| Cell::text(&about.log))),
        (
            Column::text("frames_read_as", "read as"),
            Cell::or_missing(about, |about| Cell::text(&about.read_as)),
        ),
        (
            Column::text("frames_left_out", "left out"),
            Cell::list(about.map(|about| about.faults.words()).unwrap_or_default()),
        ),
        (Column::text("marks", "marks"), Cell::list(marks.unwrap_or_default())),
        (
            Column::text("also_presented", "also presented"),
            Cell::list(about.map(|about| about.also.clone()).unwrap_or_default()),
        ),
    ]
}

fn how(head: &LapHead, body: &LapBody) -> Vec<Field> {
    let usage = body.usage;
    let used = |of: Option<Nanos>| Cell::or_missing(of, |time| time_cell(time, lap_time(time)));
    let signed =
        |n: Option<i32>| Cell::or_missing(n, |n| Cell::number(f64::from(n), n.to_string()));
    // As a shell would need it; only a NUL byte cannot be quoted, and no word that ran holds one.
    let command = shlex::try_join(body.command.iter().map(String::as_str)).unwrap_or_default();
    vec![
        (Column::text("command", "command"), Cell::list(body.command.clone()).shown(command)),
        (Column::text("folder", "folder"), Cell::text(&body.folder)),
        (Column::text("exit_code", "exit code"), signed(body.exit_code)),
        (Column::text("signal", "signal"), signed(body.signal)),
        (Column::text("user_ns", "user time"), used(usage.map(|u| u.user))),
        (Column::text("system_ns", "system time"), used(usage.map(|u| u.system))),
        (
            Column::text("peak_bytes", "peak memory"),
            Cell::or_missing(usage, |u| {
                let floor = u.peak_bytes <= u.peak_floor_bytes;
                let size = display_size(u.peak_bytes);
                let text = if floor { format!("at most {size}") } else { size };
                Cell::whole(u.peak_bytes).shown(text)
            }),
        ),
        (
            Column::machine("peak_floor_bytes"),
            Cell::or_missing(usage, |u| Cell::whole(u.peak_floor_bytes)),
        ),
        (
            Column::text("produced", "produced"),
            Cell::list(body.produced.iter().map(produced).collect()),
        ),
        (Column::text("left_behind", "left behind"), left_behind(&body.left_behind)),
        (Column::machine("task"), Cell::whole(u64::from(head.task))),
    ]
}

/// Returns what outlived the lap, each as what became of it: what would not end says so itself.
fn left_behind(names: &[String]) -> Cell {
    let became = |name: &String| match name.ends_with(')') {
        true => name.clone(),
        false => format!("{name} (ended)"),
    };
    let shown = names.iter().map(became).collect::<Vec<_>>().join(", ");
    let cell = Cell::list(names.to_vec());
    if names.is_empty() { cell } else { cell.shown(shown) }
}

fn conditions(body: &LapBody) -> Vec<Field> {
    let seen = &body.conditions;
    let size = |bytes: Option<u64>| {
        Cell::or_missing(bytes, |bytes| Cell::whole(bytes).shown(display_size(bytes)))
    };
    let time =
        |span: Option<Nanos>| Cell::or_missing(span, |span| time_cell(span, display_span(span)));
    vec![
        (Column::text("modes", "set to"), Cell::list(seen.modes.iter().map(mode).collect())),
        (Column::text("others_cpu_ns", "others used"), time(seen.others_cpu)),
        (
            Column::text("memory_available_bytes", "memory free before"),
            size(seen.memory_available_bytes),
        ),
        (Column::text("swap_used_bytes", "swap used before"), size(seen.swap_used_bytes)),
        (
            Column::text("load_1min", "load before"),
            Cell::or_missing(seen.load_1min, |load| Cell::number(load, format!("{load:.2}"))),
        ),
        (Column::text("slept_ns", "machine slept"), time(seen.slept)),
        (Column::machine("stdout_bytes"), Cell::whole(body.stdout.total)),
        (Column::machine("stderr_bytes"), Cell::whole(body.stderr.total)),
        (Column::machine("stdout_lines"), Cell::list(lines(&body.stdout))),
        (Column::machine("stderr_lines"), Cell::list(lines(&body.stderr))),
    ]
}

/// Returns how the program was set by one of its modes.
fn mode(mode: &Mode) -> String {
    let values: Vec<&str> = mode.values().collect();
    let known = values.join(", then ");
    match (&mode.unknown, values.is_empty()) {
        (None, true) => format!("{}: not told", mode.name),
        (None, false) => format!("{}: {known}", mode.name),
        (Some(why), true) => format!("{}: not told, since {why}", mode.name),
        (Some(why), false) => format!("{}: {known}; by the end not told, since {why}", mode.name),
    }
}

/// Returns what the conditions show to have limited the lap, where anything stands out.
fn limited_by(head: &LapHead, body: &LapBody, threads: Option<u32>) -> Field {
    let words = limit(&LapFacts::of(body), head.wall, threads).map(|found| limited_words(&found));
    (Column::text("limited_by", "limited by"), Cell::or_missing(words, Cell::text))
}

/// Returns what was seen while the lap ran; what the machine does not show is left to programs.
fn sampled(seen: &Sampled) -> Vec<Field> {
    let number = |value: Option<f64>, unit: &str| {
        Cell::or_missing(value, |v| Cell::number(v, with_unit(v, unit)))
    };
    let size = |bytes: Option<u64>| {
        Cell::or_missing(bytes, |bytes| Cell::whole(bytes).shown(display_size(bytes)))
    };
    let time =
        |span: Option<Nanos>| Cell::or_missing(span, |span| time_cell(span, display_span(span)));
    let text = |text: &Option<String>| Cell::or_missing(text.clone(), Cell::text);
    let went = |course: Option<QuantitySummary>, unit: &str| {
        Cell::or_missing(course, |c| {
            let way = format!(
                "{} → {}, at most {}",
                with_unit(c.first, unit),
                with_unit(c.last, unit),
                with_unit(c.most, unit)
            );
            Cell::number(c.mean, way)
        })
    };
    let share = |value: f64| percent(value);
    let mut fields = vec![
        (
            Column::text("tree_peak_bytes", "memory of its tree"),
            Cell::or_missing(seen.tree_peak_bytes, |bytes| {
                let size = display_size(bytes);
                let shown = match seen.tree_peak_by {
                    Some(TreeMemory::ControlGroup) => {
                        format!("at least {size}, shared pages counted once")
                    }
                    Some(TreeMemory::ResidentSets) => {
                        format!("at least {size}, shared pages counted for each process")
                    }
                    None => format!("at least {size}"),
                };
                Cell::whole(bytes).shown(shown)
            }),
        ),
        (
            Column::text("tree", "processes held by"),
            Cell::or_missing(seen.tree, |tree| {
                Cell::text(match tree {
                    TreeKept::ControlGroup => "a control group",
                    TreeKept::Parentage => "parentage; no control group could be made",
                })
            }),
        ),
        (
            Column::text("cores_busy", "cores busy"),
            Cell::or_missing(seen.cores_busy, |n| Cell::number(n, significant(n, 3))),
        ),
        (
            Column::text("busiest_core", "busiest core"),
            Cell::or_missing(seen.busiest_core, |use_of| Cell::number(use_of, share(use_of))),
        ),
        (Column::text("clock_mhz", "clock of the cores"), went(seen.clock_mhz, "MHz")),
        (Column::text("temperature_c", "hottest sensor"), went(seen.temperature_c, "°C")),
        (Column::text("fan_rpm", "fastest fan"), went(seen.fan_rpm, "rpm")),
        (Column::text("power_w", "power"), went(seen.power_w, "W")),
        (Column::text("energy_j", "energy"), number(seen.energy_j, "J")),
        (
            Column::text("on_mains", "power source"),
            Cell::or_missing(seen.on_mains, |mains| {
                Cell::flag(mains).shown(if mains { "mains" } else { "battery" })
            }),
        ),
        (
            Column::text("battery", "battery"),
            Cell::or_missing(seen.battery, |c| {
                Cell::number(c.mean, format!("{} → {}", share(c.first), share(c.last)))
            }),
        ),
        (
            Column::text("battery_energy_j", "taken from the battery"),
            number(seen.battery_energy_j, "J"),
        ),
        (
            Column::text("brightness", "screen brightness"),
            Cell::or_missing(seen.brightness, |of| Cell::number(of, share(of))),
        ),
        (
            Column::text("graphics_use", "graphics use"),
            Cell::or_missing(seen.graphics_use, |c| Cell::number(c.mean, share(c.mean))),
        ),
        (
            Column::text("graphics_memory_bytes", "graphics memory"),
            size(seen.graphics_memory_bytes.map(|c| c.most.max(0.0) as u64)),
        ),
        (
            Column::text("graphics_clock_mhz", "graphics clock"),
            went(seen.graphics_clock_mhz, "MHz"),
        ),
        (Column::text("swapped_bytes", "swapped"), size(seen.swapped_bytes)),
        (
            Column::text("memory_available_least_bytes", "least memory free"),
            size(seen.memory_available_least_bytes),
        ),
        (
            Column::text("stalled_processor_ns", "waited for a processor"),
            time(seen.stalled_processor),
        ),
        (Column::text("stalled_memory_ns", "waited for memory"), time(seen.stalled_memory)),
        (Column::text("stalled_disk_ns", "waited for a disk"), time(seen.stalled_disk)),
        (Column::text("governor", "governor"), text(&seen.governor)),
        (Column::text("power_profile", "power profile"), text(&seen.power_profile)),
        (
            Column::text("samples", "samples"),
            Cell::or_missing(seen.samples, |n| Cell::whole(u64::from(n))),
        ),
        (
            Column::text("meters", "outside meters"),
            Cell::list(seen.meters.iter().map(meter).collect()),
        ),
    ];
    let absent: Vec<String> = fields
        .iter()
        .filter(|(column, cell)| {
            cell.value == Value::Missing
                && !["samples", "tree", "tree_peak_bytes"].contains(&&*column.key)
        })
        .map(|(column, _)| column.title.clone())
        .collect();
    for (column, cell) in &mut fields {
        let nothing = cell.value == Value::Missing || cell.value == Value::List(Vec::new());
        if nothing {
            column.show = Show::Machines;
        }
    }
    // One line instead of one for each: absent is told, and is no 0.
    let absent = absent.join(", ");
    let mut told = Column::text("absent", "not shown by this machine").people();
    if seen.samples.is_none() || absent.is_empty() {
        told.show = Show::Machines;
    }
    fields.push((told, Cell::text(absent)));
    fields
}

fn meter(sum: &MeterSum) -> String {
    let (mean, most) =
        (with_unit(sum.course.mean, &sum.unit), with_unit(sum.course.most, &sum.unit));
    format!("{}: {mean} in the mean, at most {most}", sum.name)
}

fn with_unit(value: f64, unit: &str) -> String {
    format!(
        "{} {unit}",
        if value.abs() >= 1000.0 { format!("{value:.0}") } else { significant(value, 3) }
    )
}

/// Returns what people said of the lap.
fn said(head: &LapHead, remarks: &[Remark]) -> Vec<String> {
    let here = |remark: &&Remark| remark.subject == Subject::Lap(head.name.clone());
    let line = |remark: &Remark| {
        format!("{} ({}): {}", kind_words(remark.kind), minute(&remark.made), remark.text)
    };
    remarks.iter().filter(here).map(line).collect()
}

fn produced(produced: &Produced) -> String {
    match (&produced.bytes, &produced.sha256) {
        (None, _) => format!("{}: missing", produced.file),
        (Some(bytes), None) => format!("{}: {}", produced.file, display_size(*bytes)),
        (Some(bytes), Some(sum)) => {
            let short = sum.get(..12).unwrap_or(sum);
            format!("{}: {}, SHA-256 {short}…", produced.file, display_size(*bytes))
        }
    }
}

/// Returns what a stream carried, for people: its first and last lines.
fn output(stream: &Captured, name: &str) -> Vec<String> {
    if stream.total == 0 {
        return Vec::new();
    }
    let lines = lines(stream);
    let mut said = vec![format!("{name}, {}:", display_size(stream.total))];
    if lines.len() <= 2 * LINES {
        said.extend(lines);
    } else {
        said.extend_from_slice(&lines[..LINES]);
        said.push(format!("… {} lines not shown", lines.len() - 2 * LINES));
        said.extend_from_slice(&lines[lines.len() - LINES..]);
    }
    said
}

/// Returns the kept lines of a stream, with a line where some were not kept.
fn lines(stream: &Captured) -> Vec<String> {
    let kept = (stream.head.len() + stream.tail.len()) as u64;
    if stream.total <= kept {
        return plain_lines(&[stream.head.as_slice(), &stream.tail].concat());
    }
    let mut lines = plain_lines(&stream.head);
    lines.push(format!("… {} not kept …", display_size(stream.total - kept)));
    lines.extend(plain_lines(&stream.tail));
    lines
}
