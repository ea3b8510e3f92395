//! `lap show LAP`: one lap in full.

use super::time_cell;
use super::words::{lap_of, lap_time};
use honest_lap_core::lap::{Captured, LapBody, LapHead, Outcome, Produced};
use honest_lap_core::plain::plain_lines;
use honest_lap_core::time::Nanos;
use honest_lap_core::unit::{display_size, display_span};
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet, Show, Value};
use honest_lap_logbook::LapPage;

/// Lines of output that people see of each end of a stream.
const LINES: usize = 20;

/// Returns the sheet of one lap.
pub fn lap(page: &LapPage) -> Sheet {
    let (head, body) = (&page.head, &page.body);
    let mut fields = [what(head, body), how(head, body), conditions(body)].concat();
    for (column, cell) in &mut fields {
        let nothing = cell.value == Value::Missing || cell.value == Value::List(Vec::new());
        // A lap without a signal or a left-over needs no line that says so; an unknown
        // condition does.
        if nothing && QUIET_IF_NOTHING.contains(&column.key) {
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
        notes: output(&body.stdout, "standard output")
            .into_iter()
            .chain(output(&body.stderr, "standard error"))
            .collect(),
    };
    Sheet {
        schema: "honest-lap/lap",
        version: 1,
        title: Some(format!("lap {} · {}", head.name, lap_of(&head.workload, &head.settings))),
        lead: Vec::new(),
        groups: vec![record],
        notes: Vec::new(),
    }
}

const QUIET_IF_NOTHING: [&str; 5] = ["reason", "exit_code", "signal", "produced", "left_behind"];

type Field = (Column, Cell);

fn what(head: &LapHead, body: &LapBody) -> Vec<Field> {
    let counts = match (head.counted().is_some(), head.warm_up, head.outcome) {
        (true, ..) => "counted",
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
            Cell::or_missing(head.wall, |wall| time_cell(wall, lap_time(wall))),
        ),
        (Column::text("reason", "because"), Cell::or_missing(body.reason.clone(), Cell::text)),
        (Column::text("started", "started"), Cell::text(&body.started)),
        (Column::text("round", "round"), Cell::whole(u64::from(head.round))),
    ]
}

fn how(head: &LapHead, body: &LapBody) -> Vec<Field> {
    let usage = body.usage;
    let used = |of: Option<Nanos>| Cell::or_missing(of, |time| time_cell(time, lap_time(time)));
    let signed =
        |n: Option<i32>| Cell::or_missing(n, |n| Cell::number(f64::from(n), n.to_string()));
    let command: Vec<String> = body.command.iter().map(|word| quoted(word)).collect();
    vec![
        (
            Column::text("command", "command"),
            Cell::list(body.command.clone()).shown(command.join(" ")),
        ),
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
        (
            Column::text("left_behind", "left behind, and ended"),
            Cell::list(body.left_behind.clone()),
        ),
        (Column::machine("task"), Cell::whole(u64::from(head.task))),
    ]
}

fn conditions(body: &LapBody) -> Vec<Field> {
    let seen = &body.conditions;
    let size = |bytes: Option<u64>| {
        Cell::or_missing(bytes, |bytes| Cell::whole(bytes).shown(display_size(bytes)))
    };
    let time =
        |span: Option<Nanos>| Cell::or_missing(span, |span| time_cell(span, display_span(span)));
    vec![
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

/// Returns a word of a command as a shell would need it.
fn quoted(word: &str) -> String {
    let plain = |c: char| c.is_ascii_alphanumeric() || "-_./=:,+@%".contains(c);
    if !word.is_empty() && word.chars().all(plain) {
        word.to_owned()
    } else {
        format!("'{}'", word.replace('\'', "'\\''"))
    }
}
