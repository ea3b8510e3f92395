//! The tool's side of a starter: sends the order, waits for the report, passes on a stop.

use super::own_pid;
use super::wire::{Ended, Order, Report, read_report, write_order};
use super::{MARK, program};
use crate::error::MeasureError;
use crate::os::{Process, children, descendants, process, reap_if_ended, send};
use crate::stop::{Stop, timespec};
use honest_lap_core::unit::Nanos;
use rustix::event::{PollFd, PollFlags, poll};
use rustix::process::{Pid, Signal, kill_process};
use std::collections::BTreeSet;
use std::io::{self, BufReader, Write};
use std::os::fd::OwnedFd;
use std::os::unix::net::UnixStream;
use std::os::unix::process::CommandExt;
use std::process::{Command, Stdio};

/// Something that is done now and then beside a lap, by the thread that waits for its end.
pub(crate) trait Beside {
    /// Returns the time between two looks.
    fn pause(&self) -> Nanos;

    /// Looks, and says whether the lap goes on; `starter` is the process that owns it.
    fn look(&mut self, starter: u32) -> Result<Next, MeasureError>;
}

/// Whether a lap goes on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Next {
    /// It does.
    GoOn,
    /// It has done what it was to do, and is ended.
    End,
}

/// Starts what `order` says and returns what came of it; `stop` ends it early.
pub(crate) fn run(order: &Order, mark: &str, stop: &Stop) -> Result<Report, MeasureError> {
    run_beside(order, mark, stop, None)
}

/// As [`run`], with `beside` at work meanwhile. What fails there ends the lap.
///
/// `mark` is put into its environment, so that its processes can be found whatever happens. A
/// starter that is itself killed leaves no report: then the marked processes are ended here.
pub(crate) fn run_beside(
    order: &Order,
    mark: &str,
    stop: &Stop,
    mut beside: Option<&mut dyn Beside>,
) -> Result<Report, MeasureError> {
    let starter = |source| MeasureError::Starter { source };
    let (ours, theirs) = UnixStream::pair().map_err(starter)?;
    let mut child = Command::new(program::path())
        .arg0("lap-starter")
        .arg(program::argument())
        .env(MARK, mark)
        .stdin(Stdio::from(OwnedFd::from(theirs)))
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        // It leaves the terminal's reach by itself: Ctrl-C is for the tool, which ends the lap in order.
        .spawn()
        .map_err(starter)?;
    let mut failed = None;
    let owner = child.id();
    let pause = beside.as_ref().map(|beside| beside.pause());
    let mut look = || match beside.as_mut().map(|beside| beside.look(owner)) {
        Some(Ok(next)) => next,
        Some(Err(err)) => {
            failed = Some(err);
            Next::End
        }
        None => Next::GoOn,
    };
    let before = children(own_pid());
    let report = exchange(order, &ours, stop, (pause, owner), &mut look);
    drop(ours);
    if let Ok(None) = report {
        // It was asked and did not come to its end in time: nothing of it may stay.
        let _ = child.kill();
    }
    let _ = child.wait();
    if !matches!(report, Ok(Some(_))) {
        end_orphans(&before);
    }
    if let Some(err) = failed {
        return Err(err);
    }
    Ok(match report {
        Ok(Some(report)) => report,
        Ok(None) => Report::Ended(Box::new(Ended { asked: true, ..Ended::default() })),
        Err(err) => {
            crate::leftover::end_marked(mark);
            Report::NotStarted(format!("the process that starts laps ended too early ({err})"))
        }
    })
}

/// How long a lap may take to end after it was asked to: twice what its programs are given to do so by themselves would
/// be too long for whoever asked.
const PATIENCE: Nanos = Nanos(2_700_000_000);
/// How often it is looked meanwhile whether it was asked again.
const AGAIN: Nanos = Nanos(50_000_000);

/// Ends what a starter left that ended before its lap: it became this process's own child, unlike those of `before`.
fn end_orphans(before: &[i32]) {
    let mut all = BTreeSet::new();
    for _ in 0..ROUNDS {
        let mut roots = children(own_pid());
        roots.retain(|root| !before.contains(root));
        all.extend(roots.iter().copied());
        all.iter().for_each(|root| reap_if_ended(*root));
        let left: Vec<Process> = roots
            .iter()
            .flat_map(|root| process(*root).into_iter().chain(descendants(*root)))
            .collect();
        if left.is_empty() {
            return;
        }
        send(&left, Signal::STOP);
        send(&left, Signal::KILL);
        std::thread::sleep(std::time::Duration::from_millis(5));
    }
}

/// How often it is looked for what is left; what will not end then is held by the kernel.
const ROUNDS: u32 = 100;

/// Returns what came of the order; `None` if it was to end and did not.
fn exchange(
    order: &Order,
    socket: &UnixStream,
    stop: &Stop,
    (pause, owner): (Option<Nanos>, u32),
    look: &mut dyn FnMut() -> Next,
) -> io::Result<Option<Report>> {
    write_order(order, socket)?;
    let mut due = pause.map(|pause| crate::now().0.saturating_add(pause.0));
    loop {
        let left = due.map(|due| timespec(due.saturating_sub(crate::now().0)));
        let mut fds = [
            PollFd::new(socket, PollFlags::IN),
            PollFd::from_borrowed_fd(stop.fd(), PollFlags::IN),
        ];
        match poll(&mut fds, Some(&left.unwrap_or(timespec(STOPPED.0)))) {
            // A lap may have stopped its own starter, which then never answers.
            Ok(0) => go_on(owner),
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(err) => return Err(err.into()),
        }
        if !fds[0].revents().is_empty() {
            break;
        }
        let asked = !fds[1].revents().is_empty();
        let mut over = false;
        if let (Some(at), Some(pause)) = (due, pause)
            && crate::now().0 >= at
        {
            over = look() == Next::End;
            due = Some(crate::now().0.saturating_add(pause.0));
        }
        if asked || over {
            return ended(socket, owner, stop);
        }
    }
    read_report(BufReader::new(socket)).map(Some)
}

/// How long a starter may be stopped before it is made to go on.
const STOPPED: Nanos = Nanos(1_000_000_000);

/// Has a starter that was stopped go on; to one that was not it is nothing.
fn go_on(starter: u32) {
    let starter = i32::try_from(starter).ok().and_then(Pid::from_raw);
    let _ = starter.map(|starter| kill_process(starter, Signal::CONT));
}

/// Asks the starter to end its lap, and waits for that: not for long, and not at all if it is asked twice.
fn ended(mut socket: &UnixStream, starter: u32, stop: &Stop) -> io::Result<Option<Report>> {
    let until = crate::now().0.saturating_add(PATIENCE.0);
    // A lap may have stopped its own starter.
    go_on(starter);
    socket.write_all(b"end\n")?;
    while crate::now().0 < until && !stop.urgent() {
        let mut fds = [PollFd::new(socket, PollFlags::IN)];
        if poll(&mut fds, Some(&timespec(AGAIN.0))).is_ok_and(|ready| ready > 0) {
            return read_report(BufReader::new(socket)).map(Some);
        }
    }
    Ok(None)
}
