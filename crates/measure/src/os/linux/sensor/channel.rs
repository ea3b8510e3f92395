//! A sensor: its channels, and how they are read.

use super::super::machine::Machine;
use honest_lap_core::record::{Quantity, Samples, Trace};

/// A channel of samples.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Channel {
    pub(crate) quantity: Quantity,
    pub(crate) which: String,
}

impl Channel {
    pub(crate) fn new(quantity: Quantity, which: impl Into<String>) -> Self {
        Self { quantity, which: which.into() }
    }

    /// Returns it with no samples yet.
    pub(crate) fn trace(&self) -> Trace {
        let which = self.which.clone();
        Trace { quantity: self.quantity, which, unit: String::new(), values: Samples::default() }
    }
}

/// Something of the machine that can be read again and again.
pub(crate) trait Sensor: Send {
    /// Returns its channels, always the same.
    fn channels(&self) -> &[Channel];

    /// Forgets what it read before: a lap begins.
    fn begin(&mut self) {}

    /// Puts one value for every channel into `out`, `seconds` after the sample before.
    fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>);
}

/// Returns `sensor` if it has any channel.
pub(super) fn present(sensor: impl Sensor + 'static) -> Option<Box<dyn Sensor>> {
    if sensor.channels().is_empty() { None } else { Some(Box::new(sensor)) }
}

/// Files that hold one number each, with what turns it into the channel's unit.
pub(super) struct Numbers {
    pub(super) channels: Vec<Channel>,
    pub(super) files: Vec<(super::super::machine::HeldFile, f64)>,
}

impl Numbers {
    pub(super) fn new() -> Self {
        Self { channels: Vec::new(), files: Vec::new() }
    }

    /// Adds the file at `path`, if it is there; its number times `scale` is the value.
    pub(super) fn add(
        &mut self,
        machine: &Machine,
        path: &str,
        channel: Channel,
        scale: f64,
    ) -> bool {
        let Some(mut file) = machine.open(path) else { return false };
        if file.number().is_none() {
            return false;
        }
        self.files.push((file, scale));
        self.channels.push(channel);
        true
    }
}

impl Sensor for Numbers {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn read(&mut self, _seconds: f64, out: &mut Vec<Option<f64>>) {
        for (file, scale) in &mut self.files {
            out.push(file.number().map(|number| number * *scale));
        }
    }
}
