//! Looks at the processes of a lap from which nothing has come, while they live.

use super::program::Program;
use super::recorder::LIBRARY_NAME;
use crate::os::{Process, descendants, environment_of};
use crate::starter::{MARK, own_pid};
use honest_lap_present_abi::FILE;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

/// Libraries by which a program presents.
const GRAPHICS: [&str; 5] = ["libGL.so", "libGLX.so", "libEGL.so", "libGLESv2.so", "libvulkan.so"];
/// Libraries by which a program puts pictures into a window by itself, out of memory that it shares with the screen.
const SCREENS: [&str; 3] = ["libX11.so", "libxcb.so", "libwayland-client.so"];
/// Libraries by which a program, mostly a compositor, puts frames on the display itself.
const DISPLAYS: [&str; 2] = ["libgbm.so", "libdrm.so"];
/// The entry of a process's auxiliary vector that says whether it runs guarded (getauxval(3)).
const AT_SECURE: u64 = 23;

/// What was seen of a process; `None` where it could not be looked at.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Seen {
    pub(super) name: String,
    pub(super) program: Option<Program>,
    /// The recorder is in it.
    pub(super) loaded: Option<bool>,
    /// Libraries by which it could present.
    pub(super) graphics: Vec<String>,
    /// Libraries by which it could draw into a window by itself.
    pub(super) screens: Vec<String>,
    /// Libraries by which it could put frames on the display itself.
    pub(super) displays: Vec<String>,
    /// Its system calls are filtered.
    pub(super) sandboxed: Option<bool>,
    /// Its environment says where the recorder writes.
    pub(super) told: Option<bool>,
    /// The system keeps what is preloaded out of it.
    pub(super) guarded: Option<bool>,
    /// It runs as another user.
    pub(super) foreign: Option<bool>,
    /// Its file systems are not ours.
    pub(super) apart: Option<bool>,
}

/// What was seen of each process of a lap when it was last looked at.
#[derive(Debug, Default)]
pub(super) struct Witness(BTreeMap<i32, Seen>);

impl Witness {
    /// Looks at every process below `starter`.
    pub(super) fn look(&mut self, starter: u32) {
        let starter = i32::try_from(starter).unwrap_or(0);
        for process in descendants(starter) {
            // A process between its birth and its program is still the starter; and what the starter
            // rehearses is of the session and never was to present.
            let environ = Some(environment_of(process.pid));
            let rehearsed = holds(environ.as_deref(), MARK) == Some(true)
                && holds(environ.as_deref(), FILE) == Some(false);
            if !rehearsed && !same_file(process.pid, starter, "exe") {
                self.0.insert(process.pid, seen(&process, environ.as_deref()));
            }
        }
    }

    /// Returns what was seen, the last started first: launchers come before what they launch.
    pub(super) fn seen(&self) -> impl Iterator<Item = &Seen> {
        self.0.values().rev()
    }
}

fn seen(process: &Process, environ: Option<&[u8]>) -> Seen {
    let dir = format!("/proc/{}", process.pid);
    let maps = fs::read_to_string(format!("{dir}/maps")).ok();
    let mapped = |name: &str| maps.as_ref().map(|maps| maps.contains(name));
    let those_of = |names: &[&str]| -> Vec<String> {
        let there = names.iter().filter(|name| mapped(name) == Some(true));
        there.map(|&name| name.to_owned()).collect()
    };
    let status = fs::read_to_string(format!("{dir}/status")).ok();
    Seen {
        name: process.name.clone(),
        program: Program::of(Path::new(&format!("{dir}/exe"))),
        loaded: mapped(LIBRARY_NAME),
        graphics: those_of(&GRAPHICS),
        screens: those_of(&SCREENS),
        displays: those_of(&DISPLAYS),
        sandboxed: status.as_deref().and_then(sandboxed),
        told: holds(environ, FILE),
        guarded: fs::read(format!("{dir}/auxv")).ok().and_then(|auxv| guarded(&auxv)),
        foreign: status.as_deref().and_then(foreign),
        apart: fs::read_link(format!("{dir}/ns/mnt"))
            .ok()
            .map(|_| !same_file(process.pid, own_pid(), "ns/mnt")),
    }
}

/// Returns whether an environment holds `variable`.
fn holds(environ: Option<&[u8]>, variable: &str) -> Option<bool> {
    let wanted = format!("{variable}=");
    let mut entries = environ?.split(|&byte| byte == 0);
    Some(entries.any(|entry| entry.starts_with(wanted.as_bytes())))
}

/// Reads whether a process runs as another user than this one from its `status`.
fn foreign(status: &str) -> Option<bool> {
    let users = status.lines().find_map(|line| line.strip_prefix("Uid:"))?;
    let user: u32 = users.split_ascii_whitespace().nth(1)?.parse().ok()?;
    Some(user != rustix::process::geteuid().as_raw())
}

/// Reads whether a process's system calls are filtered from its `status`.
fn sandboxed(status: &str) -> Option<bool> {
    let mode = status.lines().find_map(|line| line.strip_prefix("Seccomp:"))?;
    Some(mode.trim() != "0")
}

/// Returns whether `what` of the process leads where that of `other` does.
fn same_file(pid: i32, other: i32, what: &str) -> bool {
    let of = |pid: i32| fs::read_link(format!("/proc/{pid}/{what}")).ok();
    of(other).is_some_and(|own| of(pid) == Some(own))
}

/// Reads whether the system guards a process from its auxiliary vector, pairs of words.
fn guarded(auxv: &[u8]) -> Option<bool> {
    let word = |bytes: &[u8]| u64::from_ne_bytes(std::array::from_fn(|at| bytes[at]));
    auxv.chunks_exact(16)
        .find(|pair| word(&pair[..8]) == AT_SECURE)
        .map(|pair| word(&pair[8..]) != 0)
}

#[cfg(test)]
mod tests {
    use super::*;

    impl Seen {
        /// Returns what is seen of a program that was told of the recorder and did not load it.
        pub(in super::super) fn usual(name: &str) -> Self {
            Self {
                name: name.to_owned(),
                program: Some(Program::default()),
                loaded: Some(false),
                graphics: Vec::new(),
                screens: Vec::new(),
                displays: Vec::new(),
                sandboxed: Some(false),
                told: Some(true),
                guarded: Some(false),
                foreign: Some(false),
                apart: Some(false),
            }
        }
    }

    #[test]
    fn a_living_process_tells_what_it_is() {
        let mut child =
            std::process::Command::new("sleep").arg("10").env(FILE, "/capture").spawn().unwrap();
        // Until it has become its program, which is its own and not this test's, and has its environment.
        let environ = format!("/proc/{}/environ", child.id());
        while same_file(child.id() as i32, own_pid(), "exe")
            || fs::read(&environ).unwrap().is_empty()
        {
            std::thread::yield_now();
        }
        let mut witness = Witness::default();
        witness.look(std::process::id());
        let found = witness.seen().find(|seen| seen.name == "sleep").cloned();
        child.kill().unwrap();
        child.wait().unwrap();
        assert_eq!(found, Some(Seen::usual("sleep")));
    }

    #[test]
    fn another_users_process_is_known_by_its_status() {
        let other = rustix::process::geteuid().as_raw() + 1;
        assert_eq!(foreign(&format!("Name:\tdome\nUid:\t0\t{other}\t0\t0\n")), Some(true));
        assert_eq!(foreign("Name:\tdome\n"), None);
        assert_eq!(sandboxed("Name:\tdome\nSeccomp:\t2\n"), Some(true));
        assert_eq!(sandboxed("Seccomp:\t0\n"), Some(false));
    }

    #[test]
    fn a_guarded_process_says_so() {
        let pair = |key: u64, value: u64| [key.to_ne_bytes(), value.to_ne_bytes()].concat();
        let auxv = |secure| [pair(6, 4096), pair(AT_SECURE, secure), pair(0, 0)].concat();
        assert_eq!((guarded(&auxv(1)), guarded(&auxv(0))), (Some(true), Some(false)));
        assert_eq!(guarded(&pair(6, 4096)), None);
    }
}
