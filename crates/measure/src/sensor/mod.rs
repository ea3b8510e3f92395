//! Sensors: what a machine can say of itself while a lap runs.
//!
//! A sensor that is absent has no channels; one that cannot be read for a moment gives `None`.
//! Neither is ever a 0. A new sensor is one file with an `open`, and one line in [`Sensors::open`].

mod battery;
mod graphics;
mod heat;
mod memory;
mod nvml;
mod power;
mod pressure;
mod processor;

use crate::machine::Machine;
use honest_lap_core::record::{Quantity, Samples, Trace};

pub use battery::on_mains;
pub(crate) use memory::meminfo_bytes;
pub(crate) use processor::ticks;

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

/// Every sensor that a machine has.
pub(crate) struct Sensors(Vec<Box<dyn Sensor>>);

impl Sensors {
    /// Returns the sensors of `machine`.
    pub(crate) fn open(machine: &Machine) -> Self {
        let found: [Option<Box<dyn Sensor>>; 8] = [
            processor::open(machine),
            memory::open(machine),
            pressure::open(machine),
            heat::open(machine),
            power::open(machine),
            battery::open(machine),
            graphics::open(machine),
            nvml::open(machine),
        ];
        Self(found.into_iter().flatten().collect())
    }

    pub(crate) fn channels(&self) -> impl Iterator<Item = &Channel> {
        self.0.iter().flat_map(|sensor| sensor.channels())
    }

    pub(crate) fn begin(&mut self) {
        self.0.iter_mut().for_each(|sensor| sensor.begin());
    }

    pub(crate) fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>) {
        self.0.iter_mut().for_each(|sensor| sensor.read(seconds, out));
    }
}

/// Returns the channels of `machine`: what they are of, and which.
pub fn sensor_names(machine: &Machine) -> Vec<(Quantity, String)> {
    let sensors = Sensors::open(machine);
    sensors.channels().map(|channel| (channel.quantity, channel.which.clone())).collect()
}

/// Returns `sensor` if it has any channel.
fn present(sensor: impl Sensor + 'static) -> Option<Box<dyn Sensor>> {
    if sensor.channels().is_empty() { None } else { Some(Box::new(sensor)) }
}

/// Files that hold one number each, with what turns it into the channel's unit.
struct Numbers {
    channels: Vec<Channel>,
    files: Vec<(crate::machine::HeldFile, f64)>,
}

impl Numbers {
    fn new() -> Self {
        Self { channels: Vec::new(), files: Vec::new() }
    }

    /// Adds the file at `path`, if it is there; its number times `scale` is the value.
    fn add(&mut self, machine: &Machine, path: &str, channel: Channel, scale: f64) -> bool {
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
