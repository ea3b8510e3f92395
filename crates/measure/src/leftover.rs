//! What a tool that was killed may have left: a note of the lap under way, and its processes.

use crate::error::{During, MeasureError};
use crate::place::Place;
use crate::process::{Process, processes, send};
use crate::starter::MARK;
use crate::whole_file::write_for_now;
use honest_lap_core::unit::Nanos;
use rustix::process::Signal;
use serde::{Deserialize, Serialize};
use std::fs;
use std::io;

/// The lap under way, noted before it starts and cleared when it is in the logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct UnderWay {
    /// What marks its processes.
    pub mark: String,
    /// The mark of its session.
    pub session: String,
    /// Its number in its session.
    pub number: u32,
    /// Its workload.
    pub workload: String,
    /// Its variant.
    pub settings: honest_lap_core::record::Settings,
    /// What its workload's task is.
    pub task: honest_lap_core::record::Task,
    /// Its round.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
    /// When it began, RFC 3339.
    pub started: String,
}

impl UnderWay {
    /// Notes the lap.
    pub fn write(&self, place: &Place) -> Result<(), MeasureError> {
        let path = place.under_way();
        let text = serde_json::to_vec(self).map_err(io::Error::from).during("write", &path)?;
        write_for_now(&path, &text).during("write", &path)
    }

    /// Returns the lap that was under way when the tool was ended, if there is one.
    ///
    /// A note that cannot be read was itself cut off, before its lap began.
    pub fn read(place: &Place) -> Option<Self> {
        serde_json::from_slice(&fs::read(place.under_way()).ok()?).ok()
    }

    /// Clears the note.
    pub fn clear(place: &Place) {
        // A note that stays says that the lap was lost; the logbook then knows better.
        let _ = fs::remove_file(place.under_way());
    }
}

/// How long marked processes may take to end after they were asked to.
const GRACE: Nanos = Nanos::from_seconds(2);

/// How long they are waited for at all.
const PATIENCE: Nanos = Nanos::from_seconds(10);

/// Ends every process that carries `mark`, and returns their names.
///
/// A starter that finds its tool gone ends its lap by itself; this is for when it was killed too.
pub fn end_marked(mark: &str) -> Vec<String> {
    let first = marked(mark);
    if first.is_empty() {
        return Vec::new();
    }
    send(&first, Signal::TERM);
    let begun = crate::now().0;
    loop {
        let rest = marked(mark);
        let waited = crate::now().0.saturating_sub(begun);
        // What will not end even then (held by the kernel, say) keeps nobody waiting.
        if rest.is_empty() || waited > PATIENCE.0 {
            return first.into_iter().map(|process| process.name).collect();
        }
        if waited >= GRACE.0 {
            send(&rest, Signal::KILL);
        }
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
}

fn marked(mark: &str) -> Vec<Process> {
    let wanted = format!("{MARK}={mark}");
    processes()
        .into_iter()
        .filter(|process| {
            fs::read(format!("/proc/{}/environ", process.pid))
                .is_ok_and(|env| env.split(|&b| b == 0).any(|var| var == wanted.as_bytes()))
        })
        .collect()
}
