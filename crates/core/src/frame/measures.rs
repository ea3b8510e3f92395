//! The named measures of a pass.

use super::low::{LEAST_FRAMES_LOW_01, LEAST_FRAMES_LOW_1};
use crate::record::{Better, Digest, Measure, Reading, SECONDS};

/// Frames over time.
pub const AVERAGE_RATE: &str = "average rate";
/// The rate at the 99th percentile frame time.
pub const LOW_1: &str = "low 1%";
/// Hitches a minute.
pub const HITCHES_A_MINUTE: &str = "hitches a minute";
/// What the work alone would allow, where busy times are known.
pub const UNCAPPED_RATE: &str = "uncapped rate";
/// The unit of rates.
const RATE: &str = "fps";

/// What a measure comes to for a pass: its value, or why there is none; nothing where it has no ground, as late frames have
/// none where nothing is played.
type Found = Option<(Option<f64>, String)>;

/// A measure of passes, and how it is worked out.
struct OfPass {
    name: &'static str,
    unit: &'static str,
    better: Better,
    /// Whether passes are compared by it unless others are asked for.
    headline: bool,
    found: fn(&Digest) -> Found,
}

const fn less(name: &'static str, unit: &'static str, found: fn(&Digest) -> Found) -> OfPass {
    OfPass { name, unit, better: Better::Less, headline: false, found }
}

const fn more(name: &'static str, unit: &'static str, found: fn(&Digest) -> Found) -> OfPass {
    OfPass { name, unit, better: Better::More, headline: false, found }
}

const fn headline(name: &'static str, found: fn(&Digest) -> Found) -> OfPass {
    OfPass { headline: true, ..more(name, RATE, found) }
}

/// Every measure, in the order in which they are shown.
const ALL: [OfPass; 23] = [
    headline(AVERAGE_RATE, |pass| known(pass.sums.rate)),
    headline(LOW_1, |pass| needing(LEAST_FRAMES_LOW_1, pass, pass.sums.low_1)),
    more("low 0.1%", RATE, |pass| needing(LEAST_FRAMES_LOW_01, pass, pass.sums.low_01)),
    more("slowest 1%", RATE, |pass| needing(LEAST_FRAMES_LOW_1, pass, pass.sums.slowest_1)),
    less("median frame", SECONDS, |pass| known(pass.sums.median)),
    less("95% frame", SECONDS, |pass| beyond(20, pass.sums.p95)),
    less("99% frame", SECONDS, |pass| beyond(100, pass.sums.p99)),
    less("99.9% frame", SECONDS, |pass| beyond(1_000, pass.sums.p99_9)),
    less("worst frame", SECONDS, |pass| known(pass.sums.worst)),
    less("hitches", "", |pass| known(pass.sums.hitches as f64)),
    less(HITCHES_A_MINUTE, "1/min", |pass| {
        known(pass.sums.hitches as f64 / (pass.sums.time.seconds() / 60.0))
    }),
    less("hitch time", SECONDS, |pass| known(pass.sums.lost.seconds())),
    less("frame change", SECONDS, |pass| beyond(2, pass.sums.change)),
    less("over budget", "%", |pass| known(pass.paced?.over * 100.0)),
    less("missed refreshes", "", |pass| known(pass.paced?.missed as f64)),
    more("on time", "%", |pass| known(pass.paced?.on_time * 100.0)),
    more("plays on time", "%", |pass| known(pass.played?.on_time() * 100.0)),
    less("late frames", "", |pass| known(pass.played?.late as f64)),
    less("dropped frames", "", |pass| known(pass.played?.dropped as f64)),
    more(UNCAPPED_RATE, RATE, |pass| known(pass.busy.as_ref()?.rate)),
    less("processor busy", "%", |pass| known(pass.busy.as_ref()?.processor_share? * 100.0)),
    less("card busy", "%", |pass| known(pass.busy.as_ref()?.graphics_share? * 100.0)),
    more("frames", "", |pass| known(pass.sums.frames as f64)),
];

/// Returns the measures that a pass yields: of a display or a source only where one is stated.
pub fn measures() -> Vec<Measure> {
    let measure = |of: &OfPass| Measure {
        name: of.name.to_owned(),
        unit: of.unit.to_owned(),
        better: of.better,
    };
    ALL.iter().map(measure).collect()
}

/// Returns whether `name` is a measure of passes.
pub fn is_measure(name: &str) -> bool {
    ALL.iter().any(|known| known.name == name)
}

/// Returns whether `name` is a measure of passes that is compared only where it is asked for.
pub fn is_minor(name: &str) -> bool {
    ALL.iter().any(|known| known.name == name && !known.headline)
}

/// Returns the measures of a pass as readings; one that is refused says why.
pub fn readings(digest: &Digest) -> Vec<Reading> {
    let reading = |of: &OfPass| {
        let (value, seen) = (of.found)(digest)?;
        Some(Reading {
            name: of.name.to_owned(),
            unit: of.unit.to_owned(),
            better: of.better,
            value,
            step: None,
            seen,
            reports_time: false,
        })
    };
    ALL.iter().filter_map(reading).collect()
}

fn known(value: f64) -> Found {
    Some((Some(value), String::new()))
}

/// Returns a value that so many frames are needed for.
fn needing(least: usize, pass: &Digest, value: Option<f64>) -> Found {
    let few = || format!("refused: {} frames, and {least} are needed", pass.sums.frames);
    Some((value, if value.is_some() { String::new() } else { few() }))
}

/// Returns a percentile, beyond which a frame must lie.
fn beyond(least: u64, value: Option<f64>) -> Found {
    let few = || format!("refused: fewer than {least} frames");
    Some((value, if value.is_some() { String::new() } else { few() }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Against, Cut, Pass};

    #[test]
    fn what_is_refused_says_why_and_what_has_no_ground_is_not_there() {
        let pass = Pass { shown: vec![20_000_000; 300], ..Pass::default() };
        let of = |against| readings(&Digest::of(&pass, &Cut::default(), against).unwrap());
        let found = of(Against::default());
        let by = |name: &str| found.iter().find(|reading| reading.name == name);
        assert_eq!(by(AVERAGE_RATE).unwrap().value, Some(50.0));
        assert_eq!(by(LOW_1).unwrap().seen, "refused: 300 frames, and 1000 are needed");
        assert!(by("over budget").is_none() && by("uncapped rate").is_none());
        let found = of(Against { plays_at: Some(24.0), ..Against::display(60.0) });
        let missed = found.iter().find(|reading| reading.name == "missed refreshes").unwrap();
        assert_eq!(missed.value, Some(60.0), "300 frames of 20 ms fill 360 refreshes");
        let dropped = found.iter().find(|reading| reading.name == "dropped frames").unwrap();
        assert_eq!(dropped.value, Some(0.0), "50 frames a second show all of 24");
    }
}
