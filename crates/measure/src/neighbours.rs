//! Other programs that used the processor while a lap ran, by name.
//!
//! A look at every process costs a few milliseconds: it is taken ahead of a lap where it is no more than a thousandth
//! of the time since the last one, or where the lap before was disturbed; and behind a lap that was disturbed.

use crate::os::{Process, descendants, now, processes, worked};
use honest_lap_core::record::{Conditions, OtherProgram, plain_line};
use honest_lap_core::unit::{Nanos, Stamp};
use std::collections::{BTreeMap, HashMap};

/// Looks may take this share of the time: one in so many parts.
const SHARE: u64 = 1_000;
/// Programs that are named of a lap.
const NAMED: usize = 3;
/// A program that used less than this part of what all others used is not named.
const LEAST_PART: u64 = 10;

/// What is known of other programs, from lap to lap of a session.
#[derive(Default)]
pub(crate) struct Neighbours {
    before: Option<Vec<Process>>,
    /// When the last look was, and the processor time that it took.
    last: Option<(Stamp, Nanos)>,
    disturbed: bool,
}

impl Neighbours {
    /// Looks ahead of a lap, where that is cheap or the lap before was disturbed.
    pub(crate) fn look(&mut self) {
        let is_due = |(at, took): (Stamp, Nanos)| {
            now().since(at).unwrap_or_default().0 >= took.0.saturating_mul(SHARE)
        };
        self.before = None;
        if self.disturbed || self.last.is_none_or(is_due) {
            let began = worked();
            self.before = Some(processes());
            self.last = Some((now(), worked().since(began).unwrap_or_default()));
        }
    }

    /// Returns which programs used the processor during a lap of which this is known; none where they hardly did, or
    /// nobody looked ahead of it.
    pub(crate) fn named(&mut self, conditions: &Conditions) -> Vec<OtherProgram> {
        let used = conditions.busy_others(conditions.sampled.looked);
        self.disturbed = used.is_some();
        let (Some(used), Some(before)) = (used, self.before.take()) else { return Vec::new() };
        let own = i32::try_from(std::process::id()).unwrap_or_default();
        let mut ours = descendants(own);
        ours.extend(crate::os::process(own));
        let is_ours = |process: &Process| ours.iter().any(|one| one.pid == process.pid);
        let after = processes().into_iter().filter(|process| !is_ours(process));
        grown(&before, after, Nanos(used.0 / LEAST_PART))
    }
}

/// Returns the programs whose processes used at least so much between two looks, most first.
fn grown(
    before: &[Process],
    after: impl Iterator<Item = Process>,
    least: Nanos,
) -> Vec<OtherProgram> {
    // A number is given again: by when it began, a process is the same.
    let before: HashMap<(i32, u64), Nanos> =
        before.iter().map(|process| ((process.pid, process.began), process.used)).collect();
    let mut by_name: BTreeMap<String, Nanos> = BTreeMap::new();
    for process in after {
        let known = before.get(&(process.pid, process.began)).copied().unwrap_or_default();
        let used = by_name.entry(plain_line(&process.name)).or_default();
        *used = used.plus(process.used.minus(known));
    }
    let mut all: Vec<OtherProgram> = by_name
        .into_iter()
        .filter(|(_, used)| used.0 > 0 && *used >= least)
        .map(|(name, used)| OtherProgram { name, used })
        .collect();
    all.sort_by_key(|program| std::cmp::Reverse(program.used));
    all.truncate(NAMED);
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_grew_is_named_by_program_and_what_was_used_before_is_not_counted() {
        let process = |pid: i32, began: u64, name: &str, used: u64| Process {
            pid,
            parent: 1,
            name: name.into(),
            session: 1,
            began,
            resident_bytes: 0,
            used: Nanos(used),
        };
        let before = [process(7, 1, "indexer", 900), process(8, 1, "shell", 5)];
        let after = [
            process(7, 1, "indexer", 1_000),
            process(8, 1, "shell", 6),
            process(9, 4, "compiler", 80),
            process(10, 4, "compiler", 70),
            // The number 8 was given again.
            process(8, 3, "update", 60),
        ];
        let found = grown(&before, after.into_iter(), Nanos(50));
        let found: Vec<(&str, u64)> =
            found.iter().map(|program| (program.name.as_str(), program.used.0)).collect();
        assert_eq!(found, [("compiler", 150), ("indexer", 100), ("update", 60)]);
    }
}
