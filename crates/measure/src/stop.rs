//! The request to stop, from a signal handler to whatever is waiting.

use rustix::event::{EventfdFlags, PollFd, PollFlags, Timespec, eventfd, poll};
use std::os::fd::{BorrowedFd, OwnedFd};

/// A descriptor that becomes readable when everything is to end, and stays so.
#[derive(Debug)]
pub struct Stop(OwnedFd);

impl Stop {
    /// Returns a stop that is requested as soon as `fd` can be read; it is never read here.
    pub fn new(fd: OwnedFd) -> Self {
        Self(fd)
    }

    /// Returns a stop that is never requested, for what must still be done after a request.
    pub(crate) fn never() -> std::io::Result<Self> {
        // An event count of 0 cannot be read.
        Ok(Self(eventfd(0, EventfdFlags::CLOEXEC)?))
    }

    /// Returns whether it has been requested.
    pub fn requested(&self) -> bool {
        self.wait(honest_lap_core::unit::Nanos(0))
    }

    /// Waits for `span`, or until the request; returns whether it has been requested.
    pub fn wait(&self, span: honest_lap_core::unit::Nanos) -> bool {
        let end = crate::now().0.saturating_add(span.0);
        loop {
            let left = end.saturating_sub(crate::now().0);
            let timeout = timespec(left);
            let mut fds = [PollFd::new(&self.0, PollFlags::IN)];
            match poll(&mut fds, Some(&timeout)) {
                Ok(0) => return false,
                Ok(_) => return true,
                Err(rustix::io::Errno::INTR) => {}
                Err(_) => return false,
            }
        }
    }

    /// Returns whether it was requested more than once: then nothing is waited for any more.
    pub(crate) fn urgent(&self) -> bool {
        self.requests() > 1
    }

    /// Returns how often it was requested.
    pub fn requests(&self) -> u64 {
        // Each request is a byte that is never read here; what is no stream of requests has none.
        rustix::io::ioctl_fionread(&self.0).unwrap_or(0)
    }

    pub(crate) fn fd(&self) -> BorrowedFd<'_> {
        std::os::fd::AsFd::as_fd(&self.0)
    }
}

/// Returns `ns` nanoseconds as the kernel takes a timeout.
pub(crate) fn timespec(ns: u64) -> Timespec {
    // A timeout of more than a century is cut to one; poll loops look again anyway.
    let ns = ns.min(3_000_000_000_000_000_000);
    Timespec { tv_sec: (ns / 1_000_000_000) as i64, tv_nsec: (ns % 1_000_000_000) as i64 }
}
