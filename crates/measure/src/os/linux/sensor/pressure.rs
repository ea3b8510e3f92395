//! Pressure stall information: how long anything waited for a processor, memory or a disk.

use super::super::machine::{HeldFile, Machine};
use super::super::stall::stalled;
use super::channel::{Channel, Sensor, present};
use honest_lap_core::record::Quantity;
use honest_lap_core::unit::Nanos;

struct Pressure {
    files: Vec<HeldFile>,
    channels: Vec<Channel>,
    first: Vec<Option<f64>>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let (mut files, mut channels) = (Vec::new(), Vec::new());
    for (name, quantity) in [
        ("cpu", Quantity::ProcessorStall),
        ("memory", Quantity::MemoryStall),
        ("io", Quantity::DiskStall),
    ] {
        if let Some(file) = machine.open(&format!("proc/pressure/{name}")) {
            files.push(file);
            channels.push(Channel::new(quantity, ""));
        }
    }
    let first = vec![None; files.len()];
    present(Pressure { files, channels, first })
}

impl Sensor for Pressure {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn begin(&mut self) {
        self.first.fill(None);
    }

    fn read(&mut self, _seconds: f64, out: &mut Vec<Option<f64>>) {
        for (file, first) in self.files.iter_mut().zip(&mut self.first) {
            let now = file.text().and_then(stalled).map(Nanos::seconds);
            *first = first.or(now);
            out.push(now.zip(*first).map(|(now, first)| now - first));
        }
    }
}
