//! Whether a lap's own processes waited for memory or a disk, for long enough to show in its time.
//!
//! Where a control group held them, the kernel counts how long one of them waited, and a neighbour's waits are not among that.
//! Where none could be made it counts for the whole machine: that is the lap's where its own processes moved something meanwhile.

use super::facts::LapFacts;
use super::limited::{Limit, Limited, Shows};
use crate::unit::Nanos;

/// Swapping less than this is the system tidying up.
pub(crate) const LEAST_SWAPPED: u64 = 4 << 20;
/// The share of a lap in which it waited for memory or a disk, and that shows in its time.
const STALLED: f64 = 0.20;
/// The share of a lap in which it waited for anything, that something was swapped for it.
const SWAPPED_FOR: f64 = 0.05;
/// Threads that all others use, the system itself among them, below which nobody else swaps: what was swapped then was the lap's.
const ALONE: f64 = 0.25;
/// What is moved in a second of waiting for a slow disk, in bytes: fifty pages of a database, each brought there by itself.
const MOVED_A_SECOND: f64 = (256 << 10) as f64;

/// Returns what a lap of `wall` waited for, and what shows it; `None` where nothing of its own is known.
pub(super) fn stalled(facts: &LapFacts, wall: Nanos) -> Option<Limited> {
    let memory = memory(facts, wall).map(|shows| Limited { by: Limit::Memory, shows });
    memory.or_else(|| Some(Limited { by: Limit::Disk, shows: disk(facts, wall)? }))
}

fn memory(facts: &LapFacts, wall: Nanos) -> Option<Shows> {
    let sampled = &facts.conditions.sampled;
    let own = &facts.conditions.own;
    let swapped = sampled.swapped_bytes.filter(|bytes| *bytes >= LEAST_SWAPPED);
    let share = |waited: Nanos| waited.seconds() / wall.seconds();
    let alone = facts.threads_of_others(wall).is_some_and(|others| others < ALONE);
    if let Some(waited) = own.memory {
        // Swapping that nobody waits for is work of the processor, and shows in its time all the same.
        let for_any = share(waited) + own.disk.map_or(0.0, share);
        let its_own = alone || for_any >= SWAPPED_FOR;
        let swapped = swapped.filter(|_| its_own).map(Shows::Swapped);
        let long = Some(share(waited)).filter(|share| *share >= STALLED);
        return swapped.or_else(|| long.map(Shows::MemoryWait));
    }
    // What was swapped in for it was read for it.
    let read = own.read_bytes.is_some_and(|bytes| bytes >= LEAST_SWAPPED);
    swapped.filter(|_| read || alone).map(Shows::Swapped)
}

fn disk(facts: &LapFacts, wall: Nanos) -> Option<Shows> {
    let own = &facts.conditions.own;
    let share = |waited: Nanos| Some(waited.seconds() / wall.seconds()).filter(|s| *s >= STALLED);
    if let Some(waited) = own.disk {
        return share(waited).map(Shows::DiskWait);
    }
    let waited = facts.conditions.sampled.stalled_disk?;
    let bytes = own.moved_bytes()?;
    let enough = bytes as f64 >= MOVED_A_SECOND * waited.seconds();
    share(waited).filter(|_| enough).map(|share| Shows::DiskMoved { share, bytes })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::OwnWaits;

    /// Of a lap of ten seconds, beside which the whole machine swapped so many bytes and waited for a disk for 6 s.
    fn found(swapped_bytes: u64, own: OwnWaits) -> Option<Limited> {
        let mut facts = LapFacts::default();
        facts.conditions.own = own;
        facts.conditions.sampled.swapped_bytes = Some(swapped_bytes);
        facts.conditions.sampled.stalled_disk = Some(Nanos::from_seconds(6));
        stalled(&facts, Nanos::from_seconds(10))
    }

    fn waited(memory_ms: u64, disk_ms: u64) -> OwnWaits {
        let time = |ms: u64| Some(Nanos(ms * 1_000_000));
        OwnWaits { memory: time(memory_ms), disk: time(disk_ms), ..OwnWaits::default() }
    }

    fn moved(read: u64, written: u64) -> OwnWaits {
        OwnWaits { read_bytes: Some(read), written_bytes: Some(written), ..OwnWaits::default() }
    }

    #[test]
    fn a_neighbours_waits_are_not_the_laps() {
        assert_eq!(found(64 << 20, waited(0, 0)), None);
        assert_eq!(found(64 << 20, moved(0, 0)), None);
        assert_eq!(found(64 << 20, OwnWaits::default()), None, "nothing of its own is known");
    }

    #[test]
    fn what_is_swapped_while_nobody_else_is_at_work_is_the_laps() {
        let swapped = |others_ms: u64| {
            let mut facts = LapFacts::default();
            facts.conditions.own = waited(0, 0);
            facts.conditions.others_cpu = Some(Nanos(others_ms * 1_000_000));
            facts.conditions.sampled.swapped_bytes = Some(64 << 20);
            stalled(&facts, Nanos::from_seconds(10)).map(|limited| limited.shows)
        };
        assert_eq!(swapped(200), Some(Shows::Swapped(64 << 20)));
        assert_eq!(swapped(3_000), None, "it may be a neighbour's");
    }

    #[test]
    fn its_own_are() {
        let by = |found: Option<Limited>| found.map(|limited| (limited.by, limited.shows));
        let disk = Some((Limit::Disk, Shows::DiskWait(0.3)));
        assert_eq!(by(found(0, waited(0, 3_000))), disk);
        assert_eq!(by(found(0, waited(0, 1_900))), None);
        assert_eq!(
            by(found(0, waited(2_500, 3_000))),
            Some((Limit::Memory, Shows::MemoryWait(0.25)))
        );
        // What is read back from a swap may be booked as a wait for the disk that it is on.
        let swapped = Some((Limit::Memory, Shows::Swapped(64 << 20)));
        assert_eq!(by(found(64 << 20, waited(100, 900))), swapped);
        let bytes = 2 << 20;
        let told = Some((Limit::Disk, Shows::DiskMoved { share: 0.6, bytes }));
        assert_eq!(by(found(0, moved(0, bytes))), told);
        assert_eq!(by(found(0, moved(1 << 20, 0))), None, "6 s are not waited for a megabyte");
        assert_eq!(by(found(64 << 20, moved(5 << 20, 0))), swapped);
    }
}
