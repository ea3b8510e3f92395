//! The tool's side of a starter: sends the order, waits for the report, passes on a stop.

use super::wire::{Order, Report, read_report, write_order};
use super::{MARK, STARTER_ARGUMENT};
use crate::error::MeasureError;
use crate::stop::{Stop, timespec};
use honest_lap_core::unit::Nanos;
use rustix::event::{PollFd, PollFlags, poll};
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
    // The running program itself, even if its file was replaced meanwhile.
    let mut child = Command::new("/proc/self/exe")
        .arg0("lap-starter")
        .arg(STARTER_ARGUMENT)
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
    let report = exchange(order, &ours, stop, pause, &mut look);
    drop(ours);
    let _ = child.wait();
    if let Some(err) = failed {
        return Err(err);
    }
    Ok(report.unwrap_or_else(|err| {
        crate::leftover::end_marked(mark);
        Report::NotStarted(format!("the process that starts laps ended too early ({err})"))
    }))
}

fn exchange(
    order: &Order,
    socket: &UnixStream,
    stop: &Stop,
    pause: Option<Nanos>,
    look: &mut dyn FnMut() -> Next,
) -> io::Result<Report> {
    write_order(order, socket)?;
    let mut due = pause.map(|pause| crate::now().0.saturating_add(pause.0));
    loop {
        let left = due.map(|due| timespec(due.saturating_sub(crate::now().0)));
        let mut fds = [
            PollFd::new(socket, PollFlags::IN),
            PollFd::from_borrowed_fd(stop.fd(), PollFlags::IN),
        ];
        match poll(&mut fds, left.as_ref()) {
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
            let mut socket = socket;
            socket.write_all(b"end\n")?;
            break;
        }
    }
    read_report(BufReader::new(socket))
}
