//! Batteries, and whether the machine runs on mains: power_supply in sysfs.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Numbers, Sensor, present};
use honest_lap_core::record::Quantity;

const SUPPLIES: &str = "sys/class/power_supply";

/// What tells how much flows through a battery, whichever way.
enum Flow {
    /// Its power, in µW.
    Power(HeldFile),
    /// Current and voltage, in µA and µV.
    Product(HeldFile, HeldFile),
}

struct Batteries {
    plain: Numbers,
    /// What flows out of each, and the file that says whether it is being charged.
    flows: Vec<(Flow, Option<HeldFile>)>,
    channels: Vec<Channel>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut plain = Numbers::new();
    let (mut flows, mut of_flows) = (Vec::new(), Vec::new());
    for name in batteries(machine) {
        let file = |key: &str| format!("{SUPPLIES}/{name}/{key}");
        let of = |quantity| Channel::new(quantity, name.clone());
        // A battery that counts its energy or its charge tells it finer than in whole per cent.
        let of_full = |kind: &str| {
            let full = machine.number(&file(&format!("{kind}_full"))).filter(|full| *full > 0.0);
            full.map(|full| (file(&format!("{kind}_now")), 1.0 / full))
        };
        let counted = of_full("energy").or_else(|| of_full("charge"));
        let finer = counted
            .is_some_and(|(path, scale)| plain.add(machine, &path, of(Quantity::Charge), scale));
        if !finer {
            plain.add(machine, &file("capacity"), of(Quantity::Charge), 0.01);
        }
        // In µWh there.
        plain.add(machine, &file("energy_now"), of(Quantity::BatteryEnergy), 3.6e-3);
        let number = |key: &str| machine.open(&file(key));
        let power = match (number("power_now"), number("current_now"), number("voltage_now")) {
            (Some(power), ..) => Flow::Power(power),
            (None, Some(current), Some(voltage)) => Flow::Product(current, voltage),
            _ => continue,
        };
        flows.push((power, number("status")));
        of_flows.push(of(Quantity::BatteryPower));
    }
    let channels = plain.channels.iter().cloned().chain(of_flows).collect();
    present(Batteries { plain, flows, channels })
}

fn batteries(machine: &Machine) -> Vec<String> {
    let mut names = machine.names(SUPPLIES);
    names.retain(|name| {
        let of = |key: &str| machine.read(&format!("{SUPPLIES}/{name}/{key}"));
        // A mouse has a battery too, and says that it powers a device only.
        of("type").as_deref() == Some("Battery") && of("scope").as_deref() != Some("Device")
    });
    names
}

impl Sensor for Batteries {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>) {
        self.plain.read(seconds, out);
        for (flow, status) in &mut self.flows {
            let watts = match flow {
                Flow::Power(power) => power.number().map(|uw| uw.abs() * 1e-6),
                Flow::Product(current, voltage) => {
                    let product = current.number().zip(voltage.number());
                    product.map(|(ua, uv)| (ua * uv * 1e-12).abs())
                }
            };
            // What flows into it, nothing takes out.
            let charging =
                |file: &mut HeldFile| file.text().is_some_and(|t| t.trim() == "Charging");
            out.push(watts.filter(|_| !status.as_mut().is_some_and(charging)));
        }
    }
}

/// Returns whether the machine runs on mains; `None` where it does not say.
pub fn on_mains(machine: &Machine) -> Option<bool> {
    let names = machine.names(SUPPLIES);
    let of = |name: &str, key: &str| machine.read(&format!("{SUPPLIES}/{name}/{key}"));
    let mains = names.iter().filter(|name| of(name, "type").as_deref() == Some("Mains"));
    let online: Vec<bool> =
        mains.filter_map(|name| of(name, "online")).map(|text| text == "1").collect();
    if !online.is_empty() {
        return Some(online.contains(&true));
    }
    let states: Vec<String> =
        batteries(machine).iter().filter_map(|name| of(name, "status")).collect();
    (!states.is_empty()).then(|| !states.iter().any(|state| state == "Discharging"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_flows_into_a_battery_is_not_taken_from_it() {
        let dir = tempfile::tempdir().unwrap();
        let file = |key: &str| dir.path().join(SUPPLIES).join("BAT0").join(key);
        std::fs::create_dir_all(file("x").parent().unwrap()).unwrap();
        let write = |key: &str, text: &str| std::fs::write(file(key), text).unwrap();
        write("type", "Battery\n");
        write("status", "Discharging\n");
        write("current_now", "-2000000\n");
        write("voltage_now", "11500000\n");
        let mut battery = open(&Machine::below(dir.path())).unwrap();
        let mut power = || {
            let mut out = Vec::new();
            battery.read(1.0, &mut out);
            *out.last().unwrap()
        };
        assert_eq!(power(), Some(23.0));
        write("status", "Charging\n");
        assert_eq!(power(), None);
    }
}
