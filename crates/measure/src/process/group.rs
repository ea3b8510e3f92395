//! A control group around a lap, where one is permitted: its members cannot leave it, and the kernel
//! keeps its books.
//!
//! Version 2 of control groups only, found where the kernel says it is mounted. Without it the child
//! subreaper alone keeps the tree in reach.

use super::tree::{Process, process};
use std::fs;
use std::path::{Path, PathBuf};

const PREFIX: &str = "honest-lap-";

/// A control group that this process has joined, and with it everything it starts.
#[derive(Debug)]
pub(crate) struct Group {
    view: GroupView,
    home: PathBuf,
}

/// What can be read of a group, by any thread.
#[derive(Clone, Debug)]
pub(crate) struct GroupView {
    dir: PathBuf,
}

impl Group {
    /// Makes a group and joins it; `None` where that is not permitted.
    pub(crate) fn join() -> Option<Self> {
        let mounts = fs::read_to_string("/proc/self/mountinfo").ok()?;
        let own = fs::read_to_string("/proc/self/cgroup").ok()?;
        let home = home(&mounts, &own)?;
        clear_stale(&home);
        let pid = std::process::id();
        let dir = home.join(format!("{PREFIX}{pid}"));
        fs::create_dir(&dir).ok()?;
        let group = Self { view: GroupView { dir }, home };
        // Dropping it removes the folder that was made for nothing.
        group.put(&group.view.dir, pid).then_some(group)
    }

    fn put(&self, dir: &Path, pid: u32) -> bool {
        fs::write(dir.join("cgroup.procs"), pid.to_string()).is_ok()
    }

    pub(crate) fn view(&self) -> &GroupView {
        &self.view
    }
}

impl GroupView {
    /// Returns every living member but this process.
    pub(crate) fn members(&self) -> Vec<Process> {
        let own = i32::try_from(std::process::id()).unwrap_or(0);
        let text = fs::read_to_string(self.dir.join("cgroup.procs")).unwrap_or_default();
        let pids = text.lines().filter_map(|line| line.parse().ok());
        pids.filter(|pid| *pid != own).filter_map(process).collect()
    }

    /// Returns the most memory that its members held together, where the kernel accounts it.
    pub(crate) fn peak_bytes(&self) -> Option<u64> {
        fs::read_to_string(self.dir.join("memory.peak")).ok()?.trim().parse().ok()
    }
}

impl Drop for Group {
    fn drop(&mut self) {
        self.put(&self.home, std::process::id());
        // One that is not empty yet is cleared away by the next lap.
        let _ = fs::remove_dir(&self.view.dir);
    }
}

/// Removes the groups of starters that were killed; one that is in use cannot be removed.
fn clear_stale(home: &Path) {
    let Ok(entries) = fs::read_dir(home) else { return };
    for entry in entries.flatten() {
        if entry.file_name().to_string_lossy().starts_with(PREFIX) {
            let _ = fs::remove_dir(entry.path());
        }
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
