//! What a tool that was killed may have left: a note of the lap under way, and its processes.

use crate::error::{During, MeasureError};
use crate::os::{Process, boot, end_members, environment_of, place_of, process, processes, send};
use crate::place::Place;
use crate::starter::MARK;
use crate::whole_file::write_for_now;
use honest_lap_core::unit::Nanos;
use rustix::process::Signal;
use serde::{Deserialize, Serialize};
use std::fs;
use std::io;
use std::path::Path;

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
    /// Its place in the order of its session, counted from 1.
    #[serde(default)]
    pub place: usize,
    /// How many laps that order has.
    #[serde(default)]
    pub total: usize,
    /// How long it and what is behind it should take, as far as that is known.
    #[serde(default)]
    pub left: Nanos,
    /// How many laps of these nothing is known of.
    #[serde(default)]
    pub unknown: usize,
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
        let _ = fs::remove_file(place.starter());
        // A note that stays says that the lap was lost; the logbook then knows better.
        let _ = fs::remove_file(place.under_way());
    }
}

/// How long marked processes may take to end after they were asked to.
const GRACE: Nanos = Nanos::from_seconds(2);

/// How long they are waited for at all.
const PATIENCE: Nanos = Nanos::from_seconds(10);

/// A starter, by what tells it from every other process that has had its number.
#[derive(Serialize, Deserialize)]
struct Starter {
    pid: i32,
    /// When it began, in ticks since the machine did.
    began: u64,
    /// Which start of the machine.
    boot: String,
}

/// Notes which process this one is, which is a starter: what it starts is in its session unless it made one of its own.
pub(crate) fn note_starter(path: &Path) -> io::Result<()> {
    let pid = rustix::process::getpid().as_raw_nonzero().get();
    let began = process(pid).map_or(0, |own| own.began);
    write_for_now(path, &serde_json::to_vec(&Starter { pid, began, boot: boot() })?)
}

/// Returns the processes that a starter left that was killed: those in its session, if nobody has its number since.
fn in_session_of_starter(noted: &[u8]) -> Vec<Process> {
    let Ok(starter) = serde_json::from_slice::<Starter>(noted) else { return Vec::new() };
    if starter.boot != boot() || process(starter.pid).is_some() {
        return Vec::new();
    }
    let of_session = |it: &Process| it.session == starter.pid && it.began >= starter.began;
    processes().into_iter().filter(of_session).collect()
}

/// Ends what a session left that was killed with its starter, and returns the names: the processes that carry its mark,
/// those in the control group of its laps, and those in its starter's session.
pub fn end_left(mark: &str, place: &Place) -> Vec<String> {
    let group = place_of(mark).map(|group| end_members(&group)).unwrap_or_default();
    let noted = fs::read(place.starter()).unwrap_or_default();
    let rest = end_all(|| {
        let mut all = marked(mark);
        let known: Vec<i32> = all.iter().map(|process| process.pid).collect();
        all.extend(in_session_of_starter(&noted).into_iter().filter(|it| !known.contains(&it.pid)));
        all
    });
    // What cannot be removed is in nobody's way: its starter is gone.
    let _ = fs::remove_file(place.starter());
    group.into_iter().chain(rest).collect()
}

/// Ends every process that carries `mark`, and returns their names.
///
/// A starter that finds its tool gone ends its lap by itself; this is for when it was killed too.
pub(crate) fn end_marked(mark: &str) -> Vec<String> {
    end_all(|| marked(mark))
}

fn end_all(find: impl Fn() -> Vec<Process>) -> Vec<String> {
    let first = find();
    if first.is_empty() {
        return Vec::new();
    }
    send(&first, Signal::TERM);
    let begun = crate::now().0;
    loop {
        let rest = find();
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
            environment_of(process.pid).split(|&b| b == 0).any(|var| var == wanted.as_bytes())
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::process::{Command, Stdio};

    #[test]
    fn what_is_in_the_session_of_a_starter_that_is_gone_is_found_and_nothing_else() {
        let mut leader = Command::new("setsid")
            .args(["sh", "-c", "sleep 60 & echo $!; exec sleep 60"])
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut said = String::new();
        let out = leader.stdout.take().unwrap();
        io::BufRead::read_line(&mut io::BufReader::new(out), &mut said).unwrap();
        let child: i32 = said.trim().parse().unwrap();
        let pid = process(child).unwrap().session;
        let began = process(pid).unwrap().began;
        let noted = |starter: &Starter| serde_json::to_vec(starter).unwrap();
        let found = |starter: &Starter| -> Vec<i32> {
            in_session_of_starter(&noted(starter)).iter().map(|it| it.pid).collect()
        };
        let starter = Starter { pid, began, boot: boot() };
        assert_eq!(found(&starter), [0; 0], "it lives, and ends what it started itself");
        leader.kill().unwrap();
        leader.wait().unwrap();
        assert_eq!(found(&starter), [child]);
        let before = |boot: &str, began| Starter { pid, began, boot: boot.to_owned() };
        assert_eq!(found(&before("another start", began)), [0; 0]);
        assert_eq!(found(&before(&boot(), u64::MAX)), [0; 0]);
        send(&process(child).into_iter().collect::<Vec<_>>(), Signal::KILL);
        assert!(in_session_of_starter(b"garbage").is_empty());
    }
}
