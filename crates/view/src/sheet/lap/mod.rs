//! `lap show LAP`: one lap in full.

mod cells;
mod conditions;
mod sampled;

use self::conditions::{conditions, limited_by};
use self::sampled::sampled;
use super::remarks::kind_words;
use super::sessions::minute;
use super::time_cell::time_cell;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet, Show, Value};
use crate::words::{lap_of, lap_time, reading_words, time_read};
use honest_lap_core::record::{
    Captured, LapBody, LapHead, LapPage, Outcome, Produced, RecordedPass, Remark, Subject,
    plain_lines,
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

const QUIET_IF_NOTHING: [&str; 20] = [
    "own_memory_wait_ns",
    "own_disk_wait_ns",
    "read_bytes",
    "written_bytes",
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
    // The system knows no negative ones.
    let code =
        |n: Option<i32>| Cell::or_missing(n.and_then(|n| u64::try_from(n).ok()), Cell::whole);
    // As a shell would need it; only a NUL byte cannot be quoted, and no word that ran holds one.
    let command = shlex::try_join(body.command.iter().map(String::as_str)).unwrap_or_default();
    vec![
        (Column::text("command", "command"), Cell::list(body.command.clone()).shown(command)),
        (Column::text("folder", "folder"), Cell::text(&body.folder)),
        (Column::text("exit_code", "exit code"), code(body.exit_code)),
        (Column::text("signal", "signal"), code(body.signal)),
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
