//! The named measures of a pass.

use super::low::{LEAST_FRAMES_LOW_01, LEAST_FRAMES_LOW_1};
use crate::record::{Better, Digest, Measure, Reading, SECONDS};

/// Frames over time.
pub const AVERAGE_RATE: &str = "average rate";
/// The rate at the 99th percentile frame time.
pub const LOW_1: &str = "low 1%";
/// Hitches a minute.
pub const HITCHES_A_MINUTE: &str = "hitches a minute";
/// The unit of rates.
const RATE: &str = "fps";

/// The measures that are compared unless others are asked for.
pub const HEADLINES: [&str; 2] = [AVERAGE_RATE, LOW_1];

/// Name, unit and better way of every measure, in the order in which they are shown.
const ALL: [(&str, &str, Better); 21] = [
    (AVERAGE_RATE, RATE, Better::More),
    (LOW_1, RATE, Better::More),
    ("low 0.1%", RATE, Better::More),
    ("slowest 1%", RATE, Better::More),
    ("median frame", SECONDS, Better::Less),
    ("95% frame", SECONDS, Better::Less),
    ("99% frame", SECONDS, Better::Less),
    ("99.9% frame", SECONDS, Better::Less),
    ("worst frame", SECONDS, Better::Less),
    ("hitches", "", Better::Less),
    (HITCHES_A_MINUTE, "1/min", Better::Less),
    ("hitch time", SECONDS, Better::Less),
    ("frame change", SECONDS, Better::Less),
    ("over budget", "%", Better::Less),
    ("missed refreshes", "", Better::Less),
    ("on time", "%", Better::More),
    ("plays on time", "%", Better::More),
    ("late frames", "", Better::Less),
    ("dropped frames", "", Better::Less),
    ("uncapped rate", RATE, Better::More),
    ("frames", "", Better::More),
];

/// Returns the measures that a pass yields: of a display or a source only where one is stated.
pub fn measures() -> Vec<Measure> {
    let measure = |(name, unit, better): (&str, &str, Better)| Measure {
        name: name.to_owned(),
        unit: unit.to_owned(),
        better,
    };
    ALL.map(measure).into()
}

/// Returns whether `name` is a measure of passes.
pub fn is_measure(name: &str) -> bool {
    ALL.iter().any(|(known, ..)| *known == name)
}

/// Returns the measures of a pass as readings; one that is refused says why.
pub fn readings(digest: &Digest) -> Vec<Reading> {
    let sums = &digest.sums;
    let minutes = sums.time.seconds() / 60.0;
    let (paced, played) = (digest.paced.as_ref(), digest.played.as_ref());
    let few = |least: usize| format!("refused: {} frames, and {least} are needed", sums.frames);
    let (few_1, few_01) = (few(LEAST_FRAMES_LOW_1), few(LEAST_FRAMES_LOW_01));
    let beyond = |frames: u64| format!("refused: fewer than {frames} frames");
    let found: Vec<Option<(Option<f64>, String)>> = vec![
        known(sums.rate),
        or_refused(sums.low_1, few_1.clone()),
        or_refused(sums.low_01, few_01),
        or_refused(sums.slowest_1, few_1),
        known(sums.median),
        or_refused(sums.p95, beyond(20)),
        or_refused(sums.p99, beyond(100)),
        or_refused(sums.p99_9, beyond(1_000)),
        known(sums.worst),
        known(sums.hitches as f64),
        known(sums.hitches as f64 / minutes),
        known(sums.lost.seconds()),
        or_refused(sums.change, beyond(2)),
        paced.and_then(|paced| known(paced.over * 100.0)),
        paced.and_then(|paced| known(paced.missed as f64)),
        paced.and_then(|paced| known(paced.on_time * 100.0)),
        played.and_then(|played| known(played.on_time() * 100.0)),
        played.and_then(|played| known(played.late as f64)),
        played.and_then(|played| known(played.dropped as f64)),
        digest.busy.as_ref().and_then(|busy| known(busy.rate)),
        known(sums.frames as f64),
    ];
    let reading = |((name, unit, better), found): ((&str, &str, Better), Option<_>)| {
        let (value, seen): (Option<f64>, String) = found?;
        Some(Reading {
            name: name.to_owned(),
            unit: unit.to_owned(),
            better,
            value,
            step: None,
            seen,
            reports_time: false,
        })
    };
    ALL.into_iter().zip(found).filter_map(reading).collect()
}

fn known(value: f64) -> Option<(Option<f64>, String)> {
    Some((Some(value), String::new()))
}

fn or_refused(value: Option<f64>, why: String) -> Option<(Option<f64>, String)> {
    Some((value, if value.is_some() { String::new() } else { why }))
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
