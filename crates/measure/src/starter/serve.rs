//! The starter's own side: one order in, one report out.

use super::memory;
use super::stream::Stream;
use super::watched::Watched;
use super::wire::{Ended, Order, Report, read_order, write_report};
use crate::clock::{now, now_with_sleep};
use crate::process::{
    Group, Process, Used, below, descendants, processes, reap, reap_orphans, send, used_by_children,
};
use crate::spool::Spool;
use crate::stop::timespec;
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::event::{PollFd, PollFlags, poll};
use rustix::pipe::{PipeFlags, fcntl_setpipe_size, pipe_with};
use rustix::process::{Pid, PidfdFlags, Signal, pidfd_open, set_child_subreaper};
use std::fs::File;
use std::io::{self, BufReader};
use std::os::fd::{AsFd, OwnedFd};
use std::os::unix::net::UnixStream;
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, Command, ExitCode, Stdio};

/// How long a tree may take to end by itself after it was asked to.
const GRACE: Nanos = Nanos::from_seconds(2);
/// How long what outlived a lap may take.
const LEFT_BEHIND_GRACE: Nanos = Nanos(300_000_000);
/// How long it is waited for at all.
const LEFT_BEHIND_PATIENCE: Nanos = Nanos::from_seconds(10);
/// How often a tree that is being killed is looked at again.
const POLL_GRACE: Nanos = Nanos(20_000_000);
const BUFFER_BYTES: usize = 64 << 10;
/// Starts of nothing ahead of each lap; ten were no better than three.
const REHEARSALS: u32 = 3;
/// The largest pipe that an ordinary user may ask for: fewer pauses of a talkative program.
const PIPE_BYTES: usize = 1 << 20;

/// Serves one order that comes in on standard input, which is a socket to the tool.
pub fn serve() -> ExitCode {
    let served = io::stdin().as_fd().try_clone_to_owned().and_then(|fd| {
        let socket = UnixStream::from(fd);
        set_child_subreaper(Some(rustix::process::getpid()))?;
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
    match Running::start(order) {
        Ok(running) => Report::Ended(Box::new(running.finish(order.limit, socket))),
        Err(why) => Report::NotStarted(why),
    }
}

struct Running {
    child: Child,
    pidfd: OwnedFd,
    stdout: Stream<File>,
    stderr: Stream<File>,
    watched: Option<Watched>,
    /// The group around it, where one is permitted.
    group: Option<Group>,
    memory: TreeMemory,
    /// What earlier children of ours used.
    used_before: Used,
    started: Stamp,
    started_with_sleep: Stamp,
    floor_bytes: u64,
}

/// A tree that has been asked to end, and when that is said again.
struct Ending {
    again: Stamp,
}

impl Running {
    fn start(order: &Order) -> Result<Self, String> {
        let (program, arguments) = order.command.split_first().ok_or("the command is empty")?;
        let stdin = match &order.stdin {
            Some(path) => File::open(path)
                .map(Stdio::from)
                .map_err(|err| format!("standard input `{path}`: {err}"))?,
            None => Stdio::null(),
        };
        let unconnected = |err: io::Error| format!("its output could not be connected: {err}");
        let (stdout, child_stdout) = output_pipe().map_err(unconnected)?;
        let (stderr, child_stderr) = output_pipe().map_err(unconnected)?;
        let mut command = Command::new(program);
        command
            .args(arguments)
            .current_dir(&order.folder)
            .envs(order.environment.iter().map(|(name, value)| (name, value)))
            .stdin(stdin)
            .stdout(child_stdout)
            .stderr(child_stderr)
            .process_group(0);
        let spooled = |path: &Option<String>| {
            let create = |path: &String| Spool::create(Path::new(path));
            path.as_ref().map(create).transpose().map_err(unconnected)
        };
        let mut stdout = Stream::new(stdout, spooled(&order.spools.stdout)?);
        let mut stderr = Stream::new(stderr, spooled(&order.spools.stderr)?);
        let watched = order.spools.watched.as_ref().map(Watched::begin).transpose();
        let mut watched = watched.map_err(unconnected)?;
        let group = if order.watched { Group::join() } else { None };
        memory::shrink();
        rehearse(&order.folder);
        let used_before = used_by_children();
        memory::reset_peak();
        let floor_bytes = memory::peak_bytes();
        let started_with_sleep = now_with_sleep();
        let started = now();
        let child = command.spawn().map_err(|err| not_started(program, &order.folder, &err))?;
        stdout.begin(started);
        stderr.begin(started);
        if let Some(watched) = &mut watched {
            watched.begin_at(started);
        }
        // The command holds our copies of the ends that the child writes to.
        drop(command);
        let pidfd = pidfd(&child).map_err(|err| {
            end_tree(None);
            format!("it cannot be watched: {err}")
        })?;
        let memory = TreeMemory::new(order.watched, started);
        Ok(Self {
            child,
            pidfd,
            stdout,
            stderr,
            watched,
            group,
            memory,
            used_before,
            started,
            started_with_sleep,
            floor_bytes,
        })
    }

    fn finish(mut self, limit: Nanos, socket: &UnixStream) -> Ended {
        let mut ended = Ended::default();
        let mut buffer = vec![0; BUFFER_BYTES];
        let mut ending: Option<Ending> = None;
        let deadline = Stamp(self.started.0.saturating_add(limit.0));
        let (reaped, stopped) = loop {
            let next = ending.as_ref().map_or(deadline, |ending| ending.again);
            let wake = self.memory.next.map_or(next, |look| look.min(next));
            let ready = self.wait(socket, wake, ending.is_none());
            if ready.child {
                let reaped = reap(self.child.id());
                break (reaped, now());
            }
            self.stdout.drain_once(&mut buffer);
            self.stderr.drain_once(&mut buffer);
            if let Some(watched) = &mut self.watched {
                watched.look();
            }
            let at = now();
            self.memory.look_if_due(at, self.group.as_ref());
            match &mut ending {
                None if ready.tool => {
                    ended.asked = true;
                    ending = Some(Ending::ask(at));
                }
                None if at >= deadline => {
                    ended.over_limit = true;
                    ending = Some(Ending::ask(at));
                }
                Some(ending) if at >= next => ending.insist(at),
                _ => {}
            }
        };
        let slept_end = now_with_sleep();
        ended.wall = stopped.since(self.started).unwrap_or_default();
        let with_sleep = slept_end.since(self.started_with_sleep).unwrap_or_default();
        // The two clocks are read one after the other; only more than a second is sleep.
        let slept = with_sleep.minus(ended.wall);
        ended.slept = if slept.0 >= Nanos::PER_SECOND { slept } else { Nanos(0) };
        if let Ok(reaped) = reaped {
            (ended.exit_code, ended.signal) = (reaped.exit_code, reaped.signal);
            ended.usage.peak_bytes = reaped.peak_bytes;
            ended.usage.peak_floor_bytes = self.floor_bytes;
        }
        let outlived = end_tree(self.group.as_ref());
        // Of the whole tree: what lost its parent was reaped here too.
        let used = used_by_children();
        ended.usage.user = used.user.minus(self.used_before.user);
        ended.usage.system = used.system.minus(self.used_before.system);
        let seen = self.memory.peak_bytes.map(|seen| seen.max(ended.usage.peak_bytes));
        ended.tree_peak_bytes = self.group.as_ref().and_then(Group::peak_bytes).or(seen);
        if ending.is_none() {
            ended.left_behind = outlived;
        }
        // What still waits in the pipes is the lap's; nobody holds their other end any more.
        while self.stdout.drain_once(&mut buffer) {}
        while self.stderr.drain_once(&mut buffer) {}
        ended.watched_bytes = self.watched.map_or(0, |mut watched| {
            watched.look();
            watched.bytes()
        });
        (ended.stdout, ended.stderr) = (self.stdout.finish(), self.stderr.finish());
        ended
    }

    /// Waits until the child has ended, output waits, the tool has something to say or is gone
    /// (`listen`), or it is `until`.
    fn wait(&self, socket: &UnixStream, until: Stamp, listen: bool) -> Ready {
        let timeout = timespec(until.since(now()).unwrap_or_default().0);
        let mut fds = vec![PollFd::new(&self.pidfd, PollFlags::IN)];
        if listen {
            fds.push(PollFd::new(socket, PollFlags::IN));
        }
        fds.extend(self.stdout.open().map(|fd| PollFd::new(fd, PollFlags::IN)));
        fds.extend(self.stderr.open().map(|fd| PollFd::new(fd, PollFlags::IN)));
        fds.extend(self.watched.as_ref().map(|w| PollFd::from_borrowed_fd(w.fd(), PollFlags::IN)));
        if poll(&mut fds, Some(&timeout)).is_err() {
            return Ready { child: false, tool: false };
        }
        Ready { child: !fds[0].revents().is_empty(), tool: listen && !fds[1].revents().is_empty() }
    }
}

struct Ready {
    child: bool,
    tool: bool,
}

impl Ending {
    fn ask(at: Stamp) -> Self {
        send(&descendants(own_pid()), Signal::TERM);
        Self { again: Stamp(at.0.saturating_add(GRACE.0)) }
    }

    /// A tree may go on forking while it is killed, so this is repeated until the child is gone.
    fn insist(&mut self, at: Stamp) {
        send(&descendants(own_pid()), Signal::KILL);
        self.again = Stamp(at.0.saturating_add(POLL_GRACE.0));
    }
}

/// The memory of the whole tree, looked at now and then.
struct TreeMemory {
    /// When it is looked at next; `None` where it is not.
    next: Option<Stamp>,
    peak_bytes: Option<u64>,
}

/// The first look, and the least time between two.
const MEMORY_LOOK: Nanos = Nanos(500_000_000);
/// A look may take this share of the time: one in so many parts.
const MEMORY_SHARE: u64 = 1_000;

impl TreeMemory {
    fn new(watched: bool, started: Stamp) -> Self {
        let next = watched.then(|| Stamp(started.0.saturating_add(MEMORY_LOOK.0)));
        Self { next, peak_bytes: None }
    }

    /// Looks at every process of the tree if it is time to, and decides when it is time again: the
    /// longer a look takes, the longer until the next.
    fn look_if_due(&mut self, at: Stamp, group: Option<&Group>) {
        if self.next.is_none_or(|next| at < next) {
            return;
        }
        let held: u64 = tree(group).iter().map(|process| process.resident_bytes).sum();
        self.peak_bytes = self.peak_bytes.max(Some(held));
        let after = now();
        let took = after.since(at).unwrap_or_default();
        let pause = took.0.saturating_mul(MEMORY_SHARE).max(MEMORY_LOOK.0);
        self.next = Some(Stamp(after.0.saturating_add(pause)));
    }
}

/// Returns everything that the lap started and that lives: what is below this process, and what is
/// in its group.
fn tree(group: Option<&Group>) -> Vec<Process> {
    let all = processes();
    let members = group.map(|group| group.members(&all)).unwrap_or_default();
    let mut found = below(own_pid(), all);
    for member in members {
        if !found.iter().any(|known| known.pid == member.pid) {
            found.push(member);
        }
    }
    found
}

/// Ends the whole tree: asks, then insists. Returns the names of what was there.
///
/// What will not end even so (another user's, or held by the kernel) is named as such and left.
fn end_tree(group: Option<&Group>) -> Vec<String> {
    reap_orphans();
    let first = tree(group);
    if first.is_empty() {
        return Vec::new();
    }
    send(&first, Signal::TERM);
    let begun = now().0;
    loop {
        reap_orphans();
        let rest: Vec<Process> = tree(group);
        let waited = now().0.saturating_sub(begun);
        if rest.is_empty() || waited > LEFT_BEHIND_PATIENCE.0 {
            let stays = |process: &Process| rest.iter().any(|other| other.pid == process.pid);
            let said = |process: &Process| match stays(process) {
                true => format!("{} (would not end)", process.name),
                false => process.name.clone(),
            };
            return first.iter().map(said).collect();
        }
        if waited >= LEFT_BEHIND_GRACE.0 {
            send(&rest, Signal::KILL);
        }
        std::thread::sleep(std::time::Duration::from_millis(5));
    }
}

fn own_pid() -> i32 {
    rustix::process::getpid().as_raw_nonzero().get()
}

fn pidfd(child: &Child) -> io::Result<OwnedFd> {
    let pid = i32::try_from(child.id()).ok().and_then(Pid::from_raw);
    let pid = pid.ok_or(io::ErrorKind::InvalidData)?;
    Ok(pidfd_open(pid, PidfdFlags::empty())?)
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
fn rehearse(folder: &str) {
    for _ in 0..REHEARSALS {
        let nothing = Command::new("/bin/true")
            .current_dir(folder)
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
