//! What differs between laps that are kept together, as a store has it: bytes and texts that its rules made of their rows.

use crate::error::StoreError;
use crate::schema::{ALIKE, SCHEMA};
use crate::store::Store;
use honest_lap_core::lab::{Known, LapDetails, LapTimes, Steps};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::DetailTexts;

/// The bytes of a number or a round, and of a time.
const NUMBER: usize = size_of::<u32>();
const TIME: usize = size_of::<u64>();
/// What numbers that go on by two steps in turn are told by: the first, and both steps.
const IN_TURN: usize = 3;

/// Returns what the bytes of a row say; `None` where they say nothing.
///
/// * Shape: of `n` laps 8·n bytes of times, and of numbers and of rounds 4·n each, or 12 where they go on by two steps in
///   turn: the first and both steps. Highest byte first.
pub(crate) fn lap_times(numbers: &[u8], rounds: &[u8], walls: &[u8]) -> Option<LapTimes> {
    let laps = walls.len() / TIME;
    if walls.is_empty() || !walls.len().is_multiple_of(TIME) {
        return None;
    }
    let (walls, _) = walls.as_chunks::<TIME>();
    let walls: Vec<Nanos> = walls.iter().map(|wall| Nanos(u64::from_be_bytes(*wall))).collect();
    // As rows have it: nothing takes less than no time.
    let longest = walls.iter().max()?;
    i64::try_from(longest.0).ok()?;
    let (numbers, rounds) = (steps(numbers, laps)?, steps(rounds, laps)?);
    LapTimes::of(numbers, rounds, &walls)
}

/// Returns what `told` says of so many laps; `None` where it says nothing.
///
/// * Shape: of each lap the lines of its detail as seals have them (docs/formats/logbook.md), and an empty one.
pub(crate) fn lap_details(told: &str, laps: usize) -> Option<LapDetails> {
    let (mut all, mut rest) = (LapDetails::default(), told);
    while !rest.is_empty() {
        let mut texts = DetailTexts::default();
        let mut parts = None;
        loop {
            if let Some(next) = rest.strip_prefix('\n') {
                rest = next;
                break;
            }
            let (name, value, next) = line(rest)?;
            rest = next;
            let number = || value.parse::<i64>().ok().map(i64::unsigned_abs);
            match name {
                "parts_ns" => parts = Some(Nanos(number()?)),
                "reason" => texts.reason = Some(value),
                "user_ns" => texts.user_ns = Some(number()?),
                "system_ns" => texts.system_ns = Some(number()?),
                "conditions" => texts.conditions = value,
                "produced" => texts.produced = value,
                "left_behind" => texts.left_behind = value,
                "readings" => texts.readings = value,
                _ => return None,
            }
        }
        let (readings, facts) = (texts.readings().ok()?, texts.facts().ok()?.shared());
        all.push(Known { parts, readings, facts });
    }
    all.shrink();
    (all.len() == laps).then_some(all)
}

/// Returns the name and the value of the first line of `text`, and what comes behind it.
fn line(text: &str) -> Option<(&str, &str, &str)> {
    let (head, rest) = text.split_once(':')?;
    let (name, kind) = head.split_once(' ')?;
    let long: usize = kind.strip_prefix(['t', 'n'])?.parse().ok()?;
    let (value, rest) = rest.split_at_checked(long)?;
    Some((name, value, rest.strip_prefix('\n')?))
}

/// Returns so many numbers.
fn steps(bytes: &[u8], many: usize) -> Option<Steps> {
    let (numbers, []) = bytes.as_chunks::<NUMBER>() else { return None };
    let mut numbers = numbers.iter().map(|number| u32::from_be_bytes(*number));
    if numbers.len() == IN_TURN {
        let (first, steps) = (numbers.next()?, [numbers.next()?, numbers.next()?]);
        return Some(Steps::in_turn(first, steps, u32::try_from(many).ok()?));
    }
    (numbers.len() == many).then(|| numbers.collect())
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
    use honest_lap_core::lab::DetailsOfLap;

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
            (&of(&[3, 0, 1]), &two, &told),
            (&two, &two, &walls(&[1, u64::MAX])),
        ] {
            assert_eq!(lap_times(numbers, rounds, walls), None, "{numbers:?} {rounds:?} {walls:?}");
        }
    }

    #[test]
    fn what_is_known_of_each_is_read_line_by_line() {
        let told = "conditions t17:{\"load_1min\":0.5}\n\nparts_ns n1:7\nreason t4:a\nb:\nuser_ns n1:2\nsystem_ns n1:3\n\
                    conditions t17:{\"load_1min\":1.5}\n\n";
        let all: Vec<Known> =
            lap_details(told, 2).unwrap().each().map(DetailsOfLap::known).collect();
        let loads: Vec<Option<f64>> =
            all.iter().map(|known| known.facts.conditions.load_1min).collect();
        assert_eq!(loads, [Some(0.5), Some(1.5)]);
        assert_eq!((all[0].parts, all[1].parts), (None, Some(Nanos(7))));
        assert_eq!(all[1].facts.reason.as_deref(), Some("a\nb:"));
        assert_eq!(all[1].facts.processor_time, Some(Nanos(5)));
    }

    #[test]
    fn what_says_nothing_of_each_is_told() {
        for told in [
            "",
            "\n\n\n",
            "conditions t2:{}\n\n",
            "conditions t9:{}\n\n\n",
            "conditions t1:é\n\n\n",
            "conditions h2:{}\n\n\n",
            "conditions t1:7\n\n\n",
            "number n1:7\n\n\n",
            "user_ns n1:x\n\n\n",
            "reason t4:nosy",
            "x",
        ] {
            assert!(lap_details(told, 2).is_none(), "{told:?}");
        }
        assert_eq!(lap_details("\n\n", 2).map(|all| all.len()), Some(2), "nothing is known");
    }
}
