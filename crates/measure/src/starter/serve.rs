//! The starter's own side: one order in, one report out.

use super::MARK;
use super::attend::{Attendant, Attended, Duties};
use super::looks::Looks;
use super::moment::Begun;
use super::own_waits::OwnBook;
use super::program;
use super::stream::Stream;
use super::tree::end_tree;
use super::watched::Watched;
use super::wire::{Ended, Order, Report, read_order, write_report};
use crate::leftover;
use crate::os::{
    Group, Terminal, Used, keep_orphans, now, now_with_sleep, own_session, peak_bytes, reap,
    reset_peak, shrink, used_by_children, used_by_self,
};
use crate::plain_file::open_plain_or_null;
use crate::spool::Spool;
use crate::stop::timespec;
use honest_lap_core::record::{TreeKept, TreePeak};
use honest_lap_core::unit::Nanos;
use rustix::event::poll;
use rustix::pipe::{PipeFlags, fcntl_setpipe_size, pipe_with};
use std::fs::File;
use std::io::{self, BufReader};
use std::os::fd::{AsFd, OwnedFd};
use std::os::unix::net::UnixStream;
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Command, ExitCode, Stdio};

/// Starts of nothing ahead of each lap; ten were no better than three.
const REHEARSALS: u32 = 3;
/// The largest pipe that an ordinary user may ask for: fewer pauses of a talkative program.
const PIPE_BYTES: usize = 1 << 20;

/// Serves one order that comes in on standard input, which is a socket to the tool.
pub fn serve() -> ExitCode {
    if let Some(declined) = program::declined() {
        return declined;
    }
    let served = io::stdin().as_fd().try_clone_to_owned().and_then(|fd| {
        let socket = UnixStream::from(fd);
        // A session of its own: no lap can read, change or take over the user's terminal.
        own_session()?;
        keep_orphans()?;
        let mut reader = BufReader::new(&socket);
        let order = read_order(&mut reader)?;
        // The request to end may already have come in behind the order.
        let asked = !reader.buffer().is_empty();
        let report = if asked { not_wanted() } else { follow(&order, &socket) };
        write_report(report, &socket)
    });
    // Whatever went wrong, the tool sees the socket close; there is nobody else to tell.
    if served.is_ok() { ExitCode::SUCCESS } else { ExitCode::FAILURE }
}

fn not_wanted() -> Report {
    Report::Ended(Box::new(Ended { asked: true, ..Ended::default() }))
}

fn follow(order: &Order, socket: &UnixStream) -> Report {
    match timed(order, socket) {
        Ok(ended) => Report::Ended(Box::new(ended)),
        Err(why) => Report::NotStarted(why),
    }
}

/// Starts the program and waits for its end.
///
/// The thread that does this does nothing else from the start to the moment of the end: output, files, memory, the
/// limit and the tool's wishes are seen to by others, which were begun before.
fn timed(order: &Order, socket: &UnixStream) -> Result<Ended, String> {
    let (program, arguments) = order.command.split_first().ok_or("the command is empty")?;
    let stdin = match &order.stdin {
        Some(path) => open_plain_or_null(Path::new(path))
            .map(Stdio::from)
            .map_err(|err| format!("standard input `{path}`: {err}"))?,
        None => Stdio::null(),
    };
    let unconnected = |err: io::Error| format!("its output could not be connected: {err}");
    let mut command = Command::new(program);
    command
        .args(arguments)
        .current_dir(&order.folder)
        .envs(order.environment.iter().map(|(name, value)| (name, value)));
    let connected = connect(order, &mut command).map_err(unconnected)?;
    let Connected { stdout, stderr, terminal } = connected;
    if order.stdin.is_some() || terminal.is_none() {
        command.stdin(stdin);
    }
    let spooled = |path: &Option<String>| {
        let create = |path: &String| Spool::create(Path::new(path));
        path.as_ref().map(create).transpose().map_err(unconnected)
    };
    let mark = std::env::var(MARK).unwrap_or_default();
    if let Some(path) = &order.noted {
        // Without the note its leftovers are found by their mark alone.
        let _ = leftover::note_starter(Path::new(path));
    }
    let group = if order.watched { Group::join(&mark) } else { None };
    let duties = Duties {
        stdout: Stream::new(stdout, spooled(&order.spools.stdout)?),
        stderr: Stream::new(stderr, spooled(&order.spools.stderr)?),
        watched: order
            .spools
            .watched
            .as_ref()
            .map(Watched::begin)
            .transpose()
            .map_err(unconnected)?,
        limit: order.limit,
        group: group.as_ref().map(|group| group.view().clone()),
        socket: socket.try_clone().map_err(unconnected)?,
    };
    let unattended = |err: io::Error| format!("there is no thread to attend it: {err}");
    let begun = Begun::default();
    let attendant = Attendant::begin(duties, begun.clone()).map_err(unattended)?;
    let looks = order
        .watched
        .then(|| Looks::begin(group.as_ref().map(Group::view), begun.clone()))
        .transpose()
        .map_err(unattended)?;
    shrink();
    // What is needed for a start is back in memory after one.
    rehearse(&order.folder, 1);
    reset_peak();
    let floor_bytes = peak_bytes();
    let used_before = Account::of(group.as_ref());
    let waited_before = OwnBook::of(group.as_ref().map(Group::view));
    // Last of all: reading files of the kernel leads away from the way of a start.
    rehearse(&order.folder, REHEARSALS);
    let used_before = used_before.but_for_children_since();
    let waited_before = waited_before.but_for_children_since();
    let started_with_sleep = now_with_sleep();
    let started = now();
    begun.begin(started);
    let child = command.spawn().map_err(|err| not_started(program, &order.folder, &err))?;
    begun.became(child.id());
    // The command holds our copies of the ends that the child writes to.
    drop(command);
    let _held = terminal;
    let reaped = reap(child.id());
    let stopped = now();
    attendant.program_ended();
    let slept_end = now_with_sleep();
    let mut ended = Ended { wall: stopped.since(started).unwrap_or_default(), ..Ended::default() };
    let with_sleep = slept_end.since(started_with_sleep).unwrap_or_default();
    // The two clocks are read one after the other; only more than a second is sleep.
    let slept = with_sleep.minus(ended.wall);
    ended.slept = if slept.0 >= Nanos::PER_SECOND { slept } else { Nanos(0) };
    if let Ok(reaped) = reaped {
        (ended.exit_code, ended.signal) = (reaped.exit_code, reaped.signal);
        ended.usage.peak_bytes = reaped.peak_bytes;
        // The kernel's books of several threads are off by some pages; a floor is never above what was reached.
        ended.usage.peak_floor_bytes = floor_bytes.min(reaped.peak_bytes);
    }
    if order.watched {
        ended.own = OwnBook::of(group.as_ref().map(Group::view)).since(&waited_before);
    }
    let seen = looks.and_then(Looks::end);
    // Whoever holds the other end of its output is ended before the rest of that is read.
    let outlived = end_tree(group.as_ref().map(Group::view));
    let used = Account::of(group.as_ref()).since(&used_before);
    (ended.usage.user, ended.usage.system) = (used.user, used.system);
    // Between two looks nobody sees it; what its largest process reached the kernel knows.
    let largest = ended.usage.peak_bytes;
    ended.tree_peak = seen.map(|seen| TreePeak { bytes: seen.bytes.max(largest), ..seen });
    ended.tree = order.watched.then_some(match &group {
        Some(_) => TreeKept::ControlGroup,
        None => TreeKept::Parentage,
    });
    let Attended { stdout, stderr, watched_bytes, asked, over_limit } = attendant.end();
    if !asked && !over_limit {
        ended.left_behind = outlived;
    }
    (ended.stdout, ended.stderr, ended.watched_bytes) = (stdout, stderr, watched_bytes);
    // What ended by itself in the very moment of its limit was in time.
    (ended.asked, ended.over_limit) = (asked, over_limit && ended.wall >= order.limit);
    Ok(ended)
}

/// What was used up to now, by both of the kernel's books.
struct Account {
    children: Used,
    /// Of all that was ever in the group, and of this process, which is in it.
    group: Option<(Used, Used)>,
}

/// The two books are kept in other steps, and differ by less than this.
const TICK: Nanos = Nanos(10_000_000);

impl Account {
    fn of(group: Option<&Group>) -> Self {
        let all = group.and_then(|group| group.view().used());
        Self { children: used_by_children(), group: all.map(|all| (all, used_by_self())) }
    }

    /// Counts what children have used since among what was used before.
    fn but_for_children_since(self) -> Self {
        let children = used_by_children();
        let more = children.since(self.children);
        Self { children, group: self.group.map(|(all, own)| (all.plus(more), own)) }
    }

    /// Returns what was used since `before`, by the whole tree: what lost its parent was reaped here too. What the kernel
    /// reaped itself, because its parent ignores its end, only the group's book knows.
    fn since(&self, before: &Self) -> Used {
        let waited_for = self.children.since(before.children);
        let grown = |((all, own), (all_before, own_before)): ((Used, Used), (Used, Used))| {
            all.since(all_before).since(own.since(own_before))
        };
        let all = self.group.zip(before.group).map(grown);
        let more = |all: &Used| all.whole() > waited_for.whole().plus(TICK);
        all.filter(more).unwrap_or(waited_for)
    }
}

/// Our ends of a program's output and errors, and its terminal if it has one.
struct Connected {
    stdout: File,
    stderr: File,
    terminal: Option<Terminal>,
}

/// Connects the streams of `command`: each by a pipe, or all to a terminal of its own.
fn connect(order: &Order, command: &mut Command) -> io::Result<Connected> {
    if !order.terminal {
        let (stdout, child_stdout) = output_pipe()?;
        let (stderr, child_stderr) = output_pipe()?;
        command.stdout(child_stdout).stderr(child_stderr).process_group(0);
        return Ok(Connected { stdout, stderr, terminal: None });
    }
    let terminal = Terminal::open()?;
    command.stdin(terminal.stream()?).stdout(terminal.stream()?).stderr(terminal.stream()?);
    terminal.becomes_that_of(command)?;
    let (stdout, stderr) = (terminal.ours.try_clone()?, File::open("/dev/null")?);
    Ok(Connected { stdout, stderr, terminal: Some(terminal) })
}

/// Returns a pipe for a child's output: our end never waits, the other goes to the child.
fn output_pipe() -> io::Result<(File, OwnedFd)> {
    let (ours, theirs) = pipe_with(PipeFlags::CLOEXEC)?;
    rustix::io::ioctl_fionbio(&ours, true)?;
    // An ordinary pipe does too, with more pauses.
    let _ = fcntl_setpipe_size(&ours, PIPE_BYTES);
    Ok((File::from(ours), theirs))
}

/// Starts and reaps a program that does nothing, a few times, just before the lap.
///
/// After a pause caches are cold, cores asleep and our own code not in memory, and a short lap
/// would be charged for that. The rehearsals walk the same way; docs/measurements.md has the effect.
fn rehearse(folder: &str, times: u32) {
    for _ in 0..times {
        let nothing = Command::new("/bin/true")
            .current_dir(folder)
            // As a lap's is, its environment is put together anew.
            .env("HONEST_LAP_REHEARSAL", "1")
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn();
        if let Ok(child) = nothing {
            let _ = reap(child.id());
        }
    }
    let _ = poll(&mut [], Some(&timespec(0)));
    let _ = (now(), now_with_sleep());
}

fn not_started(program: &str, folder: &str, err: &io::Error) -> String {
    if !Path::new(folder).is_dir() {
        return format!("its folder `{folder}` is not there");
    }
    match err.kind() {
        io::ErrorKind::NotFound => format!("no program `{program}` was found"),
        io::ErrorKind::PermissionDenied => format!("`{program}` may not be executed"),
        _ => format!("`{program}`: {err}"),
    }
}
