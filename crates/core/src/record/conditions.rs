//! What the machine was like during a lap: samples as taken, and what they come to.
//!
//! Everything may be unknown: `None` is 'not known', never 0.

use crate::record::Samples;
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What a channel's values are of, with the unit that they are kept in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Quantity {
    /// Use of one core, as a share.
    CoreUse,
    /// Clock of one core, in MHz.
    CoreClock,
    /// Memory that could still be had, in bytes.
    MemoryAvailable,
    /// Swap in use, in bytes.
    SwapUsed,
    /// What was swapped in and out since the first sample, in bytes.
    Swapped,
    /// Time in which something waited for a processor since the first sample, in seconds.
    ProcessorStall,
    /// Time in which something waited for memory since the first sample, in seconds.
    MemoryStall,
    /// Time in which something waited for a disk since the first sample, in seconds.
    DiskStall,
    /// A temperature, in °C.
    Temperature,
    /// Speed of a fan, in turns a minute.
    Fan,
    /// Power, in watts.
    Power,
    /// Energy since the first sample, in joules.
    Energy,
    /// Charge of a battery, as a share.
    Charge,
    /// Energy left in a battery, in joules.
    BatteryEnergy,
    /// Power drawn from a battery, in watts.
    BatteryPower,
    /// Use of a graphics card, as a share.
    GraphicsUse,
    /// Memory in use on a graphics card, in bytes.
    GraphicsMemory,
    /// Clock of a graphics card, in MHz.
    GraphicsClock,
    /// What an outside meter printed, in its own unit.
    Meter,
}

impl Quantity {
    /// Returns what it is called, and its unit.
    pub fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::CoreUse => ("core use", ""),
            Self::CoreClock => ("core clock", "MHz"),
            Self::MemoryAvailable => ("memory available", "B"),
            Self::SwapUsed => ("swap used", "B"),
            Self::Swapped => ("swapped", "B"),
            Self::ProcessorStall => ("waited for a processor", "s"),
            Self::MemoryStall => ("waited for memory", "s"),
            Self::DiskStall => ("waited for a disk", "s"),
            Self::Temperature => ("temperature", "°C"),
            Self::Fan => ("fan", "rpm"),
            Self::Power => ("power", "W"),
            Self::Energy => ("energy", "J"),
            Self::Charge => ("battery", ""),
            Self::BatteryEnergy => ("energy in the battery", "J"),
            Self::BatteryPower => ("power from the battery", "W"),
            Self::GraphicsUse => ("graphics use", ""),
            Self::GraphicsMemory => ("graphics memory", "B"),
            Self::GraphicsClock => ("graphics clock", "MHz"),
            Self::Meter => ("meter", ""),
        }
    }
}

/// One channel of samples.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Trace {
    /// What it is of.
    pub quantity: Quantity,
    /// Which one, where there are several: a core's number, a sensor's label.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub which: String,
    /// The unit of an outside meter; other quantities have their own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub unit: String,
    /// A value for every moment; `None` where it could not be read.
    pub values: Samples,
}

/// The samples of a lap.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Traces {
    /// The moments, in milliseconds since the lap began.
    pub at_ms: Vec<u64>,
    /// The channels.
    pub channels: Vec<Trace>,
}

impl Traces {
    /// Returns whether nothing was sampled.
    pub fn is_empty(&self) -> bool {
        self.at_ms.is_empty()
    }

    /// Returns the channels of `quantity`.
    pub fn of(&self, quantity: Quantity) -> impl Iterator<Item = &Trace> {
        self.channels.iter().filter(move |trace| trace.quantity == quantity)
    }

    /// Returns, for every moment, what `fold` makes of the values of `quantity` known then, if any is.
    pub fn across_moments(
        &self,
        quantity: Quantity,
        fold: impl Fn(&[f64]) -> f64,
    ) -> Vec<Option<f64>> {
        let channels: Vec<&Trace> = self.of(quantity).collect();
        let mut known: Vec<f64> = Vec::with_capacity(channels.len());
        let mut at_moment = |at: usize| {
            known.clear();
            known.extend(channels.iter().filter_map(|trace| trace.values.get(at)));
            (!known.is_empty()).then(|| fold(&known))
        };
        (0..self.at_ms.len()).map(&mut at_moment).collect()
    }

    /// Returns at most so many moments, each with the means of what was known from it to the next.
    pub fn thinned(self, most: usize) -> Self {
        let each = self.at_ms.len().div_ceil(most.max(1));
        if each < 2 {
            return self;
        }
        let channel = |trace: Trace| {
            let all: Vec<Option<f64>> = trace.values.into();
            let one =
                |some: &[Option<f64>]| mean(&some.iter().copied().flatten().collect::<Vec<f64>>());
            Trace { values: all.chunks(each).map(one).collect(), ..trace }
        };
        Self {
            at_ms: self.at_ms.iter().step_by(each).copied().collect(),
            channels: self.channels.into_iter().map(channel).collect(),
        }
    }

    /// Returns what [`Self::across_moments`] knows.
    fn across(&self, quantity: Quantity, fold: impl Fn(&[f64]) -> f64) -> Vec<f64> {
        self.across_moments(quantity, fold).into_iter().flatten().collect()
    }

    /// Returns the growth from the first to the last known value, summed over channels.
    fn growth(&self, quantity: Quantity) -> Option<f64> {
        self.of(quantity)
            .filter_map(|trace| {
                let mut known = trace.values.known();
                let first = known.next()?;
                Some(known.next_back().unwrap_or(first) - first)
            })
            .reduce(|a, b| a + b)
    }
}

/// How a quantity went over a lap.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Course {
    /// Its mean over the first quarter of the samples.
    pub first: f64,
    /// Its mean over the last quarter.
    pub last: f64,
    /// Its least.
    pub least: f64,
    /// Its most.
    pub most: f64,
    /// Its mean.
    pub mean: f64,
}

impl Course {
    /// Returns the course of `values`, in order of time; `None` of none.
    pub fn of(values: &[f64]) -> Option<Self> {
        let quarter = values.len().div_ceil(4);
        Some(Self {
            first: mean(values.get(..quarter)?)?,
            last: mean(&values[values.len() - quarter..])?,
            least: values.iter().copied().reduce(f64::min)?,
            most: values.iter().copied().reduce(f64::max)?,
            mean: mean(values)?,
        })
    }
}

/// What an outside meter came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct MeterSum {
    /// Its name in the study.
    pub name: String,
    /// Its unit.
    pub unit: String,
    /// How it went.
    pub course: Course,
}

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
    /// What was seen while it ran, which laps recorded in format 1 have not.
    #[serde(skip_serializing_if = "Sampled::is_nothing")]
    pub sampled: Sampled,
}

/// What the samples come to. Unknown values are left out of what is stored.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Sampled {
    /// How many samples were taken.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub samples: Option<u32>,
    /// The time between the looks before and after the lap, for what is counted between them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub looked: Option<Nanos>,
    /// The most memory that the lap's whole tree was seen to hold at once, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tree_peak_bytes: Option<u64>,
    /// How many cores were busy, in the mean.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cores_busy: Option<f64>,
    /// Use of the busiest core, in the mean, as a share.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub busiest_core: Option<f64>,
    /// The least memory that could still be had, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub memory_available_least_bytes: Option<u64>,
    /// What was swapped in and out meanwhile, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub swapped_bytes: Option<u64>,
    /// Time in which something waited for a processor.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stalled_processor: Option<Nanos>,
    /// Time in which something waited for memory.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stalled_memory: Option<Nanos>,
    /// Time in which something waited for a disk.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stalled_disk: Option<Nanos>,
    /// Clock of the cores, in MHz; the mean of all cores at each moment.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clock_mhz: Option<Course>,
    /// The hottest sensor at each moment, in °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub temperature_c: Option<Course>,
    /// The fastest fan, in turns a minute.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fan_rpm: Option<Course>,
    /// Power of what can be measured from inside, in watts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_w: Option<Course>,
    /// Energy of what can be measured from inside, in joules.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub energy_j: Option<f64>,
    /// Charge of the battery, as a share.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub battery: Option<Course>,
    /// Energy taken from the battery, in joules.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub battery_energy_j: Option<f64>,
    /// Brightness of the screen when the lap began, as a share of its most.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub brightness: Option<f64>,
    /// Whether the machine ran on mains; `None` where it does not say.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on_mains: Option<bool>,
    /// Use of the busiest graphics card, as a share.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub graphics_use: Option<Course>,
    /// Memory in use on graphics cards, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub graphics_memory_bytes: Option<Course>,
    /// Clock of the fastest graphics card, in MHz.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub graphics_clock_mhz: Option<Course>,
    /// How the processor's clock was governed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub governor: Option<String>,
    /// The machine's power profile.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_profile: Option<String>,
    /// Outside meters.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<MeterSum>,
}

impl Sampled {
    fn is_nothing(&self) -> bool {
        *self == Self::default()
    }

    /// Returns the courses of clock and heat, where the clock fell while the temperature rose.
    ///
    /// A clock that falls by less than 5 % only breathes, and less than 3 °C is no cause.
    pub fn throttled(&self) -> Option<(Course, Course)> {
        const LEAST_FALL: f64 = 0.05;
        const LEAST_RISE_C: f64 = 3.0;
        let (clock, heat) = self.clock_mhz.zip(self.temperature_c)?;
        let fall = 1.0 - clock.last / clock.first;
        (fall > LEAST_FALL && heat.last - heat.first >= LEAST_RISE_C).then_some((clock, heat))
    }

    /// Returns what `traces` come to. What only words can say is left unknown.
    pub fn of(traces: &Traces) -> Self {
        use Quantity as Q;
        let course = |quantity, fold: fn(&[f64]) -> f64| Course::of(&traces.across(quantity, fold));
        let busiest = traces.of(Q::CoreUse).filter_map(|core| mean_known(&core.values));
        let stalled = |quantity| traces.growth(quantity).map(|seconds| Nanos(whole(seconds * 1e9)));
        Self {
            samples: Some(u32::try_from(traces.at_ms.len()).unwrap_or(u32::MAX)),
            looked: None,
            tree_peak_bytes: None,
            cores_busy: mean(&traces.across(Q::CoreUse, sum)),
            busiest_core: busiest.reduce(f64::max),
            memory_available_least_bytes: course(Q::MemoryAvailable, sum).map(|c| whole(c.least)),
            swapped_bytes: traces.growth(Q::Swapped).map(whole),
            stalled_processor: stalled(Q::ProcessorStall),
            stalled_memory: stalled(Q::MemoryStall),
            stalled_disk: stalled(Q::DiskStall),
            clock_mhz: course(Q::CoreClock, |all| sum(all) / all.len() as f64),
            temperature_c: course(Q::Temperature, most),
            fan_rpm: course(Q::Fan, most),
            power_w: course(Q::Power, sum)
                .or_else(|| course(Q::BatteryPower, sum).filter(|_| !is_charging(traces))),
            energy_j: traces.growth(Q::Energy),
            battery: course(Q::Charge, |all| sum(all) / all.len() as f64),
            battery_energy_j: battery_energy(traces),
            brightness: None,
            on_mains: None,
            graphics_use: course(Q::GraphicsUse, most),
            graphics_memory_bytes: course(Q::GraphicsMemory, sum),
            graphics_clock_mhz: course(Q::GraphicsClock, most),
            governor: None,
            power_profile: None,
            meters: traces.of(Q::Meter).filter_map(meter).collect(),
        }
    }
}

/// Returns whether batteries hold more at the end than at the beginning: then their power is no consumption.
fn is_charging(traces: &Traces) -> bool {
    let grown = |quantity| traces.growth(quantity).is_some_and(|grown| grown > 0.0);
    let charge = Course::of(&traces.across(Quantity::Charge, sum));
    grown(Quantity::BatteryEnergy) || charge.is_some_and(|charge| charge.last > charge.first)
}

/// Returns the energy taken from batteries, in joules: as they count it, or their power over the time.
pub fn battery_energy(traces: &Traces) -> Option<f64> {
    if let Some(grown) = traces.growth(Quantity::BatteryEnergy) {
        return Some(-grown).filter(|taken| *taken >= 0.0);
    }
    let powers = traces.across_moments(Quantity::BatteryPower, sum);
    let pairs = traces.at_ms.windows(2).zip(powers.windows(2));
    let parts = pairs.filter_map(|(at, power)| {
        let seconds = (at[1] - at[0]) as f64 / 1e3;
        Some((power[0]? + power[1]?) / 2.0 * seconds)
    });
    parts.reduce(|a, b| a + b)
}

fn meter(trace: &Trace) -> Option<MeterSum> {
    let known: Vec<f64> = trace.values.known().collect();
    let course = Course::of(&known)?;
    Some(MeterSum { name: trace.which.clone(), unit: trace.unit.clone(), course })
}

fn whole(value: f64) -> u64 {
    // Saturates: a counter that was set back meanwhile gives nothing rather than nonsense.
    value.max(0.0).round() as u64
}

fn sum(values: &[f64]) -> f64 {
    values.iter().sum()
}

fn most(values: &[f64]) -> f64 {
    values.iter().copied().fold(f64::NEG_INFINITY, f64::max)
}

fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| sum(values) / values.len() as f64)
}

fn mean_known(values: &Samples) -> Option<f64> {
    mean(&values.known().collect::<Vec<f64>>())
}

#[cfg(test)]
mod tests {
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
