//! Pressure stall information: how long anything waited for a processor, memory or a disk.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Sensor, present};
use honest_lap_core::record::Quantity;

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
            let now = file.text().and_then(stalled_seconds);
            *first = first.or(now);
            out.push(now.zip(*first).map(|(now, first)| now - first));
        }
    }
}

/// Returns how long something has waited since boot, in seconds, from a file of `/proc/pressure`.
fn stalled_seconds(text: &str) -> Option<f64> {
    let line = text.lines().find(|line| line.starts_with("some "))?;
    let micros = line.split_ascii_whitespace().find_map(|field| field.strip_prefix("total="))?;
    micros.parse::<u64>().ok().map(|micros| micros as f64 * 1e-6)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_pressure_as_the_kernel_writes_it() {
        let text = "some avg10=0.10 avg60=0.05 avg300=0.01 total=1500000\n\
                    full avg10=0.00 avg60=0.00 avg300=0.00 total=7\n";
        assert_eq!(stalled_seconds(text), Some(1.5));
        assert_eq!(stalled_seconds("full total=7"), None);
    }
}
