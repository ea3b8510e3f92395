//! The tool's side of a starter: sends the order, waits for the report, passes on a stop.

use super::wire::{Order, Report, read_report, write_order};
use super::{MARK, STARTER_ARGUMENT};
use crate::error::MeasureError;
use crate::stop::Stop;
use rustix::event::{PollFd, PollFlags, poll};
use std::io::{self, BufReader, Write};
use std::os::fd::OwnedFd;
use std::os::unix::net::UnixStream;
use std::os::unix::process::CommandExt;
use std::process::{Command, Stdio};

/// Starts what `order` says and returns what came of it; `stop` ends it early.
///
/// `mark` is put into its environment, so that its processes can be found whatever happens. A
/// starter that is itself killed leaves no report: then the marked processes are ended here.
pub(crate) fn run(order: &Order, mark: &str, stop: &Stop) -> Result<Report, MeasureError> {
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
        // Out of the terminal's reach: Ctrl-C is for the tool, which ends the lap in order.
        .process_group(0)
        .spawn()
        .map_err(starter)?;
    let report = exchange(order, &ours, stop);
    drop(ours);
    let _ = child.wait();
    Ok(report.unwrap_or_else(|err| {
        crate::leftover::end_marked(mark);
        Report::NotStarted(format!("the process that starts laps ended too early ({err})"))
    }))
}

fn exchange(order: &Order, socket: &UnixStream, stop: &Stop) -> io::Result<Report> {
    write_order(order, socket)?;
    loop {
        let mut fds = [
            PollFd::new(socket, PollFlags::IN),
            PollFd::from_borrowed_fd(stop.fd(), PollFlags::IN),
        ];
        match poll(&mut fds, None) {
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(err) => return Err(err.into()),
        }
        if !fds[0].revents().is_empty() {
            break;
        }
        if !fds[1].revents().is_empty() {
            let mut socket = socket;
            socket.write_all(b"end\n")?;
            break;
        }
    }
    read_report(BufReader::new(socket))
}
