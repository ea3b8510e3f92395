//! What differs between laps that are alike, as a store has it: bytes that its rules made of their rows.

use crate::error::StoreError;
use crate::schema::{ALIKE, SCHEMA};
use crate::store::Store;
use honest_lap_core::lab::LapTimes;
use honest_lap_core::unit::Nanos;

/// The bytes of a number or a round, and of a time.
const NUMBER: usize = size_of::<u32>();
const TIME: usize = size_of::<u64>();

/// Returns what the bytes of a row say; `None` where they say nothing.
///
/// * Shape: of `n` laps 8·n bytes of times, and of numbers and of rounds 4·n each, or 12 where they go on by two steps in
///   turn: the first and both steps. Highest byte first.
pub(crate) fn lap_times(numbers: &[u8], rounds: &[u8], walls: &[u8]) -> Option<LapTimes> {
    let laps = walls.len() / TIME;
    if walls.is_empty() || !walls.len().is_multiple_of(TIME) {
        return None;
    }
    let (mut numbers, mut rounds) = (steps(numbers, laps)?, steps(rounds, laps)?);
    let walls = || walls.chunks_exact(TIME).map(whole);
    let longest = walls().max()?;
    // As rows have it: nothing takes less than no time.
    let longest = Some(longest).filter(|longest| i64::try_from(*longest).is_ok())?;
    let mut times = LapTimes::default();
    times.reserve(laps, Nanos(longest));
    for wall in walls() {
        times.push(numbers.next().filter(|number| *number > 0)?, rounds.next()?, Nanos(wall));
    }
    times.shrink();
    Some(times)
}

/// Returns so many numbers.
fn steps(bytes: &[u8], many: usize) -> Option<Box<dyn Iterator<Item = u32> + '_>> {
    let number = |bytes: &[u8]| whole(bytes) as u32;
    if let ([first, steps @ ..], []) = bytes.as_chunks::<NUMBER>()
        && let [one, other] = steps
    {
        let [first, one, other] = [first, one, other].map(|number| u32::from_be_bytes(*number));
        let mut next = first;
        let step = [one, other].into_iter().cycle();
        return Some(Box::new(step.take(many).map(move |step| {
            let number = next;
            next = next.wrapping_add(step);
            number
        })));
    }
    let whole = bytes.len() == NUMBER * many;
    whole.then(|| Box::new(bytes.chunks_exact(NUMBER).map(number)) as Box<_>)
}

fn whole(bytes: &[u8]) -> u64 {
    bytes.iter().fold(0, |whole, byte| whole << u8::BITS | u64::from(*byte))
}

impl Store {
    /// Returns how many rows that follow from laps are not what follows from them.
    pub fn not_following(&mut self) -> Result<u64, StoreError> {
        let asked = format!(
            "SELECT count(*) FROM
                 (SELECT session, {SCHEMA}.stretch(number) AS stretch FROM {SCHEMA}.lap
                  UNION SELECT session, stretch FROM {SCHEMA}.{ALIKE}) t,
                 LATERAL (SELECT * FROM {SCHEMA}.alike_in(t.session, t.stretch)
                          EXCEPT SELECT * FROM {SCHEMA}.{ALIKE} a WHERE a.session = t.session AND a.stretch = t.stretch) lacking
             UNION ALL SELECT count(*) FROM {SCHEMA}.{ALIKE} a
                 WHERE NOT EXISTS (SELECT 1 FROM {SCHEMA}.alike_in(a.session, a.stretch) f WHERE f.lap = a.lap)"
        );
        let rows = self.client.query(&asked, &[]);
        let rows = rows.map_err(StoreError::of("checking what follows from laps"))?;
        Ok(rows.iter().map(|row| row.get::<_, i64>(0).unsigned_abs()).sum())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(numbers: &[u32]) -> Vec<u8> {
        numbers.iter().flat_map(|number| number.to_be_bytes()).collect()
    }

    fn walls(times: &[u64]) -> Vec<u8> {
        times.iter().flat_map(|time| time.to_be_bytes()).collect()
    }

    #[test]
    fn equal_steps_and_each_by_itself_are_read_alike() {
        let told = walls(&[70, 80, 90]);
        let stepped = lap_times(&of(&[1, 2, 2]), &of(&[4, 0, 0]), &told).unwrap();
        let laps: Vec<(u32, u32, Nanos)> = stepped.iter().collect();
        assert_eq!(laps, [(1, 4, Nanos(70)), (3, 4, Nanos(80)), (5, 4, Nanos(90))]);
        let told = walls(&[70, 80, 90, 60]);
        let stepped = lap_times(&of(&[1, 3, 1]), &of(&[4, 0, 0]), &told).unwrap();
        let each = lap_times(&of(&[1, 4, 5, 8]), &of(&[4, 4, 4, 4]), &told).unwrap();
        assert_eq!(stepped, each);
    }

    #[test]
    fn what_says_nothing_is_told() {
        let (two, told) = (of(&[1, 2, 2]), walls(&[70, 80, 90]));
        for (numbers, rounds, walls) in [
            (&two[..], &two[..], &[][..]),
            (&two, &two, &told[..23]),
            (&two[..11], &two, &told),
            (&two, &[], &told),
            (&of(&[1, 2, 3, 4]), &two, &told),
            (&of(&[0, 1, 1]), &two, &told),
            (&two, &two, &walls(&[1, u64::MAX])),
        ] {
            assert_eq!(lap_times(numbers, rounds, walls), None, "{numbers:?} {rounds:?} {walls:?}");
        }
    }
}
