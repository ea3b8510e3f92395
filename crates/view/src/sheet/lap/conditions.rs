//! What a lap ran under, as it was about the lap, and what limited it.

use super::cells::{size, time};
use super::{Field, lines};
use crate::table::{Cell, Column};
use crate::words::limited_words;
use honest_lap_core::lab::{LapFacts, limit};
use honest_lap_core::record::{LapBody, LapHead, Mode};

/// Returns what the machine was like about the lap, how its program was set, and what it printed.
pub(super) fn conditions(body: &LapBody) -> Vec<Field> {
    let (seen, own) = (&body.conditions, &body.conditions.own);
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
        (Column::text("own_memory_wait_ns", "waited for memory itself"), time(own.memory)),
        (Column::text("own_disk_wait_ns", "waited for a disk itself"), time(own.disk)),
        (Column::text("read_bytes", "read from disks"), size(own.read_bytes)),
        (Column::text("written_bytes", "written to disks"), size(own.written_bytes)),
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
pub(super) fn limited_by(head: &LapHead, body: &LapBody, threads: Option<u32>) -> Field {
    let words = limit(&LapFacts::of(body), head.wall, threads).map(|found| limited_words(&found));
    (Column::text("limited_by", "limited by"), Cell::or_missing(words, Cell::text))
}
