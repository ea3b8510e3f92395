//! Temperatures and fans: hwmon, or thermal zones where there is none.

use super::super::machine::Machine;
use super::channel::{Channel, Numbers, Sensor, present};
use honest_lap_core::record::Quantity;

const HWMON: &str = "sys/class/hwmon";
const ZONES: &str = "sys/class/thermal";
/// Sysfs gives thousandths of a degree.
const MILLI: f64 = 1e-3;

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut numbers = Numbers::new();
    for chip in machine.names(HWMON) {
        let folder = format!("{HWMON}/{chip}");
        let name = machine.read(&format!("{folder}/name")).unwrap_or_else(|| chip.clone());
        for file in machine.names(&folder) {
            let Some(base) = file.strip_suffix("_input") else { continue };
            let label = machine.read(&format!("{folder}/{base}_label"));
            let which = label.map_or_else(|| format!("{name} {base}"), |l| format!("{name} {l}"));
            let path = format!("{folder}/{file}");
            if base.starts_with("temp") {
                numbers.add(machine, &path, Channel::new(Quantity::Temperature, which), MILLI);
            } else if base.starts_with("fan") {
                numbers.add(machine, &path, Channel::new(Quantity::Fan, which), 1.0);
            }
        }
    }
    if !numbers.channels.iter().any(|channel| channel.quantity == Quantity::Temperature) {
        for zone in machine.names(ZONES).iter().filter(|name| name.starts_with("thermal_zone")) {
            let kind = machine.read(&format!("{ZONES}/{zone}/type"));
            let channel = Channel::new(Quantity::Temperature, kind.unwrap_or_else(|| zone.clone()));
            numbers.add(machine, &format!("{ZONES}/{zone}/temp"), channel, MILLI);
        }
    }
    present(numbers)
}
