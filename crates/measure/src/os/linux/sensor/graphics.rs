//! Graphics cards, as far as the kernel shows them: DRM in sysfs.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Numbers, Sensor, present};
use honest_lap_core::record::Quantity;

const DRM: &str = "sys/class/drm";

struct Cards {
    plain: Numbers,
    /// Lists of clocks in which a star marks the present one.
    lists: Vec<HeldFile>,
    channels: Vec<Channel>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut plain = Numbers::new();
    let (mut lists, mut of_lists) = (Vec::new(), Vec::new());
    let is_card = |name: &&String| {
        name.strip_prefix("card")
            .is_some_and(|n| !n.is_empty() && n.chars().all(|c| c.is_ascii_digit()))
    };
    for card in machine.names(DRM).iter().filter(is_card) {
        let folder = format!("{DRM}/{card}");
        let of = |quantity| Channel::new(quantity, card.clone());
        let device = |key: &str| format!("{folder}/device/{key}");
        plain.add(machine, &device("gpu_busy_percent"), of(Quantity::GraphicsUse), 0.01);
        plain.add(machine, &device("mem_info_vram_used"), of(Quantity::GraphicsMemory), 1.0);
        let clocks = ["gt_act_freq_mhz", "gt/gt0/rps_act_freq_mhz"];
        let has_clock = clocks.iter().any(|key| {
            plain.add(machine, &format!("{folder}/{key}"), of(Quantity::GraphicsClock), 1.0)
        });
        if let (false, Some(list)) = (has_clock, machine.open(&device("pp_dpm_sclk"))) {
            lists.push(list);
            of_lists.push(of(Quantity::GraphicsClock));
        }
    }
    let channels = plain.channels.iter().cloned().chain(of_lists).collect();
    present(Cards { plain, lists, channels })
}

impl Sensor for Cards {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>) {
        self.plain.read(seconds, out);
        for list in &mut self.lists {
            out.push(list.text().and_then(marked_mhz));
        }
    }
}

/// Returns the clock that a star marks: `1: 2100Mhz *`.
fn marked_mhz(list: &str) -> Option<f64> {
    let line = list.lines().find(|line| line.trim_end().ends_with('*'))?;
    let (_, clock) = line.split_once(':')?;
    let number = clock.trim_start();
    number[..number.find(|c: char| !c.is_ascii_digit())?].parse().ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_marked_clock_is_the_present_one() {
        assert_eq!(marked_mhz("0: 500Mhz\n1: 2100Mhz *\n2: 2500Mhz\n"), Some(2100.0));
        assert_eq!(marked_mhz("0: 500Mhz\n"), None);
        assert_eq!(marked_mhz("*"), None);
    }
}
