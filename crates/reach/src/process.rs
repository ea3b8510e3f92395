//! The process that a command line is: what is said to it, what it says, and how it ends.

use rustix::process::{Pid, Signal, kill_process};
use std::collections::VecDeque;
use std::fs::File;
use std::io::{BufRead, BufReader, Read, Write};
use std::path::Path;
use std::process::{Child, ChildStderr, ChildStdin};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

/// The longest line that is read.
pub(crate) const MOST_LINE: u64 = 4096;
/// Lines kept of what the other side said last.
const KEPT: usize = 12;
/// How long what it said last is waited for.
const LAST_WORDS: Duration = Duration::from_millis(500);
/// How often it is looked whether it has ended.
const LOOK: Duration = Duration::from_millis(10);

/// The process that a command line is: how it ends, and what it said last.
pub(crate) struct Process {
    control: Control,
    said: Arc<Mutex<VecDeque<String>>>,
    listening: JoinHandle<()>,
}

impl Process {
    /// Returns the process of `child`, to whose standard input is spoken, and whose errors are kept.
    pub(crate) fn of(child: Child, to: ChildStdin, err: ChildStderr) -> Self {
        let said = Arc::new(Mutex::new(VecDeque::new()));
        let keep = Arc::clone(&said);
        let listening = std::thread::spawn(move || keep_last(BufReader::new(err), &keep));
        let control =
            Control { to: Arc::new(Mutex::new(Some(to))), child: Arc::new(Mutex::new(child)) };
        Self { control, said, listening }
    }

    /// Returns what speaks to it.
    pub(crate) fn control(&self) -> Control {
        self.control.clone()
    }

    /// Waits for the command line to end; returns its status, and the last that it said.
    pub(crate) fn ended(self, patience: Duration) -> (Option<i32>, Vec<String>) {
        drop(held(&self.control.to).take());
        let begun = Instant::now();
        let status = loop {
            // Held for the question alone: what ends it holds it too.
            let ended = held(&self.control.child).try_wait();
            match ended {
                Ok(Some(status)) => break status.code(),
                Ok(None) if begun.elapsed() < patience => {}
                Ok(None) | Err(_) => {
                    self.control.kill();
                    break None;
                }
            }
            std::thread::sleep(LOOK);
        };
        // What it left in the background may hold its errors open for as long as it likes.
        let asked = Instant::now();
        while !self.listening.is_finished() && asked.elapsed() < LAST_WORDS {
            std::thread::sleep(LOOK);
        }
        let said = held(&self.said).iter().cloned().collect();
        (status, said)
    }
}

/// Speaks to the run there while its messages are read.
#[derive(Clone)]
pub struct Control {
    to: Arc<Mutex<Option<ChildStdin>>>,
    child: Arc<Mutex<Child>>,
}

impl Control {
    pub(crate) fn send(&self, bytes: &[u8]) -> std::io::Result<()> {
        let mut to = held(&self.to);
        let to = to.as_mut().ok_or(std::io::ErrorKind::BrokenPipe)?;
        to.write_all(bytes)?;
        to.flush()
    }

    pub(crate) fn send_file(&self, path: &Path, sent: &mut dyn FnMut(u64)) -> std::io::Result<()> {
        let mut file = File::open(path)?;
        let mut piece = vec![0; 1 << 18];
        let mut gone = 0;
        loop {
            let read = file.read(&mut piece)?;
            if read == 0 {
                return Ok(());
            }
            self.send(&piece[..read])?;
            gone += read as u64;
            sent(gone);
        }
    }

    /// Asks the run there to end, as Ctrl-C would; once more is as urgent as it is here.
    pub fn stop(&self) {
        // A connection that is lost is told by whoever reads it.
        let _ = self.send(b"stop\n");
    }

    /// Says that everything is here: the folder there goes.
    pub fn done(&self) {
        let _ = self.send(b"done\n");
    }

    /// Ends the connection here; the run there goes on. It is asked to first: it may have the terminal's echo off.
    pub fn disconnect(&self) {
        self.end(|pid| Pid::from_raw(pid.cast_signed()).into_iter().collect());
    }

    /// Ends a command line that nobody has answered, with whatever it has started: no run is below it yet.
    pub fn abort(&self) {
        self.end(with_children);
    }

    fn end(&self, of: impl FnOnce(u32) -> Vec<Pid>) {
        // Whoever reads it may be in the midst of being written to: then the signal ends that.
        if let Ok(mut to) = self.to.try_lock() {
            to.take();
        }
        let mut child = held(&self.child);
        if matches!(child.try_wait(), Ok(None)) {
            for pid in of(child.id()) {
                let _ = kill_process(pid, Signal::TERM);
            }
        }
    }

    fn kill(&self) {
        let _ = held(&self.child).kill();
    }
}

fn held<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Returns a process and everything below it, as far as the system lists that.
fn with_children(pid: u32) -> Vec<Pid> {
    let mut all = vec![pid];
    let mut at = 0;
    while let Some(pid) = all.get(at) {
        let children = std::fs::read_to_string(format!("/proc/{pid}/task/{pid}/children"));
        all.extend(
            children
                .unwrap_or_default()
                .split_whitespace()
                .filter_map(|pid| pid.parse::<u32>().ok()),
        );
        at += 1;
    }
    all.into_iter().filter_map(|pid| Pid::from_raw(pid.cast_signed())).collect()
}

/// Keeps the last lines of what the other side says.
fn keep_last(mut from: impl BufRead, kept: &Mutex<VecDeque<String>>) {
    loop {
        let mut line = Vec::new();
        match from.by_ref().take(MOST_LINE).read_until(b'\n', &mut line) {
            Ok(0) | Err(_) => return,
            Ok(_) => {}
        }
        let line = String::from_utf8_lossy(&line).trim_end().to_owned();
        let mut kept = held(kept);
        if kept.len() == KEPT {
            kept.pop_front();
        }
        kept.push_back(line);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::command_line::CommandLine;

    #[test]
    fn a_command_line_that_will_not_end_is_ended() {
        let line = CommandLine::new("sh -c 'trap \"\" TERM; exec sleep 60' sh");
        let mut child = line.start("true").unwrap();
        let (to, err) = (child.stdin.take().unwrap(), child.stderr.take().unwrap());
        let wire = Process::of(child, to, err);
        let control = wire.control();
        let begun = Instant::now();
        assert_eq!(wire.ended(Duration::from_millis(300)).0, None);
        assert!(begun.elapsed() < Duration::from_secs(30));
        let status = held(&control.child).wait().unwrap();
        assert_eq!(status.code(), None, "by a signal");
    }
}
