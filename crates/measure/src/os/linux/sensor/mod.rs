//! Sensors: what a machine can say of itself while a lap runs.
//!
//! A sensor that is absent has no channels; one that cannot be read for a moment gives `None`.
//! Neither is ever a 0. A new sensor is one file with an `open`, and one line in [`Sensors::open`].

mod battery;
mod channel;
mod graphics;
mod heat;
mod memory;
mod nvml;
mod power;
mod pressure;
mod processor;

use super::machine::Machine;
use honest_lap_core::record::Quantity;

pub use battery::on_mains;
pub(crate) use channel::{Channel, Sensor};
pub(crate) use memory::meminfo_bytes;
pub(crate) use processor::ticks;

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
