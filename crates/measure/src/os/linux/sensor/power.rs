//! Power and energy of what can be measured from inside: powercap's counters, hwmon's power; each part of the machine once.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Sensor, present};
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

/// What a source of power is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Part {
    /// A package of processors, by what it is called.
    Package,
    /// A card of its own.
    Card,
    /// The whole machine.
    Platform,
    /// A battery, which is read as such.
    Battery,
}

/// Returns what a zone of powercap is of; `None` of a part of another zone, `name:0:1`.
fn part_of_zone(zone: &str, name: &str) -> Option<Part> {
    let whole = zone.matches(':').count() == 1;
    whole.then_some(if name == "psys" { Part::Platform } else { Part::Package })
}

/// Returns what a chip of hwmon is of; `capped` says whether its power can be capped, as a card's can and that of a
/// package with graphics in it cannot.
fn part_of_chip(name: &str, capped: bool) -> Part {
    match name {
        "power_meter" | "ibmpowernv" => Part::Platform,
        "zenpower" | "fam15h_power" | "amd_energy" | "coretemp" | "k10temp" => Part::Package,
        "amdgpu" if !capped => Part::Package,
        _ if name.starts_with("BAT") => Part::Battery,
        _ => Part::Card,
    }
}

/// A source: what it is of and called, and whether it counts energy.
struct Source {
    part: Part,
    name: String,
    counts: bool,
}

/// Returns the places of those of `sources` that together count everything once: each package by one of its counters,
/// cards, and the whole machine only where nothing of it is known.
///
/// A package may be told twice by the same name, by another way to the same counter; what shows a package's power
/// without counting its energy shows one that a counter has already.
fn counted_once(sources: &[Source]) -> Vec<usize> {
    let has = |part, counts: bool| sources.iter().any(|s| s.part == part && (s.counts || !counts));
    let (counted, parts) =
        (has(Part::Package, true), has(Part::Package, false) || has(Part::Card, false));
    let mut chosen: Vec<usize> = Vec::new();
    for (place, source) in sources.iter().enumerate() {
        let same = |other: &&usize| sources[**other].name == source.name;
        let wanted = match source.part {
            Part::Package if counted => source.counts && chosen.iter().find(same).is_none(),
            // Shown in several ways and counted in none: one of them.
            Part::Package => !chosen.iter().any(|&other| sources[other].part == Part::Package),
            Part::Card => true,
            Part::Platform => !parts,
            Part::Battery => false,
        };
        if wanted {
            chosen.push(place);
        }
    }
    chosen
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut sources = Vec::new();
    let mut files = Vec::new();
    for zone in machine.names(POWERCAP) {
        let name = machine.read(&format!("{POWERCAP}/{zone}/name")).unwrap_or_else(|| zone.clone());
        let Some(part) = part_of_zone(&zone, &name) else { continue };
        let Some(mut file) = machine.open(&format!("{POWERCAP}/{zone}/energy_uj")) else {
            continue;
        };
        if file.number().is_none() {
            continue;
        }
        let range_uj = machine.number(&format!("{POWERCAP}/{zone}/max_energy_range_uj"));
        sources.push(Source { part, name, counts: true });
        files.push((file, range_uj));
    }
    for chip in machine.names(HWMON) {
        let name = machine.read(&format!("{HWMON}/{chip}/name")).unwrap_or_else(|| chip.clone());
        let average = format!("{HWMON}/{chip}/power1_average");
        let moment = format!("{HWMON}/{chip}/power1_input");
        let capped = machine.open(&format!("{HWMON}/{chip}/power1_cap")).is_some();
        if let Some(file) = machine.open(&average).or_else(|| machine.open(&moment)) {
            sources.push(Source { part: part_of_chip(&name, capped), name, counts: false });
            files.push((file, None));
        }
    }
    let chosen = counted_once(&sources);
    let (mut counters, mut meters) = (Vec::new(), Vec::new());
    let (mut of_counters, mut of_meters) = (Vec::new(), Vec::new());
    let all = sources.into_iter().zip(files).enumerate();
    for (_, (source, (file, range_uj))) in all.filter(|(place, _)| chosen.contains(place)) {
        if source.counts {
            counters.push(Counter { file, range_uj, before: None, total: 0.0 });
            of_counters.push(Channel::new(Quantity::Power, source.name.clone()));
            of_counters.push(Channel::new(Quantity::Energy, source.name));
        } else {
            meters.push(file);
            of_meters.push(Channel::new(Quantity::Power, source.name));
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
    fn every_part_is_counted_once() {
        let zone = |zone: &str, name: &str| {
            let part = part_of_zone(zone, name)?;
            Some(Source { part, name: name.into(), counts: true })
        };
        let chip = |name: &str, capped| {
            let part = part_of_chip(name, capped);
            Some(Source { part, name: name.into(), counts: false })
        };
        let counted = |all: Vec<Option<Source>>| -> Vec<String> {
            let sources: Vec<Source> = all.into_iter().flatten().collect();
            counted_once(&sources).into_iter().map(|at| sources[at].name.clone()).collect()
        };
        let laptop = vec![
            zone("rapl:0", "package-0"),
            zone("rapl:0:0", "core"),
            zone("rapl:1", "psys"),
            zone("rapl-mmio:0", "package-0"),
            chip("BAT0", false),
            chip("amdgpu", false),
        ];
        assert_eq!(counted(laptop), ["package-0"]);
        let two = vec![
            zone("rapl:0", "package-0"),
            zone("rapl:1", "package-1"),
            chip("zenpower", false),
            chip("amdgpu", true),
            chip("power_meter", false),
        ];
        assert_eq!(counted(two), ["package-0", "package-1", "amdgpu"]);
        assert_eq!(counted(vec![chip("zenpower", false), chip("amdgpu", false)]), ["zenpower"]);
        assert_eq!(counted(vec![zone("rapl:1", "psys"), chip("BAT0", false)]), ["psys"]);
        assert_eq!(counted(vec![chip("BAT0", false)]), Vec::<String>::new());
    }

    #[test]
    fn a_full_counter_begins_again() {
        assert_eq!(grown(700.0, 500.0, Some(1000.0)), Some(200.0));
        assert_eq!(grown(100.0, 900.0, Some(1000.0)), Some(200.0));
        assert_eq!(grown(100.0, 900.0, None), None, "unknown, and not negative");
    }
}
