//! Batteries, and whether the machine runs on mains: power_supply in sysfs.

use super::channel::{Channel, Numbers, Sensor, present};
use crate::machine::{HeldFile, Machine};
use honest_lap_core::record::Quantity;

const SUPPLIES: &str = "sys/class/power_supply";

struct Batteries {
    plain: Numbers,
    /// Batteries that give current and voltage, in µA and µV, and no power.
    products: Vec<(HeldFile, HeldFile)>,
    channels: Vec<Channel>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut plain = Numbers::new();
    let (mut products, mut of_products) = (Vec::new(), Vec::new());
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
        let has_power = plain.add(machine, &file("power_now"), of(Quantity::BatteryPower), 1e-6);
        let pair = (machine.open(&file("current_now")), machine.open(&file("voltage_now")));
        if let (false, (Some(current), Some(voltage))) = (has_power, pair) {
            products.push((current, voltage));
            of_products.push(of(Quantity::BatteryPower));
        }
    }
    let channels = plain.channels.iter().cloned().chain(of_products).collect();
    present(Batteries { plain, products, channels })
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
        for (current, voltage) in &mut self.products {
            let product = current.number().zip(voltage.number());
            out.push(product.map(|(ua, uv)| (ua * uv * 1e-12).abs()));
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
