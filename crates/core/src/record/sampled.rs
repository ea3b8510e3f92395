//! What was seen while a lap ran, summed up.

use super::trace::{MeterSum, Quantity, QuantitySummary, Trace, Traces, mean};
use crate::record::{CountedPower, Samples};
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// By what a lap's processes are held together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum TreeKept {
    /// A control group of the kernel, which none of them can leave: ended at once, accounted as one.
    ControlGroup,
    /// Who is whose child; what loses its parent becomes the starter's.
    Parentage,
}

/// How the memory of a lap's processes is added up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum TreeMemory {
    /// By the kernel: pages that several of them share count once.
    ControlGroup,
    /// Process by process: shared pages count for each.
    ResidentSets,
}

/// The most memory that a lap's processes were seen to hold together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct TreePeak {
    /// In bytes.
    pub bytes: u64,
    /// How that was added up.
    pub by: TreeMemory,
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
    /// By what the lap's processes were held together, ended and accounted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tree: Option<TreeKept>,
    /// The most memory that the lap's processes were seen to hold together, in bytes: what they have in memory themselves
    /// and files that they map; files that are merely cached are apart.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tree_peak_bytes: Option<u64>,
    /// How that was found; unknown of laps that were recorded before it was noted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tree_peak_by: Option<TreeMemory>,
    /// How many cores were busy, in the mean.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cores_busy: Option<f64>,
    /// Use of the busiest core, in the mean, as a share.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub busiest_core: Option<f64>,
    /// Use of each core, in the mean, as a share to three places: by their numbers, from 0.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub core_use: Vec<f64>,
    /// Use of all cores together, in the mean, as a share of them, where no single one is known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub processor_use: Option<f64>,
    /// The share of the looks in which about one core was in use.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub one_core_busy: Option<f64>,
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
    pub clock_mhz: Option<QuantitySummary>,
    /// The hottest sensor at each moment, in °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub temperature_c: Option<QuantitySummary>,
    /// The fastest fan, in turns a minute.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fan_rpm: Option<QuantitySummary>,
    /// Power of what can be measured from inside, in watts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_w: Option<QuantitySummary>,
    /// Energy of what can be measured from inside, in joules.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub energy_j: Option<f64>,
    /// Charge of the battery, as a share.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub battery: Option<QuantitySummary>,
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
    pub graphics_use: Option<QuantitySummary>,
    /// Memory in use on graphics cards, in bytes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub graphics_memory_bytes: Option<QuantitySummary>,
    /// Clock of the fastest graphics card, in MHz.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub graphics_clock_mhz: Option<QuantitySummary>,
    /// How the processor's clock was governed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub governor: Option<String>,
    /// The machine's power profile.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_profile: Option<String>,
    /// Outside meters.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub meters: Vec<MeterSum>,
    /// Power and meters over the parts that count, where not all of the lap does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub counted: Option<Box<CountedPower>>,
}

impl Sampled {
    pub(super) fn is_nothing(&self) -> bool {
        *self == Self::default()
    }

    /// Returns the courses of clock and heat, where the clock fell while the temperature rose.
    ///
    /// A clock that falls by less than 5 % only breathes, and less than 3 °C is no cause.
    pub fn throttled(&self) -> Option<(QuantitySummary, QuantitySummary)> {
        const LEAST_FALL: f64 = 0.05;
        const LEAST_RISE_C: f64 = 3.0;
        let (clock, heat) = self.clock_mhz.zip(self.temperature_c)?;
        let fall = 1.0 - clock.last / clock.first;
        (fall > LEAST_FALL && heat.last - heat.first >= LEAST_RISE_C).then_some((clock, heat))
    }

    /// Returns what `traces` come to. What only words can say is left unknown.
    pub fn of(traces: &Traces) -> Self {
        use Quantity as Q;
        let course =
            |quantity, fold: fn(&[f64]) -> f64| QuantitySummary::of(&traces.across(quantity, fold));
        let busiest = traces.of(Q::CoreUse).filter_map(|core| mean_known(&core.values));
        let stalled = |quantity| traces.growth(quantity).map(|seconds| Nanos(whole(seconds * 1e9)));
        Self {
            samples: Some(u32::try_from(traces.at_ms.len()).unwrap_or(u32::MAX)),
            looked: None,
            tree: None,
            tree_peak_bytes: None,
            tree_peak_by: None,
            cores_busy: mean(&traces.across(Q::CoreUse, sum)),
            busiest_core: busiest.reduce(f64::max),
            core_use: each_core(traces),
            processor_use: mean(&traces.across(Q::ProcessorUse, most)),
            one_core_busy: share_at_one(&traces.across(Q::CoreUse, sum)),
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
            energy_j: energy(traces),
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
            counted: None,
        }
    }
}

/// Returns the mean use of each core, where they are numbered from 0 on.
fn each_core(traces: &Traces) -> Vec<f64> {
    let mut all: Vec<(usize, f64)> = Vec::new();
    for core in traces.of(Quantity::CoreUse) {
        let known = core.which.parse().ok().zip(mean_known(&core.values));
        let Some((number, share)) = known else { return Vec::new() };
        all.push((number, (share * 1e3).round() / 1e3));
    }
    all.sort_by_key(|(number, _)| *number);
    let in_order = all.iter().enumerate().all(|(place, (number, _))| place == *number);
    if in_order { all.into_iter().map(|(_, share)| share).collect() } else { Vec::new() }
}

/// Returns the share of looks in which about one core was in use.
fn share_at_one(cores: &[f64]) -> Option<f64> {
    // One core, with what the system does beside it; at the ends of a stretch a look sees part of it.
    const ABOUT_ONE: std::ops::RangeInclusive<f64> = 0.7..=1.5;
    let at_one = cores.iter().filter(|cores| ABOUT_ONE.contains(cores)).count();
    (!cores.is_empty()).then(|| at_one as f64 / cores.len() as f64)
}

/// Returns whether batteries hold more at the end than at the beginning: then their power is no consumption.
fn is_charging(traces: &Traces) -> bool {
    let grown = |quantity| traces.growth(quantity).is_some_and(|grown| grown > 0.0);
    let charge = QuantitySummary::of(&traces.across(Quantity::Charge, sum));
    grown(Quantity::BatteryEnergy) || charge.is_some_and(|charge| charge.last > charge.first)
}

/// Returns the energy of all whose power is known, in joules, from the first to the last sample; `None` where nothing
/// counts it: then power and the lap's time say it better.
///
/// ```text
/// E = Σ counted growth + Σ ∫ power dt      by trapezoids between samples, of what does not count
/// ```
fn energy(traces: &Traces) -> Option<f64> {
    let counted = |of: &&Trace| traces.of(Quantity::Energy).any(|energy| energy.which == of.which);
    let uncounted = traces.of(Quantity::Power).filter(|power| !counted(power));
    let over_time = uncounted.filter_map(|power| {
        let values: Vec<Option<f64>> = power.values.iter().collect();
        integral(&traces.at_ms, &values)
    });
    Some(traces.growth(Quantity::Energy)? + over_time.sum::<f64>())
}

/// Returns the integral of a power in watts over moments in ms, in joules, by trapezoids; stretches at whose ends it is
/// not known are left out.
fn integral(at_ms: &[u64], power: &[Option<f64>]) -> Option<f64> {
    let pairs = at_ms.windows(2).zip(power.windows(2));
    let parts = pairs.filter_map(|(at, power)| {
        let seconds = (at[1] - at[0]) as f64 / 1e3;
        Some((power[0]? + power[1]?) / 2.0 * seconds)
    });
    parts.reduce(|a, b| a + b)
}

/// Returns the energy taken from batteries, in joules: as they count it, or their power over the time; `None` while they
/// are charged.
pub fn battery_energy(traces: &Traces) -> Option<f64> {
    if let Some(grown) = traces.growth(Quantity::BatteryEnergy) {
        return Some(-grown).filter(|taken| *taken >= 0.0);
    }
    let powers = traces.across_moments(Quantity::BatteryPower, sum);
    integral(&traces.at_ms, &powers).filter(|_| !is_charging(traces))
}

fn meter(trace: &Trace) -> Option<MeterSum> {
    let known: Vec<f64> = trace.values.known().collect();
    let course = QuantitySummary::of(&known)?;
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

fn mean_known(values: &Samples) -> Option<f64> {
    mean(&values.known().collect::<Vec<f64>>())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn trace(quantity: Quantity, which: &str, values: &[f64]) -> Trace {
        let values = values.iter().map(|value| Some(*value)).collect();
        Trace { quantity, which: which.into(), unit: String::new(), values }
    }

    #[test]
    fn energy_is_of_everything_whose_power_is_known_and_charging_is_no_consumption() {
        let at_ms = vec![0, 1_000, 3_000];
        let channels = vec![
            trace(Quantity::Power, "package-0", &[0.0, 40.0, 40.0]),
            trace(Quantity::Energy, "package-0", &[0.0, 40.0, 120.0]),
            // A card that does not count: 100 W to 200 W over a second, then 200 W for two.
            trace(Quantity::Power, "card", &[100.0, 200.0, 200.0]),
        ];
        let found = Sampled::of(&Traces { at_ms: at_ms.clone(), channels });
        assert_eq!(found.energy_j, Some(120.0 + 150.0 + 400.0));
        let card = vec![trace(Quantity::Power, "card", &[100.0, 200.0, 200.0])];
        assert_eq!(Sampled::of(&Traces { at_ms: at_ms.clone(), channels: card }).energy_j, None);
        let battery = |charge: &[f64]| {
            let power = trace(Quantity::BatteryPower, "BAT0", &[20.0; 3]);
            let channels = vec![power, trace(Quantity::Charge, "BAT0", charge)];
            Sampled::of(&Traces { at_ms: at_ms.clone(), channels })
        };
        assert_eq!(battery(&[0.5, 0.5, 0.49]).battery_energy_j, Some(60.0));
        let charged = battery(&[0.5, 0.5, 0.51]);
        assert_eq!((charged.battery_energy_j, charged.power_w), (None, None));
    }
}
