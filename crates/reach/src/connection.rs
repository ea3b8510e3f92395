//! One connection to another machine: what is there, what is sent, and what is told from then on.

use crate::command_line::CommandLine;
use crate::error::ReachError;
use crate::message::{Message, MessageReader};
use crate::parcel::{Order, Packed};
use crate::program::Program;
use rustix::process::{Pid, Signal, kill_process};
use std::collections::VecDeque;
use std::fs::File;
use std::io::{BufRead, BufReader, Read, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, ChildStdout};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

/// Lines that a shell may print there before it answers.
const MOST_NOISE: usize = 400;
/// The longest of them.
const MOST_LINE: u64 = 4096;
/// Lines kept of what the other side said last.
const KEPT: usize = 12;

/// How long a connection may take to end once nothing more is to come.
const PATIENCE: Duration = Duration::from_secs(10);
/// How long what it said last is waited for.
const LAST_WORDS: Duration = Duration::from_millis(500);
/// How often it is looked whether it has ended.
const LOOK: Duration = Duration::from_millis(10);

/// What the machine answers with.
const GREETING: &str = "honest-lap";

/// The shell's own statuses there, and what each means.
const FAILED: [(i32, &str); 3] = [
    (91, "no folder can be made there, in the user's ~/.cache"),
    (93, "what was sent could not be unpacked there; it needs `tar`, and room for it"),
    (94, "what was sent did not arrive as it left, by its SHA-256"),
];

/// A command line that was started, and that nobody has answered yet.
pub struct Connecting {
    line: CommandLine,
    out: BufReader<ChildStdout>,
    wire: Process,
}

/// A connection to a machine that has answered.
pub struct Connection {
    out: BufReader<ChildStdout>,
    wire: Process,
    machine: String,
    is_there: bool,
}

/// The process that a command line is: how it ends, and what it said last.
struct Process {
    control: Control,
    said: Arc<Mutex<VecDeque<String>>>,
    listening: JoinHandle<()>,
}

/// Speaks to the run there while its messages are read.
#[derive(Clone)]
pub struct Control {
    to: Arc<Mutex<Option<ChildStdin>>>,
    child: Arc<Mutex<Child>>,
}

/// Where a connection begins.
#[derive(Clone, Copy, Debug)]
pub struct Begin<'a> {
    /// What is sent; nothing where it is there.
    pub parcel: Option<&'a Packed>,
    /// The first record of the session that is not here.
    pub from: u32,
    /// The place of the last remark that is here.
    pub remarks: i64,
    /// How many bytes of what the run said are here.
    pub said: u64,
    /// Whether a run that was cut off there goes on.
    pub resume: bool,
}

fn held<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Returns the shell's command for the session `mark`: the folder, the answer, the unpacking, the tool.
///
/// One line without quotes or `!`, so that the login shell there may be any.
fn script(mark: &str) -> String {
    let (order, lap, begun) = (Order::FILE, Order::PROGRAM, Order::BEGUN);
    let own = format!(
        "umask 077; d=\"${{XDG_CACHE_HOME:-${{HOME:-/tmp}}/.cache}}/honest-lap/away-{mark}\"; \
         gone() {{ cd /; rm -rf \"$d\"; rmdir \"${{d%/*}}\" 2>/dev/null; exit $1; }}; \
         mkdir -p \"$d\" && cd \"$d\" || exit 91; there=new; [ -e {order} ] && there=there; \
         echo {GREETING} {mark} $there $(uname -s) $(uname -m); \
         if read size hash from remarks said how; then :; else [ -e {order} ] || gone 92; exit 92; fi; \
         if [ \"$size\" -gt 0 ]; then head -c \"$size\" | tar -xof - || gone 93; \
         echo \"$hash  {lap}\" | sha256sum -c - >/dev/null || gone 94; fi; \
         ./{lap} attend --from \"$from\" --remarks \"$remarks\" --said \"$said\" --how \"$how\"; status=$?; \
         [ -e {begun} ] || gone $status; exit $status"
    );
    format!("sh -c '{own}'")
}

impl Connecting {
    /// Starts the command line, and waits for no answer yet.
    pub fn begin(line: &CommandLine, mark: &str) -> Result<Self, ReachError> {
        let mut child = line.start(&script(mark))?;
        let streams = (child.stdin.take(), child.stdout.take(), child.stderr.take());
        let (Some(to), Some(out), Some(err)) = streams else {
            let source = std::io::ErrorKind::BrokenPipe.into();
            return Err(ReachError::NotStarted { line: line.text().to_owned(), source });
        };
        let said = Arc::new(Mutex::new(VecDeque::new()));
        let keep = Arc::clone(&said);
        let listening = std::thread::spawn(move || keep_last(BufReader::new(err), &keep));
        let control =
            Control { to: Arc::new(Mutex::new(Some(to))), child: Arc::new(Mutex::new(child)) };
        let (out, wire) = (BufReader::new(out), Process { control, said, listening });
        Ok(Self { line: line.clone(), out, wire })
    }

    /// Returns what speaks to the other side.
    pub fn control(&self) -> Control {
        self.wire.control.clone()
    }

    /// Waits for the machine's answer, behind whatever its login asks or says.
    pub fn answer(self, mark: &str) -> Result<Connection, ReachError> {
        let Self { line, mut out, wire } = self;
        match greeting(&mut out, mark) {
            Some((machine, is_there)) => Ok(Connection { out, wire, machine, is_there }),
            None => {
                drop(out);
                let (status, said) = wire.ended(PATIENCE);
                let line = line.text().to_owned();
                Err(failed_with(status, &said).unwrap_or(ReachError::Unreached { line, said }))
            }
        }
    }
}

impl Connection {
    /// Returns whether the session's folder is there.
    pub fn is_there(&self) -> bool {
        self.is_there
    }

    /// Returns the program of `programs` that runs there.
    pub fn program<'a>(&self, programs: &'a [Program]) -> Result<&'a Program, ReachError> {
        let fits = programs.iter().find(|program| program.runs_on(&self.machine));
        fits.ok_or_else(|| ReachError::NoProgram { found: self.machine.clone() })
    }

    /// Ends the connection; whatever is there stays.
    pub fn leave(self) -> Result<(), ReachError> {
        drop(self.out);
        self.wire.control.disconnect();
        self.wire.ended(PATIENCE);
        Ok(())
    }

    /// Sends what is to be sent, and reads messages until the connection ends; `sent` is told how much of the parcel has left.
    ///
    /// Laps are put into the file at `laps` before `take` is told of them.
    pub fn follow(
        self,
        begin: Begin<'_>,
        laps: &Path,
        sent: &mut dyn FnMut(u64),
        take: &mut dyn FnMut(Message) -> Result<(), ReachError>,
    ) -> Result<(), ReachError> {
        let Self { out, wire, .. } = self;
        let (size, hash) = begin.parcel.map_or((0, "-"), |parcel| (parcel.bytes, &parcel.sha256));
        let how = if begin.resume { "resume" } else { "run" };
        let Begin { from, remarks, said, .. } = begin;
        let line = format!("{size} {hash} {from} {remarks} {said} {how}\n");
        let gone = wire.control.send(line.as_bytes()).and_then(|()| match begin.parcel {
            Some(parcel) => wire.control.send_file(&parcel.path, sent),
            None => Ok(()),
        });
        // Who hung up in the midst of it has said why.
        let read = match gone {
            Ok(()) => MessageReader::new(out).each(laps, take),
            Err(_) => Ok(false),
        };
        if read.is_err() {
            wire.control.disconnect();
        }
        let (status, said) = wire.ended(PATIENCE);
        match read {
            Ok(true) if status == Some(0) => Ok(()),
            Ok(false) => Err(failed_with(status, &said).unwrap_or(match status {
                Some(255) | None => ReachError::Lost { said },
                Some(_) => ReachError::NotTaken { what: "the program does not start there", said },
            })),
            Ok(true) | Err(ReachError::Lost { .. }) => Err(ReachError::Lost { said }),
            Err(other) => Err(other),
        }
    }
}

/// Reads lines until the machine's answer: what it is, and whether this session's folder is there.
fn greeting(out: &mut impl BufRead, mark: &str) -> Option<(String, bool)> {
    for _ in 0..MOST_NOISE {
        let mut line = Vec::new();
        let read = out.by_ref().take(MOST_LINE).read_until(b'\n', &mut line).ok()?;
        if read == 0 {
            return None;
        }
        let line = String::from_utf8_lossy(&line);
        let words: Vec<&str> = line.split_whitespace().collect();
        if let [GREETING, answered, there, system, machine] = words[..]
            && answered == mark
        {
            let machine = match system {
                "Linux" => machine.to_owned(),
                other => format!("{other} {machine}"),
            };
            return Some((machine, there == "there"));
        }
    }
    None
}

impl Process {
    /// Waits for the command line to end; returns its status, and the last that it said.
    fn ended(self, patience: Duration) -> (Option<i32>, Vec<String>) {
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

impl Control {
    fn send(&self, bytes: &[u8]) -> std::io::Result<()> {
        let mut to = held(&self.to);
        let to = to.as_mut().ok_or(std::io::ErrorKind::BrokenPipe)?;
        to.write_all(bytes)?;
        to.flush()
    }

    fn send_file(&self, path: &Path, sent: &mut dyn FnMut(u64)) -> std::io::Result<()> {
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

/// Returns the error that the shell there ended with, if it is one of its own.
fn failed_with(status: Option<i32>, said: &[String]) -> Option<ReachError> {
    let (_, what) = FAILED.iter().find(|(known, _)| Some(*known) == status)?;
    Some(ReachError::NotTaken { what, said: said.to_vec() })
}

#[cfg(test)]
mod tests {
    use super::*;

    const MARK: &str = "0123";

    #[test]
    fn the_answer_is_found_behind_whatever_a_shell_prints_first() {
        let answer = format!(
            "Welcome!\n\nhonest-lap 9 new Linux x\nhonest-lap {MARK} there Linux aarch64\nrest"
        );
        let mut out = answer.as_bytes();
        assert_eq!(greeting(&mut out, MARK), Some(("aarch64".to_owned(), true)));
        assert_eq!(out, b"rest");
        let other = format!("honest-lap {MARK} new Plan9 386\n");
        assert_eq!(greeting(&mut other.as_bytes(), MARK), Some(("Plan9 386".to_owned(), false)));
        assert_eq!(greeting(&mut "no\n".repeat(1000).as_bytes(), MARK), None);
        assert_eq!(greeting(&mut &b""[..], MARK), None);
    }

    #[test]
    fn a_command_line_that_will_not_end_is_ended() {
        let line = CommandLine::new("sh -c 'trap \"\" TERM; exec sleep 60' sh");
        let wire = Connecting::begin(&line, MARK).unwrap().wire;
        let control = wire.control.clone();
        let begun = Instant::now();
        assert_eq!(wire.ended(Duration::from_millis(300)).0, None);
        assert!(begun.elapsed() < Duration::from_secs(30));
        let status = held(&control.child).wait().unwrap();
        assert_eq!(status.code(), None, "by a signal");
    }

    #[test]
    fn a_line_that_reaches_nothing_says_what_it_said() {
        let line = CommandLine::new("sh -c 'echo no route to heron >&2; exit 255' sh");
        let Err(err) = Connecting::begin(&line, MARK).unwrap().answer(MARK) else {
            panic!("reached")
        };
        assert!(matches!(err, ReachError::Unreached { .. }), "{err:?}");
        assert_eq!(err.said(), ["no route to heron"]);
    }
}
