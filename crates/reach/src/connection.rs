//! One connection to another machine: what is there, what is sent, and what is told from then on.

use crate::command_line::CommandLine;
use crate::error::ReachError;
use crate::message::{Message, MessageReader};
use crate::parcel::{Order, Packed};
use crate::process::{Control, MOST_LINE, Process};
use crate::program::Program;
use std::io::{BufRead, BufReader, Read};
use std::path::Path;
use std::process::ChildStdout;
use std::time::Duration;

/// Lines that a shell may print there before it answers.
const MOST_NOISE: usize = 400;

/// How long a connection may take to end once nothing more is to come.
const PATIENCE: Duration = Duration::from_secs(10);

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
        let (out, wire) = (BufReader::new(out), Process::of(child, to, err));
        Ok(Self { line: line.clone(), out, wire })
    }

    /// Returns what speaks to the other side.
    pub fn control(&self) -> Control {
        self.wire.control()
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
        self.wire.control().disconnect();
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
        let gone = wire.control().send(line.as_bytes()).and_then(|()| match begin.parcel {
            Some(parcel) => wire.control().send_file(&parcel.path, sent),
            None => Ok(()),
        });
        // Who hung up in the midst of it has said why.
        let read = match gone {
            Ok(()) => MessageReader::new(out).each(laps, take),
            Err(_) => Ok(false),
        };
        if read.is_err() {
            wire.control().disconnect();
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
    fn a_line_that_reaches_nothing_says_what_it_said() {
        let line = CommandLine::new("sh -c 'echo no route to heron >&2; exit 255' sh");
        let Err(err) = Connecting::begin(&line, MARK).unwrap().answer(MARK) else {
            panic!("reached")
        };
        assert!(matches!(err, ReachError::Unreached { .. }), "{err:?}");
        assert_eq!(err.said(), ["no route to heron"]);
    }
}
