//! The tree that a lap started: who is in it, and its end.

use crate::os::{GroupView, Process, descendants, has_children, now, reap_orphans, send};
use honest_lap_core::unit::Nanos;
use rustix::process::Signal;
use std::collections::BTreeSet;

/// How long what outlived a lap may take to end by itself.
const LEFT_BEHIND_GRACE: Nanos = Nanos(300_000_000);
/// How long it is waited for at all.
const LEFT_BEHIND_PATIENCE: Nanos = Nanos::from_seconds(10);
/// How often it is looked at meanwhile.
const LOOK: std::time::Duration = std::time::Duration::from_millis(5);

/// How often it is looked for what is not stopped yet: more than any tree of ours is deep.
const ROUNDS: usize = 500;

/// Returns everything that the lap started and that lives: what is below this process, and what is
/// in its group.
pub(super) fn tree(group: Option<&GroupView>) -> Vec<Process> {
    let mut found = descendants(own_pid());
    for member in group.map(GroupView::members).unwrap_or_default() {
        if !found.iter().any(|known| known.pid == member.pid) {
            found.push(member);
        }
    }
    found
}

/// Ends the whole tree: asks, then insists, until the kernel says that this process has no children left. Returns the
/// names of what was there.
///
/// What will not end even so (another user's, or held by the kernel) is named as such and left.
pub(super) fn end_tree(group: Option<&GroupView>) -> Vec<String> {
    reap_orphans();
    let mut first = tree(group);
    if first.is_empty() && !has_children() {
        return Vec::new();
    }
    send(&first, Signal::TERM);
    let begun = now().0;
    loop {
        reap_orphans();
        let rest: Vec<Process> = tree(group);
        if first.is_empty() {
            first.clone_from(&rest);
        }
        let gone = rest.is_empty() && !has_children();
        let waited = now().0.saturating_sub(begun);
        if gone || waited > LEFT_BEHIND_PATIENCE.0 {
            let stays = |process: &Process| rest.iter().any(|other| other.pid == process.pid);
            let said = |process: &Process| match stays(process) {
                true => format!("{} (would not end)", process.name),
                false => process.name.clone(),
            };
            return first.iter().map(said).collect();
        }
        if waited >= LEFT_BEHIND_GRACE.0 {
            kill_all(group);
        }
        std::thread::sleep(LOOK);
    }
}

/// Kills the whole tree: a control group by the kernel at once; otherwise first all of it is stopped, until nothing new is found. What is killed one by one can fork
/// from each look; what is stopped cannot.
pub(super) fn kill_all(group: Option<&GroupView>) {
    if group.is_some_and(GroupView::kill) {
        return;
    }
    let mut stopped = BTreeSet::new();
    for _ in 0..ROUNDS {
        let mut fresh = tree(group);
        fresh.retain(|process| stopped.insert(process.pid));
        if fresh.is_empty() {
            break;
        }
        send(&fresh, Signal::STOP);
    }
    send(&tree(group), Signal::KILL);
}

pub(crate) fn own_pid() -> i32 {
    rustix::process::getpid().as_raw_nonzero().get()
}
