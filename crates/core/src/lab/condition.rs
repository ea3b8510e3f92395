//! Conditions of a lap, each as a number: what the machine did while it ran, as measures like any other.

use super::facts::LapFacts;
use crate::record::{Better, Measure, QuantitySummary};
use crate::unit::Nanos;

/// A lap, as its conditions are read.
#[derive(Clone, Copy)]
pub(crate) struct Seen<'a> {
    /// What is known of it.
    pub facts: &'a LapFacts,
    /// How long it took.
    pub wall: Nanos,
    /// How many threads its machine runs at once.
    pub threads: Option<u32>,
}

/// One condition: its measure, and how it is read.
pub(crate) struct Condition {
    /// The measure's name.
    pub name: &'static str,
    /// Its unit.
    pub unit: &'static str,
    better: Better,
    read: fn(&Seen<'_>) -> Option<f64>,
}

const PER_CENT: f64 = 100.0;
const MEGABYTE: f64 = 1e6;

const fn less(
    name: &'static str,
    unit: &'static str,
    read: fn(&Seen<'_>) -> Option<f64>,
) -> Condition {
    Condition { name, unit, better: Better::Less, read }
}

const fn more(
    name: &'static str,
    unit: &'static str,
    read: fn(&Seen<'_>) -> Option<f64>,
) -> Condition {
    Condition { name, unit, better: Better::More, read }
}

/// Every condition that is a number.
///
/// * Units: shares in %, of all threads or of the lap's time; sizes in MB, 10⁶ bytes.
pub(crate) const CONDITIONS: [Condition; 20] = [
    less("use", "%", |lap| {
        let of_cores = || Some(lap.sampled().cores_busy? / lap.of_threads()?);
        Some(lap.sampled().processor_use.or_else(of_cores)? * PER_CENT)
    }),
    less("busiest core", "%", |lap| Some(lap.sampled().busiest_core? * PER_CENT)),
    less("cores in use", "", |lap| lap.sampled().cores_busy),
    less("own threads", "", |lap| lap.facts.threads_used(lap.wall)),
    less("graphics use", "%", |lap| Some(mean(lap.sampled().graphics_use)? * PER_CENT)),
    less("graphics memory", "MB", |lap| {
        Some(most(lap.sampled().graphics_memory_bytes)? / MEGABYTE)
    }),
    more("graphics clock", "MHz", |lap| mean(lap.sampled().graphics_clock_mhz)),
    more("clock", "MHz", |lap| mean(lap.sampled().clock_mhz)),
    less("hottest", "°C", |lap| most(lap.sampled().temperature_c)),
    less("fan", "rpm", |lap| most(lap.sampled().fan_rpm)),
    less("peak memory", "MB", |lap| Some(lap.sampled().tree_peak_bytes? as f64 / MEGABYTE)),
    less("swapped", "MB", |lap| Some(lap.sampled().swapped_bytes? as f64 / MEGABYTE)),
    less("processor wait", "%", |lap| lap.share(lap.sampled().stalled_processor)),
    less("memory wait", "%", |lap| lap.share(lap.sampled().stalled_memory)),
    less("disk wait", "%", |lap| lap.share(lap.sampled().stalled_disk)),
    less("own memory wait", "%", |lap| lap.share(lap.own().memory)),
    less("own disk wait", "%", |lap| lap.share(lap.own().disk)),
    less("read from disks", "MB", |lap| Some(lap.own().read_bytes? as f64 / MEGABYTE)),
    less("written to disks", "MB", |lap| Some(lap.own().written_bytes? as f64 / MEGABYTE)),
    less("used by others", "", |lap| lap.facts.threads_of_others(lap.wall)),
];

impl Condition {
    /// Returns what it was for a lap; `None` where that is not known.
    pub fn of(&self, lap: &Seen<'_>) -> Option<f64> {
        (self.read)(lap).filter(|value| value.is_finite())
    }

    /// Returns it as a measure.
    pub fn measure(&self) -> Measure {
        Measure { name: self.name.to_owned(), unit: self.unit.to_owned(), better: self.better }
    }
}

impl Seen<'_> {
    fn sampled(&self) -> &crate::record::Sampled {
        &self.facts.conditions.sampled
    }

    fn own(&self) -> &crate::record::OwnWaits {
        &self.facts.conditions.own
    }

    fn of_threads(&self) -> Option<f64> {
        self.threads.map(f64::from).filter(|threads| *threads >= 1.0)
    }

    /// Returns a time as a share of the lap's, in %; the kernel counts it between looks that a short lap fills in part.
    fn share(&self, waited: Option<Nanos>) -> Option<f64> {
        Some((waited?.seconds() / self.wall.seconds()).min(1.0) * PER_CENT)
    }
}

fn mean(summary: Option<QuantitySummary>) -> Option<f64> {
    summary.map(|summary| summary.mean)
}

fn most(summary: Option<QuantitySummary>) -> Option<f64> {
    summary.map(|summary| summary.most)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn conditions_are_read_in_their_units_and_what_is_not_known_is_none() {
        let mut facts = LapFacts::default();
        let read = |facts: &LapFacts, threads: Option<u32>| -> Vec<(&'static str, f64)> {
            let lap = Seen { facts, wall: Nanos::from_seconds(10), threads };
            CONDITIONS.iter().filter_map(|c| Some((c.name, c.of(&lap)?))).collect()
        };
        assert_eq!(read(&facts, Some(8)), []);
        let sampled = &mut facts.conditions.sampled;
        sampled.cores_busy = Some(2.0);
        sampled.swapped_bytes = Some(0);
        sampled.stalled_disk = Some(Nanos::from_seconds(4));
        sampled.temperature_c =
            Some(QuantitySummary { mean: 60.0, most: 81.0, ..QuantitySummary::default() });
        facts.processor_time = Some(Nanos::from_seconds(15));
        assert_eq!(
            read(&facts, Some(8)),
            [
                ("use", 25.0),
                ("cores in use", 2.0),
                ("own threads", 1.5),
                ("hottest", 81.0),
                ("swapped", 0.0),
                ("disk wait", 40.0)
            ]
        );
        assert!(!read(&facts, None).iter().any(|(name, _)| *name == "use"), "of how many?");
    }

    #[test]
    fn names_are_distinct() {
        let names: std::collections::BTreeSet<&str> = CONDITIONS.iter().map(|c| c.name).collect();
        assert_eq!(names.len(), CONDITIONS.len());
    }
}
