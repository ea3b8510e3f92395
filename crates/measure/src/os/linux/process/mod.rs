//! Processes of this machine: the tree below one of them, signals, and how one ended.

mod group;
mod reap;
mod tree;

pub(crate) use group::{Group, GroupView, end_members, place_of};
pub(crate) use reap::{
    has_children, moved_by_children, reap, reap_if_ended, reap_orphans, reap_orphans_but,
    used_by_children, used_by_self,
};
pub(crate) use tree::{children, descendants, process, processes, send};

/// Returns the short name of `signal`, or its number.
pub(crate) fn signal_name(signal: i32) -> String {
    const NAMES: [(i32, &str); 16] = [
        (libc::SIGHUP, "HUP"),
        (libc::SIGINT, "INT"),
        (libc::SIGQUIT, "QUIT"),
        (libc::SIGILL, "ILL"),
        (libc::SIGTRAP, "TRAP"),
        (libc::SIGABRT, "ABRT"),
        (libc::SIGBUS, "BUS"),
        (libc::SIGFPE, "FPE"),
        (libc::SIGKILL, "KILL"),
        (libc::SIGUSR1, "USR1"),
        (libc::SIGSEGV, "SEGV"),
        (libc::SIGUSR2, "USR2"),
        (libc::SIGPIPE, "PIPE"),
        (libc::SIGALRM, "ALRM"),
        (libc::SIGTERM, "TERM"),
        (libc::SIGSYS, "SYS"),
    ];
    NAMES
        .iter()
        .find(|(number, _)| *number == signal)
        .map_or_else(|| format!("number {signal}"), |(_, name)| (*name).to_owned())
}
