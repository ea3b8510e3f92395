//! A control group around a lap, where one is permitted: its members cannot leave it, and the kernel
//! keeps its books.
//!
//! Version 2 of control groups only, found where the kernel says it is mounted. Without it the child
//! subreaper alone keeps the tree in reach.

use super::super::stall::stalled;
use super::tree::{process, send};
use crate::os::told::{Process, Used};
use honest_lap_core::unit::Nanos;
use rustix::process::Signal;
use std::fs;
use std::path::{Path, PathBuf};

const PREFIX: &str = "honest-lap-";

/// A control group that this process has joined, and with it everything it starts.
#[derive(Debug)]
pub(crate) struct Group {
    view: GroupView,
}

/// What any thread may ask of a group, and do to it.
#[derive(Clone, Debug)]
pub(crate) struct GroupView {
    dir: PathBuf,
    /// The group that this process came from.
    home: PathBuf,
}

impl Group {
    /// Makes the group of the laps that `mark` marks and joins it; `None` where that is not permitted.
    pub(crate) fn join(mark: &str) -> Option<Self> {
        let dir = place_of(mark)?;
        let home = dir.parent()?.to_owned();
        // What a starter left that was killed has nothing to do with this lap.
        end_members(&dir);
        fs::create_dir(&dir).ok()?;
        let group = Self { view: GroupView { dir, home } };
        // Dropping it removes the folder that was made for nothing.
        put(&group.view.dir).then_some(group)
    }

    pub(crate) fn view(&self) -> &GroupView {
        &self.view
    }
}

impl GroupView {
    /// Returns every living member but this process.
    pub(crate) fn members(&self) -> Vec<Process> {
        let own = i32::try_from(std::process::id()).unwrap_or(0);
        let mut members = members_of(&self.dir);
        members.retain(|member| member.pid != own);
        members
    }

    /// Leaves the group and kills all of it at once, whatever it forks meanwhile; returns whether the kernel does that.
    pub(crate) fn kill(&self) -> bool {
        put(&self.home) && kill(&self.dir)
    }

    /// Returns the memory that its members hold, pages that several of them share counted once and files that nobody maps
    /// apart; `None` where the kernel does not account it.
    pub(crate) fn resident_bytes(&self) -> Option<u64> {
        let text = fs::read_to_string(self.dir.join("memory.stat")).ok()?;
        Some(entry(&text, "anon")? + entry(&text, "file_mapped")?)
    }

    /// Returns the processor time of everything that was ever in it, this process included.
    pub(crate) fn used(&self) -> Option<Used> {
        let text = fs::read_to_string(self.dir.join("cpu.stat")).ok()?;
        let time = |name| entry(&text, name).map(|micros| Nanos(micros * 1_000));
        Some(Used { user: time("user_usec")?, system: time("system_usec")? })
    }

    /// Returns how long one of its members has waited for memory and for a disk, this process included; `None` each where
    /// the kernel keeps no such book for groups.
    pub(crate) fn waited(&self) -> [Option<Nanos>; 2] {
        ["memory.pressure", "io.pressure"]
            .map(|name| stalled(&fs::read_to_string(self.dir.join(name)).ok()?))
    }
}

/// Returns the number behind `name` in a file of names and numbers.
fn entry(text: &str, name: &str) -> Option<u64> {
    let line = text.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(' '))?;
    line.trim().parse().ok()
}

/// Moves this process into the group at `dir`.
fn put(dir: &Path) -> bool {
    fs::write(dir.join("cgroup.procs"), std::process::id().to_string()).is_ok()
}

fn kill(dir: &Path) -> bool {
    fs::write(dir.join("cgroup.kill"), "1").is_ok()
}

/// Returns where the group of the laps that `mark` marks is, or would be; `None` where there are no groups.
pub(crate) fn place_of(mark: &str) -> Option<PathBuf> {
    let mounts = fs::read_to_string("/proc/self/mountinfo").ok()?;
    let own = fs::read_to_string("/proc/self/cgroup").ok()?;
    let plain =
        !mark.is_empty() && mark.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-');
    plain.then(|| Some(home(&mounts, &own)?.join(format!("{PREFIX}{mark}")))).flatten()
}

/// Ends whatever is left in the group at `dir`, a group of ours, and removes it; returns the names of what was there.
pub(crate) fn end_members(dir: &Path) -> Vec<String> {
    let ours = dir.file_name().is_some_and(|name| name.to_string_lossy().starts_with(PREFIX));
    if !ours || !dir.join("cgroup.procs").is_file() {
        return Vec::new();
    }
    let left = members_of(dir);
    for _ in 0..ROUNDS {
        if members_of(dir).is_empty() {
            break;
        }
        if !kill(dir) {
            send(&members_of(dir), Signal::KILL);
        }
        std::thread::sleep(PAUSE);
    }
    // One that is not empty even so is left to whoever comes next.
    let _ = fs::remove_dir(dir);
    left.into_iter().map(|process| process.name).collect()
}

/// How often and in which steps it is looked whether a killed group is empty: for two seconds.
const ROUNDS: u32 = 400;
const PAUSE: std::time::Duration = std::time::Duration::from_millis(5);

fn members_of(dir: &Path) -> Vec<Process> {
    let text = fs::read_to_string(dir.join("cgroup.procs")).unwrap_or_default();
    text.lines().filter_map(|line| line.parse().ok()).filter_map(process).collect()
}

impl Drop for Group {
    fn drop(&mut self) {
        put(&self.view.home);
        // One that is not empty yet is cleared away by the next lap.
        let _ = fs::remove_dir(&self.view.dir);
    }
}

/// Returns the folder of this process's own group, from `/proc/self/mountinfo` and
/// `/proc/self/cgroup`.
fn home(mounts: &str, own: &str) -> Option<PathBuf> {
    let mount = mounts.lines().find_map(|line| {
        let (mount, kind) = line.split_once(" - ")?;
        let point = mount.split_ascii_whitespace().nth(4)?;
        kind.starts_with("cgroup2 ").then_some(point)
    })?;
    let path = own.lines().find_map(|line| line.strip_prefix("0::"))?;
    Some(Path::new(mount).join(path.trim_start_matches('/')))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn books_are_read_by_name_and_only_groups_of_ours_are_ended() {
        let text = "usage_usec 30\nuser_usec 10\nsystem_usec 20\nanon_thp 9\nanon 7\n";
        assert_eq!([entry(text, "user_usec"), entry(text, "anon")], [Some(10), Some(7)]);
        assert_eq!(entry(text, "user"), None);
        assert_eq!(place_of("../../etc"), None);
        let dir = tempfile::tempdir().unwrap();
        fs::write(dir.path().join("cgroup.procs"), "1\n").unwrap();
        assert_eq!(end_members(dir.path()), Vec::<String>::new());
        assert!(dir.path().exists());
    }

    #[test]
    fn the_group_is_found_where_the_kernel_says() {
        let mounts = "30 23 0:26 / /sys/fs/cgroup/memory rw - cgroup cgroup rw,memory\n\
                      31 23 0:27 / /sys/fs/cgroup/unified rw,relatime shared:9 - cgroup2 cgroup2 rw\n";
        let own = "4:memory:/x\n0::/user.slice/a.scope\n";
        let wanted = Path::new("/sys/fs/cgroup/unified/user.slice/a.scope");
        assert_eq!(home(mounts, own).as_deref(), Some(wanted));
        assert_eq!(home(mounts, "4:memory:/x\n"), None);
        assert_eq!(home("", own), None);
    }
}
