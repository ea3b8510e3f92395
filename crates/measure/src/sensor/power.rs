//! Power and energy of what can be measured from inside: powercap's counters, hwmon's power.

use super::channel::{Channel, Sensor, present};
use crate::machine::{HeldFile, Machine};
use honest_lap_core::record::Quantity;

const POWERCAP: &str = "sys/class/powercap";
const HWMON: &str = "sys/class/hwmon";

/// A counter of energy that begins again at 0 when it is full.
struct Counter {
    file: HeldFile,
    range_uj: Option<f64>,
    before: Option<f64>,
    /// Joules since the lap began.
    total: f64,
}

struct Power {
    counters: Vec<Counter>,
    meters: Vec<HeldFile>,
    channels: Vec<Channel>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let (mut counters, mut meters) = (Vec::new(), Vec::new());
    let (mut of_counters, mut of_meters) = (Vec::new(), Vec::new());
    // Whole packages only, `name:0`: their parts, `name:0:1`, are inside them.
    for zone in machine.names(POWERCAP).iter().filter(|name| name.matches(':').count() == 1) {
        let Some(mut file) = machine.open(&format!("{POWERCAP}/{zone}/energy_uj")) else {
            continue;
        };
        if file.number().is_none() {
            continue;
        }
        let name = machine.read(&format!("{POWERCAP}/{zone}/name")).unwrap_or_else(|| zone.clone());
        let range_uj = machine.number(&format!("{POWERCAP}/{zone}/max_energy_range_uj"));
        counters.push(Counter { file, range_uj, before: None, total: 0.0 });
        of_counters.push(Channel::new(Quantity::Power, name.clone()));
        of_counters.push(Channel::new(Quantity::Energy, name));
    }
    for chip in machine.names(HWMON) {
        let name = machine.read(&format!("{HWMON}/{chip}/name")).unwrap_or_else(|| chip.clone());
        let average = format!("{HWMON}/{chip}/power1_average");
        let moment = format!("{HWMON}/{chip}/power1_input");
        if let Some(file) = machine.open(&average).or_else(|| machine.open(&moment)) {
            meters.push(file);
            of_meters.push(Channel::new(Quantity::Power, name));
        }
    }
    present(Power { counters, meters, channels: [of_counters, of_meters].concat() })
}

impl Sensor for Power {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn begin(&mut self) {
        for counter in &mut self.counters {
            (counter.before, counter.total) = (None, 0.0);
        }
    }

    fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>) {
        for counter in &mut self.counters {
            let now = counter.file.number();
            let used = now.zip(counter.before).and_then(|(now, before)| {
                grown(now, before, counter.range_uj).map(|microjoules| microjoules * 1e-6)
            });
            counter.before = now;
            counter.total += used.unwrap_or(0.0);
            out.push(used.filter(|_| seconds > 0.0).map(|joules| joules / seconds));
            out.push(now.map(|_| counter.total));
        }
        for file in &mut self.meters {
            out.push(file.number().map(|microwatts| microwatts * 1e-6));
        }
    }
}

/// Returns how far a counter has come, which may have begun again once.
fn grown(now: f64, before: f64, range: Option<f64>) -> Option<f64> {
    if now >= before { Some(now - before) } else { range.map(|range| range - before + now) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_full_counter_begins_again() {
        assert_eq!(grown(700.0, 500.0, Some(1000.0)), Some(200.0));
        assert_eq!(grown(100.0, 900.0, Some(1000.0)), Some(200.0));
        assert_eq!(grown(100.0, 900.0, None), None, "unknown, and not negative");
    }
}
