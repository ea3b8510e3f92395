//! Waiting for a child with what it used: the one call that the standard library has not.

use crate::os::told::{Reaped, Used};
use honest_lap_core::unit::Nanos;
use std::io;

/// Waits for the child `pid`, which is known to have ended, and returns how.
pub(crate) fn reap(pid: u32) -> io::Result<Reaped> {
    let pid = libc::pid_t::try_from(pid).map_err(io::Error::other)?;
    loop {
        let (found, status, usage) = wait4(pid, 0);
        if found == pid {
            return Ok(reaped(status, &usage));
        }
        let err = io::Error::last_os_error();
        if err.kind() != io::ErrorKind::Interrupted {
            return Err(err);
        }
    }
}

/// Clears away the child `pid`, if it is one and has ended.
pub(crate) fn reap_if_ended(pid: i32) {
    // One that lives, or is nobody of ours, is left as it is.
    let _ = wait4(pid, libc::WNOHANG);
}

/// Clears away every ended child that nobody waits for.
pub(crate) fn reap_orphans() {
    while wait4(-1, libc::WNOHANG).0 > 0 {}
}

/// Clears away every ended child that nobody waits for but `child`, for which somebody does.
pub(crate) fn reap_orphans_but(child: u32) {
    let theirs = libc::pid_t::try_from(child).unwrap_or(0);
    // Looked at first and left: the one that is waited for stays what it is.
    while let Some(ended) = ended_child().filter(|ended| *ended != theirs) {
        if wait4(ended, libc::WNOHANG).0 <= 0 {
            return;
        }
    }
}

/// Returns a child that has ended and is still to be waited for, if there is one.
fn ended_child() -> Option<libc::pid_t> {
    look_at_children().ok().filter(|pid| *pid > 0)
}

/// Returns whether the kernel says that this process has children, living or ended.
pub(crate) fn has_children() -> bool {
    look_at_children().is_ok()
}

/// Returns the number of a child that has ended, 0 if all live; an error if there are none.
#[expect(unsafe_code, reason = "no safe crate says which child a wait found")]
fn look_at_children() -> io::Result<libc::pid_t> {
    // SAFETY: siginfo_t is plain integers and pointers, for which all zeroes is a valid value.
    let mut found: libc::siginfo_t = unsafe { std::mem::zeroed() };
    let options = libc::WEXITED | libc::WNOHANG | libc::WNOWAIT;
    // SAFETY: the pointer is to a live, writable value of the type that waitid fills in.
    let waited = unsafe { libc::waitid(libc::P_ALL, 0, &raw mut found, options) };
    if waited != 0 {
        return Err(io::Error::last_os_error());
    }
    // SAFETY: waitid has filled in the fields of a child's end, or left them zero.
    Ok(unsafe { found.si_pid() })
}

/// Returns what every child that was reaped so far has used, whoever's child it was at first.
pub(crate) fn used_by_children() -> Used {
    let usage = usage(libc::RUSAGE_CHILDREN);
    Used { user: span(usage.ru_utime), system: span(usage.ru_stime) }
}

/// Returns how many bytes were read from disks for every child that was reaped so far, and written by it.
pub(crate) fn moved_by_children() -> Option<[u64; 2]> {
    // The kernel counts blocks of this size, whatever the disk's are.
    const BLOCK_BYTES: u64 = 512;
    let usage = usage(libc::RUSAGE_CHILDREN);
    let bytes = |blocks| u64::try_from(blocks).ok()?.checked_mul(BLOCK_BYTES);
    Some([bytes(usage.ru_inblock)?, bytes(usage.ru_oublock)?])
}

/// Returns what this process itself has used.
pub(crate) fn used_by_self() -> Used {
    let usage = usage(libc::RUSAGE_SELF);
    Used { user: span(usage.ru_utime), system: span(usage.ru_stime) }
}

#[expect(unsafe_code, reason = "no safe crate offers getrusage")]
fn usage(whom: libc::c_int) -> libc::rusage {
    // SAFETY: rusage is plain integers, for which all zeroes is a valid value.
    let mut usage: libc::rusage = unsafe { std::mem::zeroed() };
    // SAFETY: the pointer is to a live, writable value of the type that getrusage fills in.
    unsafe { libc::getrusage(whom, &raw mut usage) };
    usage
}

#[expect(unsafe_code, reason = "no safe crate offers wait4 with its resource usage")]
fn wait4(pid: libc::pid_t, options: i32) -> (libc::pid_t, i32, libc::rusage) {
    let mut status = 0;
    // SAFETY: rusage is plain integers, for which all zeroes is a valid value.
    let mut usage: libc::rusage = unsafe { std::mem::zeroed() };
    // SAFETY: both pointers are to live, writable values of the types that wait4 fills in.
    let found = unsafe { libc::wait4(pid, &raw mut status, options, &raw mut usage) };
    (found, status, usage)
}

fn reaped(status: i32, usage: &libc::rusage) -> Reaped {
    let exited = libc::WIFEXITED(status);
    let signalled = libc::WIFSIGNALED(status);
    Reaped {
        exit_code: exited.then(|| libc::WEXITSTATUS(status)),
        signal: signalled.then(|| libc::WTERMSIG(status)),
        peak_bytes: u64::try_from(usage.ru_maxrss).unwrap_or(0) * 1024,
    }
}

fn span(time: libc::timeval) -> Nanos {
    let seconds = u64::try_from(time.tv_sec).unwrap_or(0);
    let micros = u64::try_from(time.tv_usec).unwrap_or(0);
    Nanos(seconds * 1_000_000_000 + micros * 1_000)
}
