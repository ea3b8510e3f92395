//! The tree that a lap started: who is in it, and its end.

use crate::clock::now;
use crate::process::{GroupView, Process, below, processes, reap_orphans, send};
use honest_lap_core::unit::Nanos;
use rustix::process::Signal;

/// How long what outlived a lap may take to end by itself.
const LEFT_BEHIND_GRACE: Nanos = Nanos(300_000_000);
/// How long it is waited for at all.
const LEFT_BEHIND_PATIENCE: Nanos = Nanos::from_seconds(10);
/// How often it is looked at meanwhile.
const LOOK: std::time::Duration = std::time::Duration::from_millis(5);

/// Returns everything that the lap started and that lives: what is below this process, and what is
/// in its group.
pub(super) fn tree(group: Option<&GroupView>) -> Vec<Process> {
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
pub(super) fn end_tree(group: Option<&GroupView>) -> Vec<String> {
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
        std::thread::sleep(LOOK);
    }
}

pub(super) fn own_pid() -> i32 {
    rustix::process::getpid().as_raw_nonzero().get()
}
