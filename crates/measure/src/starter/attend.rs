//! What is seen to while a lap runs, by a thread of its own: its output, a file that it appends to, its limit, and the
//! tool's wish that it end. Nothing of this can delay the start, nor the moment of the end.

use super::moment::Begun;
use super::stream::Stream;
use super::tree::{kill_all, tree};
use super::watched::Watched;
use crate::os::{GroupView, now, send};
use crate::stop::timespec;
use honest_lap_core::record::Captured;
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::event::{EventfdFlags, PollFd, PollFlags, eventfd, poll};
use rustix::process::Signal;
use std::fs::File;
use std::io;
use std::os::fd::OwnedFd;
use std::os::unix::net::UnixStream;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::JoinHandle;
use std::time::Duration;

/// How long a tree may take to end by itself after it was asked to.
const GRACE: Nanos = Nanos::from_seconds(2);
/// How often a tree that is being killed is looked at again.
const POLL_GRACE: Nanos = Nanos(20_000_000);
/// How often it is looked for the start when there is something to do already.
const NAP: Duration = Duration::from_millis(1);
/// How long is listened for what was written before the end.
const LAST_WORDS: Nanos = Nanos::from_seconds(1);
const BUFFER_BYTES: usize = 64 << 10;
/// A thread that keeps both ends of two streams needs no more.
const STACK_BYTES: usize = 256 << 10;

/// What there is to see to.
pub(super) struct Duties {
    pub(super) stdout: Stream<File>,
    pub(super) stderr: Stream<File>,
    pub(super) watched: Option<Watched>,
    pub(super) limit: Nanos,
    pub(super) group: Option<GroupView>,
    pub(super) socket: UnixStream,
}

/// What came of it.
#[derive(Default)]
pub(super) struct Attended {
    pub(super) stdout: Captured,
    pub(super) stderr: Captured,
    pub(super) watched_bytes: u64,
    /// It was ended because the tool asked.
    pub(super) asked: bool,
    /// It was ended at its limit.
    pub(super) over_limit: bool,
}

/// The thread that sees to it. It listens before the program is started, so that nobody has to be woken at that moment.
pub(super) struct Attendant {
    thread: JoinHandle<Attended>,
    /// Whether the program itself has ended: then it is neither too late nor to be asked.
    ended: Arc<AtomicBool>,
    /// Readable once nobody holds the other end of the lap's output any more.
    over: OwnedFd,
}

impl Attendant {
    pub(super) fn begin(duties: Duties, begun: Begun) -> io::Result<Self> {
        let over = eventfd(0, EventfdFlags::CLOEXEC)?;
        let (seen, ended) = (over.try_clone()?, Arc::new(AtomicBool::new(false)));
        let has_ended = Arc::clone(&ended);
        let thread = std::thread::Builder::new()
            .stack_size(STACK_BYTES)
            .spawn(move || attend(duties, &begun, &has_ended, &seen))?;
        Ok(Self { thread, ended, over })
    }

    /// Says that the program has ended; what it started may still be there, and write.
    pub(super) fn program_ended(&self) {
        self.ended.store(true, Ordering::Relaxed);
    }

    /// Imports what still waits, once nobody holds the other end of the lap's output any more.
    pub(super) fn end(self) -> Attended {
        let _ = rustix::io::write(&self.over, &1_u64.to_ne_bytes());
        self.thread.join().unwrap_or_default()
    }
}

fn attend(mut duties: Duties, begun: &Begun, ended: &AtomicBool, over: &OwnedFd) -> Attended {
    let mut attended = Attended::default();
    let mut buffer = vec![0; BUFFER_BYTES];
    let mut ending: Option<Ending> = None;
    loop {
        // Until it is started its limit is at least so far away.
        let from = begun.at().unwrap_or_else(now);
        let next = match &ending {
            Some(ending) => ending.again,
            None => duties.deadline(from),
        };
        let ready = duties.wait(over, next, ending.is_none());
        duties.begin_at(begun.at());
        if ready.over {
            break;
        }
        let Some(started) = begun.at() else {
            // What the tool wishes is heard once there is something to end.
            std::thread::sleep(NAP);
            continue;
        };
        duties.stdout.drain_once(&mut buffer);
        duties.stderr.drain_once(&mut buffer);
        if let Some(watched) = &mut duties.watched {
            watched.look();
        }
        let at = now();
        if ended.load(Ordering::Relaxed) {
            ending = Some(Ending { again: Stamp(u64::MAX) });
            continue;
        }
        match &mut ending {
            None if ready.tool => {
                attended.asked = true;
                ending = Some(Ending::ask(at, duties.group.as_ref()));
            }
            None if at >= duties.deadline(started) => {
                attended.over_limit = true;
                ending = Some(Ending::ask(at, duties.group.as_ref()));
            }
            Some(ending) if at >= next => ending.insist(at, duties.group.as_ref()),
            _ => {}
        }
    }
    // What still waits in the pipes is the lap's. Who could not be ended may go on writing: not for ever.
    let until = now().0.saturating_add(LAST_WORDS.0);
    for stream in [&mut duties.stdout, &mut duties.stderr] {
        while stream.drain_once(&mut buffer) && now().0 < until {}
    }
    attended.watched_bytes = duties.watched.map_or(0, |mut watched| {
        watched.look();
        watched.bytes()
    });
    (attended.stdout, attended.stderr) = (duties.stdout.finish(), duties.stderr.finish());
    attended
}

impl Duties {
    /// Returns when a program that was started at `started` has had its time.
    fn deadline(&self, started: Stamp) -> Stamp {
        Stamp(started.0.saturating_add(self.limit.0))
    }

    /// Passes on when the program was started, once that is known.
    fn begin_at(&mut self, at: Option<Stamp>) {
        let Some(at) = at else { return };
        self.stdout.begin(at);
        self.stderr.begin(at);
        if let Some(watched) = &mut self.watched {
            watched.begin_at(at);
        }
    }

    /// Waits until the program is over, output waits, the tool has something to say or is gone
    /// (`listen`), or it is `until`.
    fn wait(&self, over: &OwnedFd, until: Stamp, listen: bool) -> Ready {
        let timeout = timespec(until.since(now()).unwrap_or_default().0);
        let mut fds = vec![PollFd::new(over, PollFlags::IN)];
        if listen {
            fds.push(PollFd::new(&self.socket, PollFlags::IN));
        }
        fds.extend(self.stdout.open().map(|fd| PollFd::new(fd, PollFlags::IN)));
        fds.extend(self.stderr.open().map(|fd| PollFd::new(fd, PollFlags::IN)));
        fds.extend(self.watched.as_ref().map(|w| PollFd::from_borrowed_fd(w.fd(), PollFlags::IN)));
        if poll(&mut fds, Some(&timeout)).is_err() {
            return Ready { over: false, tool: false };
        }
        Ready { over: !fds[0].revents().is_empty(), tool: listen && !fds[1].revents().is_empty() }
    }
}

struct Ready {
    over: bool,
    tool: bool,
}

/// A tree that has been asked to end, and when that is said again.
struct Ending {
    again: Stamp,
}

impl Ending {
    fn ask(at: Stamp, group: Option<&GroupView>) -> Self {
        send(&tree(group), Signal::TERM);
        Self { again: Stamp(at.0.saturating_add(GRACE.0)) }
    }

    fn insist(&mut self, at: Stamp, group: Option<&GroupView>) {
        kill_all(group);
        self.again = Stamp(at.0.saturating_add(POLL_GRACE.0));
    }
}
