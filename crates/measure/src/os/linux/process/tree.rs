//! The processes of this machine, as `/proc` lists them.

use crate::os::linux::conditions::tick;
use crate::os::told::Process;
use honest_lap_core::unit::Nanos;
use rustix::process::{Pid, Signal, kill_process};
use std::collections::{HashMap, VecDeque};
use std::fs;

/// Returns every process that has not ended; one that ends meanwhile is left out.
pub(crate) fn processes() -> Vec<Process> {
    let Ok(entries) = fs::read_dir("/proc") else { return Vec::new() };
    entries
        .filter_map(|entry| entry.ok()?.file_name().to_str()?.parse::<i32>().ok())
        .filter_map(process)
        .collect()
}

/// Reads one `stat` line; `None` for a process that has ended and only waits to be reaped.
fn parse_stat(pid: i32, stat: &str) -> Option<Process> {
    // The name stands in brackets and may itself hold brackets and blanks.
    let (open, close) = (stat.find('(')?, stat.rfind(')')?);
    let mut fields = stat.get(close + 1..)?.split_ascii_whitespace();
    let state = fields.next()?;
    let parent = fields.next()?.parse().ok()?;
    // Fields of proc(5), of which the state is the third: session, four of processor time, start time, resident pages.
    let session = fields.nth(1).and_then(|text| text.parse().ok()).unwrap_or(0);
    let number = |text: &str| text.parse::<u64>().ok();
    let ticks = fields.by_ref().skip(7).take(4).filter_map(number).sum::<u64>();
    let used = Nanos(ticks.saturating_mul(tick().0));
    let began = fields.nth(4).and_then(|text| text.parse().ok()).unwrap_or(0);
    let pages: u64 = fields.nth(1).and_then(|text| text.parse().ok()).unwrap_or(0);
    let resident_bytes = pages * rustix::param::page_size() as u64;
    let ended = matches!(state, "Z" | "X" | "x");
    let name = stat[open + 1..close].to_owned();
    (!ended).then_some(Process { pid, parent, name, session, began, resident_bytes, used })
}

/// Returns every living process below `root`, nearest first: by the kernel's lists of children, where it keeps them, so
/// that it costs what the tree costs and not what the machine does.
pub(crate) fn descendants(root: i32) -> Vec<Process> {
    let Some(mut next) = listed(root) else { return below(root, processes()) };
    let mut found = Vec::new();
    while let Some(pid) = next.pop_front() {
        // One that ends meanwhile has no children any more: they are somebody else's.
        next.extend(listed(pid).unwrap_or_default());
        found.extend(process(pid));
    }
    found
}

/// Returns the process `pid`, if it lives.
pub(crate) fn process(pid: i32) -> Option<Process> {
    let stat = fs::read(format!("/proc/{pid}/stat")).ok()?;
    parse_stat(pid, &String::from_utf8_lossy(&stat))
}

/// Returns the numbers of the children of a process, ended ones that nobody waited for among them where the kernel lists
/// them.
pub(crate) fn children(pid: i32) -> Vec<i32> {
    let unlisted = || {
        let all = processes().into_iter().filter(|process| process.parent == pid);
        all.map(|process| process.pid).collect()
    };
    listed(pid).unwrap_or_else(unlisted).into()
}

/// Returns the children of a process, of whichever of its threads; `None` where the kernel keeps no list.
fn listed(pid: i32) -> Option<VecDeque<i32>> {
    let threads = fs::read_dir(format!("/proc/{pid}/task")).ok()?;
    let mut all = VecDeque::new();
    for thread in threads.flatten() {
        let list = fs::read_to_string(thread.path().join("children")).ok()?;
        all.extend(list.split_ascii_whitespace().filter_map(|pid| pid.parse::<i32>().ok()));
    }
    Some(all)
}

/// Returns those of `all` that are below `root`, nearest first.
fn below(root: i32, all: Vec<Process>) -> Vec<Process> {
    let mut children: HashMap<i32, Vec<Process>> = HashMap::new();
    for process in all {
        children.entry(process.parent).or_default().push(process);
    }
    let mut found: Vec<Process> = children.remove(&root).unwrap_or_default();
    let mut next = 0;
    while let Some(process) = found.get(next) {
        let more = children.remove(&process.pid).unwrap_or_default();
        found.extend(more);
        next += 1;
    }
    found
}

/// Sends `signal` to each process; one that has ended meanwhile needs none.
pub(crate) fn send(to: &[Process], signal: Signal) {
    for process in to {
        if let Some(pid) = Pid::from_raw(process.pid) {
            let _ = kill_process(pid, signal);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_names_with_brackets_and_passes_over_the_dead() {
        let line = "42 (a (b) c) S 7 42 42 0 -1 4194304 1 0 0 0 2 3 0 0 20 0 1 0 99 8192 5 0";
        let found = parse_stat(42, line).unwrap();
        assert_eq!((found.parent, found.name.as_str()), (7, "a (b) c"));
        assert_eq!((found.session, found.began, found.used), (42, 99, Nanos(5 * tick().0)));
        assert_eq!(found.resident_bytes, 5 * rustix::param::page_size() as u64);
        assert_eq!(parse_stat(42, "42 (x) Z 7 42"), None);
        assert_eq!(parse_stat(42, "garbage"), None);
    }

    #[test]
    fn finds_the_whole_tree_and_nothing_else() {
        let line = |pid, parent| format!("{pid} (x) S {parent} 1 1 0");
        let process = |pid, parent| parse_stat(pid, &line(pid, parent)).unwrap();
        let all = vec![process(2, 1), process(3, 2), process(4, 3), process(5, 1), process(6, 9)];
        let pids: Vec<i32> = below(2, all).iter().map(|p| p.pid).collect();
        assert_eq!(pids, [3, 4]);
    }

    #[test]
    fn both_ways_find_the_same_tree() {
        let mut child = std::process::Command::new("sh")
            .args(["-c", "sleep 60 & sleep 60 & wait"])
            .spawn()
            .unwrap();
        let root = i32::try_from(child.id()).unwrap();
        let pids = |mut found: Vec<Process>| {
            found.sort_by_key(|process| process.pid);
            found.into_iter().map(|process| process.pid).collect::<Vec<_>>()
        };
        while descendants(root).len() < 2 {
            std::thread::sleep(std::time::Duration::from_millis(5));
        }
        assert_eq!(pids(descendants(root)), pids(below(root, processes())));
        send(&descendants(root), Signal::KILL);
        child.kill().unwrap();
        child.wait().unwrap();
        assert_eq!(descendants(root), []);
    }
}
