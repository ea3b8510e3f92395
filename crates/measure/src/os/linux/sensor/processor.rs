//! Use and clock of each core: `/proc/stat`, and cpufreq in sysfs.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Numbers, Sensor, present};
use honest_lap_core::record::Quantity;

/// Processor time since boot, in the kernel's ticks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Ticks {
    /// Time worked.
    pub(crate) busy: u64,
    /// Time that a hypervisor gave to others.
    pub(crate) stolen: u64,
    /// All time.
    pub(crate) all: u64,
}

impl Ticks {
    /// Returns the share of time worked since `before`; `None` if no time has passed.
    pub(crate) fn use_since(self, before: Self) -> Option<f64> {
        let all = self.all.checked_sub(before.all).filter(|&all| all > 0)?;
        Some(self.busy.saturating_sub(before.busy) as f64 / all as f64)
    }

    /// Returns the share of time stolen since `before`.
    pub(crate) fn stolen_since(self, before: Self) -> Option<f64> {
        let all = self.all.checked_sub(before.all).filter(|&all| all > 0)?;
        Some(self.stolen.saturating_sub(before.stolen) as f64 / all as f64)
    }
}

/// Returns the ticks of `name` in `/proc/stat`: `cpu` is all cores together.
pub(crate) fn ticks(stat: &str, name: &str) -> Option<Ticks> {
    let line = stat.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(' '))?;
    read_ticks(line)
}

fn read_ticks(fields: &str) -> Option<Ticks> {
    // user nice system idle iowait irq softirq steal; guest time is inside user already.
    let mut ticks = [0u64; 8];
    let mut count = 0;
    for (slot, field) in ticks.iter_mut().zip(fields.split_ascii_whitespace()) {
        *slot = field.parse().ok()?;
        count += 1;
    }
    let busy = [0, 1, 2, 5, 6].iter().map(|&at| ticks[at]).sum();
    (count >= 4).then(|| Ticks { busy, stolen: ticks[7], all: ticks.iter().sum() })
}

/// Returns number and ticks of every core that works, from `/proc/stat`.
pub(crate) fn core_ticks(stat: &str) -> Vec<(u32, Ticks)> {
    stat.lines()
        .filter_map(|line| {
            let (number, fields) = line.strip_prefix("cpu")?.split_once(' ')?;
            Some((number.parse().ok()?, read_ticks(fields)?))
        })
        .collect()
}

struct Cores {
    stat: HeldFile,
    numbers: Vec<u32>,
    channels: Vec<Channel>,
    before: Vec<(u32, Ticks)>,
    clocks: Numbers,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let mut stat = machine.open("proc/stat")?;
    let numbers: Vec<u32> =
        core_ticks(stat.text()?).into_iter().map(|(number, _)| number).collect();
    let mut clocks = Numbers::new();
    for number in &numbers {
        let path = format!("sys/devices/system/cpu/cpu{number}/cpufreq/scaling_cur_freq");
        let channel = Channel::new(Quantity::CoreClock, number.to_string());
        clocks.add(machine, &path, channel, 1e-3); // kHz
    }
    let uses = numbers.iter().map(|number| Channel::new(Quantity::CoreUse, number.to_string()));
    let channels = uses.chain(clocks.channels.iter().cloned()).collect();
    present(Cores { stat, numbers, channels, before: Vec::new(), clocks })
}

impl Sensor for Cores {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn begin(&mut self) {
        self.before.clear();
    }

    fn read(&mut self, seconds: f64, out: &mut Vec<Option<f64>>) {
        let now = self.stat.text().map(core_ticks).unwrap_or_default();
        for number in &self.numbers {
            let of = |all: &[(u32, Ticks)]| {
                all.iter().find(|(n, _)| n == number).map(|(_, ticks)| *ticks)
            };
            let used = of(&now).zip(of(&self.before));
            out.push(used.and_then(|(now, before)| now.use_since(before)).map(|u| u.min(1.0)));
        }
        self.before = now;
        self.clocks.read(seconds, out);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_cores_as_proc_writes_them() {
        let stat = "cpu  10 1 5 100 7 2 3 9 0 0\ncpu0 4 0 2 50 3 1 1 4 0 0\ncpu12 6 1 3 50 4 1 2 5 0 0\nintr 1 2\n";
        assert_eq!(ticks(stat, "cpu"), Some(Ticks { busy: 21, stolen: 9, all: 137 }));
        let cores = core_ticks(stat);
        assert_eq!(cores.iter().map(|(n, _)| *n).collect::<Vec<_>>(), [0, 12]);
        assert_eq!(cores[0].1, Ticks { busy: 8, stolen: 4, all: 65 });
        assert!(core_ticks("cpux 1 2 3 4\ncpu1 a b c d\ncpu2 1").is_empty());
    }

    #[test]
    fn use_is_a_share_of_the_time_that_passed() {
        let at = |busy, all| Ticks { busy, stolen: 0, all };
        assert_eq!(at(30, 150).use_since(at(10, 100)), Some(0.4));
        assert_eq!(at(30, 150).use_since(at(30, 150)), None, "no time has passed");
        assert_eq!(at(0, 10).use_since(at(30, 150)), None, "counters that were set back");
    }
}
