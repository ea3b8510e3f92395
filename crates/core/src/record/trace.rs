//! Samples as taken: channels over time, and what one comes to.

use crate::record::Samples;
use serde::{Deserialize, Serialize};

/// What a channel's values are of, with the unit that they are kept in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Quantity {
    /// Use of one core, as a share.
    CoreUse,
    /// Use of all cores together, as a share of them: what others' logs tell where they tell no single one.
    ProcessorUse,
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
            Self::ProcessorUse => ("processor use", ""),
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
    ///
    /// * Shape: `fold` is given the known values of one moment, at least one; the result has one for each moment.
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
    pub(super) fn across(&self, quantity: Quantity, fold: impl Fn(&[f64]) -> f64) -> Vec<f64> {
        self.across_moments(quantity, fold).into_iter().flatten().collect()
    }

    /// Returns the growth from the first to the last known value, summed over channels.
    pub(super) fn growth(&self, quantity: Quantity) -> Option<f64> {
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
pub struct QuantitySummary {
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

impl QuantitySummary {
    /// Returns the course of `values`, in order of time; `None` of none.
    ///
    /// * Shape: any number of values, one a look.
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
    pub course: QuantitySummary,
}

pub(super) fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}
