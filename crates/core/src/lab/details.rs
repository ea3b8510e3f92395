//! What is known of a lap besides its times, taken apart: numbers and short texts, in which laps differ that are otherwise the
//! same, and the rest, which many laps have in common.

use super::facts::LapFacts;
use crate::record::{
    Conditions, CountedPower, MeterSum, NumberRows, OtherProgram, OwnWaits, QuantitySummary,
    Reading, SEEN, Sampled, as_real, as_whole,
};
use crate::unit::Nanos;

/// What is known of a lap besides its times.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Details {
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// What was read from it.
    pub readings: Vec<Reading>,
    /// What else is known of it.
    pub facts: LapFacts,
}

/// What a lap has of its own: a row of those of its run.
#[derive(Clone, Copy, Debug)]
pub(super) struct OwnRow<'l> {
    pub rows: &'l NumberRows,
    pub place: u32,
}

/// The column of the time of the parts that count, where these are timed.
pub(super) const PARTS: usize = 0;

/// Something in which laps may differ that are otherwise the same.
enum Own<'d> {
    Whole(&'d mut u64),
    Short(&'d mut u32),
    Real(&'d mut f64),
    /// A text of a few letters; a longer one stays where it is.
    Text(&'d mut String),
}

/// The bytes of a number.
const WHOLE: usize = size_of::<u64>();

impl Own<'_> {
    /// Takes it out: nothing is left in its place.
    fn take(self, row: &mut Vec<u64>) {
        match self {
            Self::Whole(number) => row.push(std::mem::take(number)),
            Self::Short(number) => row.push(u64::from(std::mem::take(number))),
            Self::Real(number) => row.push(as_whole(std::mem::take(number))),
            Self::Text(text) => {
                let mut bytes = [0; SEEN * WHOLE];
                let [long, letters @ ..] = &mut bytes;
                if let Some(letters) = letters.get_mut(..text.len()) {
                    letters.copy_from_slice(text.as_bytes());
                    // One more than its length: what stays where it is has none.
                    *long = 1 + text.len() as u8;
                    text.clear();
                }
                row.extend(bytes.as_chunks::<WHOLE>().0.iter().copied().map(u64::from_le_bytes));
            }
        }
    }

    /// Puts it back.
    fn put(self, row: &mut impl Iterator<Item = u64>) {
        let mut next = || row.next().unwrap_or_default();
        match self {
            Self::Whole(number) => *number = next(),
            Self::Short(number) => *number = next() as u32,
            Self::Real(number) => *number = as_real(next()),
            Self::Text(text) => {
                let bytes: [[u8; WHOLE]; SEEN] = std::array::from_fn(|_| next().to_le_bytes());
                let Some((long, letters)) = bytes.as_flattened().split_first() else { return };
                let letters = long.checked_sub(1).and_then(|len| letters.get(..usize::from(len)));
                if let Some(letters) = letters {
                    text.clear();
                    text.push_str(&String::from_utf8_lossy(letters));
                }
            }
        }
    }
}

impl Details {
    /// Takes everything out in which laps differ that are otherwise the same; returns that.
    pub(super) fn take_own(&mut self) -> Vec<u64> {
        let mut row = Vec::new();
        each_own(self, &mut |own| own.take(&mut row));
        row
    }

    /// Puts back what was taken out, of this lap or of one that is alike.
    pub(super) fn put_own(&mut self, own: OwnRow<'_>) {
        let mut row = own.rows.row(own.place);
        each_own(self, &mut |own| own.put(&mut row));
    }
}

/// Has `each` look at everything in which laps may differ that are otherwise the same, in one order.
///
/// Whatever is added to these records is one of these or of the rest: this does not compile without it.
fn each_own<'d>(details: &'d mut Details, each: &mut impl FnMut(Own<'d>)) {
    let Details { parts, readings, facts } = details;
    let LapFacts {
        conditions,
        processor_time,
        reason: _,
        produced: _,
        left_behind: _,
        frames: _,
        endured: _,
    } = facts;
    time(parts, each);
    for Reading { value, seen, name: _, unit: _, better: _, step: _, reports_time: _ } in readings {
        // Why nothing could be read is the same again and again.
        if value.is_some() {
            real(value, each);
            each(Own::Text(seen));
        }
    }
    time(processor_time, each);
    each_condition(conditions, each);
}

fn each_condition<'d>(conditions: &'d mut Conditions, each: &mut impl FnMut(Own<'d>)) {
    let Conditions {
        others_cpu,
        memory_available_bytes,
        swap_used_bytes,
        load_1min,
        slept,
        other_programs,
        own: OwnWaits { memory, disk, read_bytes, written_bytes },
        modes: _,
        sampled,
    } = conditions;
    [others_cpu, slept, memory, disk].into_iter().for_each(|own| time(own, each));
    for own in [memory_available_bytes, swap_used_bytes, read_bytes, written_bytes] {
        whole(own, each);
    }
    real(load_1min, each);
    for OtherProgram { name: _, used } in other_programs {
        each(Own::Whole(&mut used.0));
    }
    each_sampled(sampled, each);
}

fn each_sampled<'d>(sampled: &'d mut Sampled, each: &mut impl FnMut(Own<'d>)) {
    let Sampled {
        samples,
        looked,
        tree: _,
        tree_peak_bytes,
        tree_peak_by: _,
        cores_busy,
        busiest_core,
        core_use,
        processor_use,
        one_core_busy,
        memory_available_least_bytes,
        swapped_bytes,
        stalled_processor,
        stalled_memory,
        stalled_disk,
        clock_mhz,
        temperature_c,
        fan_rpm,
        power_w,
        energy_j,
        battery,
        battery_energy_j,
        // It is set once, and hardly ever while laps run.
        brightness: _,
        on_mains: _,
        graphics_use,
        graphics_memory_bytes,
        graphics_clock_mhz,
        governor: _,
        power_profile: _,
        meters,
        counted,
    } = sampled;
    samples.iter_mut().for_each(|samples| each(Own::Short(samples)));
    for own in [looked, stalled_processor, stalled_memory, stalled_disk] {
        time(own, each);
    }
    for own in [tree_peak_bytes, memory_available_least_bytes, swapped_bytes] {
        whole(own, each);
    }
    let shares = [cores_busy, busiest_core, processor_use, one_core_busy];
    for own in shares.into_iter().chain([energy_j, battery_energy_j]) {
        real(own, each);
    }
    core_use.iter_mut().for_each(|share| each(Own::Real(share)));
    let courses = [clock_mhz, temperature_c, fan_rpm, power_w, battery];
    let of_cards = [graphics_use, graphics_memory_bytes, graphics_clock_mhz];
    for own in courses.into_iter().chain(of_cards).flatten() {
        course(own, each);
    }
    each_meter(meters, each);
    if let Some(counted) = counted {
        let CountedPower { seconds, looks, power_w, meters } = &mut **counted;
        each(Own::Real(seconds));
        each(Own::Short(looks));
        power_w.iter_mut().for_each(|own| course(own, each));
        each_meter(meters, each);
    }
}

fn each_meter<'d>(meters: &'d mut [MeterSum], each: &mut impl FnMut(Own<'d>)) {
    for MeterSum { name: _, unit: _, course: own } in meters {
        course(own, each);
    }
}

fn course<'d>(course: &'d mut QuantitySummary, each: &mut impl FnMut(Own<'d>)) {
    let QuantitySummary { first, last, least, most, mean } = course;
    [first, last, least, most, mean].into_iter().for_each(|own| each(Own::Real(own)));
}

fn time<'d>(time: &'d mut Option<Nanos>, each: &mut impl FnMut(Own<'d>)) {
    time.iter_mut().for_each(|time| each(Own::Whole(&mut time.0)));
}

fn whole<'d>(number: &'d mut Option<u64>, each: &mut impl FnMut(Own<'d>)) {
    number.iter_mut().for_each(|number| each(Own::Whole(number)));
}

fn real<'d>(number: &'d mut Option<f64>, each: &mut impl FnMut(Own<'d>)) {
    number.iter_mut().for_each(|number| each(Own::Real(number)));
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::Better;

    /// Returns what is known of a lap in which everything is known, each number another than of the lap before it.
    fn details(of: u64) -> Details {
        let real = |place: u64| Some((of * 100 + place) as f64 / 7.0);
        let whole = |place: u64| Some(of * 1_000 + place);
        let time = |place: u64| whole(place).map(Nanos);
        let course = |place: u64| {
            let of = |at: u64| (of * 100 + place * 5 + at) as f64 / 3.0;
            Some(QuantitySummary {
                first: of(0),
                last: of(1),
                least: of(2),
                most: of(3),
                mean: of(4),
            })
        };
        let meter = |name: &str, place| MeterSum {
            name: name.to_owned(),
            unit: "W".to_owned(),
            course: course(place).unwrap_or_default(),
        };
        let reading = |name: &str, value: Option<f64>, seen: &str| Reading {
            name: name.to_owned(),
            unit: "points".to_owned(),
            better: Better::More,
            value,
            step: Some(1.0),
            seen: seen.to_owned(),
            reports_time: false,
        };
        let sampled = Sampled {
            samples: Some(of as u32),
            looked: time(1),
            tree_peak_bytes: whole(2),
            cores_busy: real(3),
            busiest_core: real(4),
            core_use: vec![0.5, of as f64 / 9.0],
            processor_use: real(5),
            one_core_busy: real(6),
            memory_available_least_bytes: whole(7),
            swapped_bytes: whole(8),
            stalled_processor: time(9),
            stalled_memory: time(10),
            stalled_disk: time(11),
            clock_mhz: course(12),
            temperature_c: course(13),
            fan_rpm: course(14),
            power_w: course(15),
            energy_j: real(16),
            battery: course(17),
            battery_energy_j: real(18),
            brightness: Some(0.5),
            on_mains: Some(true),
            graphics_use: course(19),
            graphics_memory_bytes: course(20),
            graphics_clock_mhz: course(21),
            governor: Some("steady".to_owned()),
            meters: vec![meter("wall", 22), meter("desk", 23)],
            counted: Some(Box::new(CountedPower {
                seconds: of as f64,
                looks: of as u32,
                power_w: course(24),
                meters: vec![meter("wall", 25)],
            })),
            ..Sampled::default()
        };
        let conditions = Conditions {
            others_cpu: time(26),
            memory_available_bytes: whole(27),
            swap_used_bytes: whole(28),
            load_1min: real(29),
            slept: time(30),
            other_programs: vec![OtherProgram { name: "indexer".into(), used: Nanos(of) }],
            own: OwnWaits {
                memory: time(31),
                disk: time(32),
                read_bytes: whole(33),
                written_bytes: whole(34),
            },
            sampled,
            ..Conditions::default()
        };
        let seen = ["812", "0:52.25", "", "fifteen letters"][of as usize % 4];
        Details {
            parts: time(35),
            readings: vec![
                reading("score", real(36), seen),
                reading("sky", None, "no line says sky"),
                reading("sea", real(37), "seen, and longer than has room"),
            ],
            facts: LapFacts { conditions, processor_time: time(38), ..LapFacts::default() },
        }
    }

    #[test]
    fn whatever_is_taken_out_comes_back_to_the_last_digit() {
        let (mut rows, mut common) = (NumberRows::default(), Vec::new());
        for of in 0..9 {
            let mut left = details(of);
            rows.push(&left.take_own());
            common.push(left);
        }
        assert!(common.iter().all(|left| *left == common[0]), "they differ in nothing else");
        // One after the other in one place, and in any order.
        let mut seen = common[0].clone();
        for of in [0, 8, 3, 4, 2, 1, 5, 6, 7, 0] {
            seen.put_own(OwnRow { rows: &rows, place: of });
            assert_eq!(seen, details(u64::from(of)));
        }
    }

    #[test]
    fn no_number_of_a_lap_is_left_in_what_laps_have_in_common() {
        let mut left = details(5);
        left.take_own();
        let told = format!("{left:?}");
        let digits = told.split(|c: char| !c.is_ascii_digit()).filter(|d| !d.is_empty());
        let other: Vec<&str> =
            digits.filter(|digits| !digits.trim_matches('0').is_empty()).collect();
        // How bright the screen was, the steps in which readings were read, and the load's name.
        assert_eq!(other, ["1", "1", "1", "1", "5"], "{told}");
    }

    #[test]
    fn what_is_not_known_is_no_number() {
        let mut nothing = Details::default();
        assert!(nothing.take_own().is_empty());
        nothing.parts = Some(Nanos(7));
        assert_eq!(nothing.take_own(), [7]);
    }
}
