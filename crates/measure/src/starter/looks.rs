//! Looking at the tree of a lap now and then, by a thread of its own: how much memory it holds, and who in it has ended
//! without a parent to wait for it.

use super::moment::Begun;
use super::tree::tree;
use crate::os::{GroupView, now, reap_orphans_but};
use crate::stop::timespec;
use honest_lap_core::record::{TreeMemory, TreePeak};
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::event::{EventfdFlags, PollFd, PollFlags, eventfd, poll};
use std::io;
use std::os::fd::OwnedFd;
use std::thread::JoinHandle;

/// The first look, and the least time between two.
const LOOK: Nanos = Nanos(500_000_000);
/// A look may take this share of the time: one in so many parts.
const SHARE: u64 = 1_000;
const STACK_BYTES: usize = 256 << 10;

/// The thread that looks.
pub(super) struct Looks {
    thread: JoinHandle<Option<TreePeak>>,
    /// Readable once the program has ended.
    over: OwnedFd,
}

impl Looks {
    pub(super) fn begin(group: Option<&GroupView>, begun: Begun) -> io::Result<Self> {
        let over = eventfd(0, EventfdFlags::CLOEXEC)?;
        let (seen, members) = (over.try_clone()?, group.cloned());
        let thread = std::thread::Builder::new()
            .stack_size(STACK_BYTES)
            .spawn(move || look(members.as_ref(), &begun, &seen))?;
        Ok(Self { thread, over })
    }

    /// Returns the most memory that the tree was seen to hold at once, if it was looked at.
    pub(super) fn end(self) -> Option<TreePeak> {
        let _ = rustix::io::write(&self.over, &1_u64.to_ne_bytes());
        self.thread.join().ok().flatten()
    }
}

fn look(group: Option<&GroupView>, begun: &Begun, over: &OwnedFd) -> Option<TreePeak> {
    let mut next = Stamp(now().0.saturating_add(LOOK.0));
    let mut peak: Option<TreePeak> = None;
    loop {
        let timeout = timespec(next.since(now()).unwrap_or_default().0);
        let mut fds = [PollFd::new(over, PollFlags::IN)];
        let waited = poll(&mut fds, Some(&timeout));
        if waited.is_ok_and(|ready| ready > 0) {
            return peak;
        }
        let at = now();
        if at < next {
            continue;
        }
        // Nothing is reaped that may be the program itself, or a rehearsal of it.
        let Some(child) = begun.program() else {
            next = Stamp(at.0.saturating_add(LOOK.0));
            continue;
        };
        reap_orphans_but(child);
        let held = held(group);
        peak = Some(peak.filter(|peak| peak.bytes >= held.bytes).unwrap_or(held));
        let after = now();
        // The longer a look takes, the longer until the next.
        let took = after.since(at).unwrap_or_default();
        next = Stamp(after.0.saturating_add(took.0.saturating_mul(SHARE).max(LOOK.0)));
    }
}

/// Returns the memory that the tree holds now.
fn held(group: Option<&GroupView>) -> TreePeak {
    // The starter is in the group too, and let go of all that it could.
    if let Some(bytes) = group.and_then(GroupView::resident_bytes) {
        return TreePeak { bytes, by: TreeMemory::ControlGroup };
    }
    let bytes = tree(group).iter().map(|process| process.resident_bytes).sum();
    TreePeak { bytes, by: TreeMemory::ResidentSets }
}
