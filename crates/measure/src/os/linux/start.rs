//! What the tool and its starter are to the system: one program, a session, the parent of whatever loses its own.

use std::fs;
use std::io;
use std::path::PathBuf;

/// Returns the running program itself, even if its file was replaced meanwhile.
pub(crate) fn own_program() -> PathBuf {
    PathBuf::from("/proc/self/exe")
}

/// Begins a session of its own, without a terminal.
pub(crate) fn own_session() -> io::Result<()> {
    Ok(rustix::process::setsid().map(|_| ())?)
}

/// Makes whatever loses its parent below this process its own child.
pub(crate) fn keep_orphans() -> io::Result<()> {
    Ok(rustix::process::set_child_subreaper(Some(rustix::process::getpid()))?)
}

/// Returns what tells this start of the machine from every other.
pub(crate) fn boot() -> String {
    fs::read_to_string("/proc/sys/kernel/random/boot_id").unwrap_or_default().trim().to_owned()
}

/// Returns the environment that a process was started with, as far as it may be read: `NAME=value`, each ended by a zero.
pub(crate) fn environment_of(pid: i32) -> Vec<u8> {
    fs::read(format!("/proc/{pid}/environ")).unwrap_or_default()
}
