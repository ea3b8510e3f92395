//! What a lap was run under: how the machine was, in samples as taken and what they come to, and how its program was set.
//!
//! Everything may be unknown: `None` is 'not known', never 0.

use super::mode::Mode;
use super::own::OwnWaits;
use super::sampled::Sampled;
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What the machine was like around and during a lap.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Conditions {
    /// Processor time that everything outside the lap used meanwhile.
    pub others_cpu: Option<Nanos>,
    /// Memory that could still be had when the lap began, in bytes.
    pub memory_available_bytes: Option<u64>,
    /// Swap in use when the lap began, in bytes.
    pub swap_used_bytes: Option<u64>,
    /// Tasks that ran or waited to, averaged over the minute before.
    pub load_1min: Option<f64>,
    /// How long the machine slept during the lap.
    pub slept: Option<Nanos>,
    /// Which programs that was, most first, where it was enough to matter and somebody looked.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub other_programs: Vec<OtherProgram>,
    /// What its own processes waited for and moved; nothing of laps that were recorded before it was noted.
    #[serde(skip_serializing_if = "OwnWaits::is_nothing")]
    pub own: OwnWaits,
    /// How the program was set, by the modes that the study asks for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub modes: Vec<Mode>,
    /// What was seen while it ran, which laps recorded in format 1 have not.
    #[serde(skip_serializing_if = "Sampled::is_nothing")]
    pub sampled: Sampled,
}

/// A program that was no part of a lap.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct OtherProgram {
    /// Its name, as the system knows it.
    pub name: String,
    /// The processor time that it used meanwhile.
    pub used: Nanos,
}

/// The share of one hardware thread that others may use.
const QUIET: f64 = 0.05;
/// Less than this is below what the kernel's ticks can tell.
const LEAST: Nanos = Nanos(100_000_000);

impl Conditions {
    /// Returns what others used over so long, where that is enough to disturb a lap.
    pub fn busy_others(&self, counted_over: Option<Nanos>) -> Option<Nanos> {
        let share = |used: Nanos| Some(used.seconds() / counted_over?.seconds());
        self.others_cpu.filter(|used| *used >= LEAST && share(*used).is_some_and(|s| s > QUIET))
    }
}

#[cfg(test)]
mod tests {

    use super::super::trace::{Quantity, Trace, Traces};
    use super::*;

    fn trace(quantity: Quantity, which: &str, values: &[f64]) -> Trace {
        let values = values.iter().map(|&v| Some(v).filter(|v| !v.is_nan())).collect();
        Trace { quantity, which: which.into(), unit: String::new(), values }
    }

    #[test]
    fn samples_come_to_what_a_reader_wants_to_know() {
        let unknown = f64::NAN;
        let traces = Traces {
            at_ms: vec![0, 500, 1000, 1500],
            channels: vec![
                trace(Quantity::CoreUse, "0", &[unknown, 1.0, 1.0, 0.7]),
                trace(Quantity::CoreUse, "1", &[unknown, 0.0, 0.2, 0.1]),
                trace(Quantity::CoreClock, "0", &[4000.0, 3800.0, 3000.0, 2000.0]),
                trace(Quantity::CoreClock, "1", &[4000.0, 3800.0, 3000.0, 3000.0]),
                trace(Quantity::Temperature, "package", &[50.0, 60.0, 80.0, 95.0]),
                trace(Quantity::Temperature, "disk", &[55.0, 55.0, 55.0, 55.0]),
                trace(Quantity::DiskStall, "", &[1.0, 1.0, 1.25, 1.5]),
            ],
        };
        let sampled = Sampled::of(&traces);
        let thin = traces.clone().thinned(2);
        assert_eq!(
            (thin.at_ms.as_slice(), thin.channels[0].values.get(0)),
            (&[0, 1000][..], Some(1.0))
        );
        assert_eq!(thin.channels[2].values.get(1), Some(2500.0));
        assert_eq!(traces.clone().thinned(4), traces);
        assert_eq!(sampled.samples, Some(4));
        // Busy cores at the three moments known: 1.0, 1.2, 0.8.
        assert!((sampled.cores_busy.unwrap() - 1.0).abs() < 1e-12);
        assert!((sampled.busiest_core.unwrap() - 0.9).abs() < 1e-12);
        assert_eq!(sampled.core_use, [0.9, 0.1]);
        let clock = sampled.clock_mhz.unwrap();
        assert_eq!((clock.first, clock.last, clock.least), (4000.0, 2500.0, 2500.0));
        let heat = sampled.temperature_c.unwrap();
        assert_eq!((heat.first, heat.last, heat.most), (55.0, 95.0, 95.0));
        assert_eq!(sampled.stalled_disk, Some(Nanos(500_000_000)));
        assert_eq!((sampled.swapped_bytes, sampled.battery), (None, None), "unknown, and not 0");
    }

    #[test]
    fn a_counter_set_back_gives_nothing_rather_than_nonsense() {
        let channels = vec![trace(Quantity::Swapped, "", &[900.0, 100.0])];
        let sampled = Sampled::of(&Traces { at_ms: vec![0, 1], channels });
        assert_eq!(sampled.swapped_bytes, Some(0));
    }

    #[test]
    fn what_format_1_wrote_is_still_read() {
        let text = r#"{"others_cpu":5,"memory_available_bytes":null,"swap_used_bytes":null,"load_1min":0.5,"slept":0}"#;
        let read: Conditions = serde_json::from_str(text).unwrap();
        assert_eq!((read.others_cpu, read.sampled), (Some(Nanos(5)), Sampled::default()));
    }
}
