//! Memory and swap: `/proc/meminfo` and `/proc/vmstat`.

use super::super::machine::{HeldFile, Machine};
use super::channel::{Channel, Sensor, present};
use honest_lap_core::record::Quantity;

struct Memory {
    meminfo: HeldFile,
    vmstat: Option<HeldFile>,
    channels: Vec<Channel>,
    /// What had been swapped when the lap began, in pages.
    first: Option<u64>,
}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    let quantities = [Quantity::MemoryAvailable, Quantity::SwapUsed, Quantity::Swapped];
    let channels = quantities.map(|quantity| Channel::new(quantity, "")).to_vec();
    let vmstat = machine.open("proc/vmstat");
    present(Memory { meminfo: machine.open("proc/meminfo")?, vmstat, channels, first: None })
}

impl Sensor for Memory {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    fn begin(&mut self) {
        self.first = None;
    }

    fn read(&mut self, _seconds: f64, out: &mut Vec<Option<f64>>) {
        let text = self.meminfo.text().unwrap_or_default();
        let bytes = |name| meminfo_bytes(text, name);
        out.push(bytes("MemAvailable").map(|bytes| bytes as f64));
        let used = bytes("SwapTotal").zip(bytes("SwapFree")).map(|(all, free)| all - free.min(all));
        out.push(used.map(|bytes| bytes as f64));
        let pages = self.vmstat.as_mut().and_then(|file| swapped_pages(file.text()?));
        self.first = self.first.or(pages);
        let since = pages.zip(self.first).map(|(now, first)| now.saturating_sub(first));
        out.push(since.map(|pages| pages as f64 * rustix::param::page_size() as f64));
    }
}

/// Returns the bytes that line `name` of `/proc/meminfo` states in kB, which are 1,024 bytes there.
pub(crate) fn meminfo_bytes(text: &str, name: &str) -> Option<u64> {
    let line = text.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(':'))?;
    line.split_ascii_whitespace().next()?.parse::<u64>().ok().map(|kib| kib * 1024)
}

/// Returns how many pages were swapped in and out since boot, from `/proc/vmstat`.
fn swapped_pages(text: &str) -> Option<u64> {
    let field = |name: &str| {
        text.lines()
            .find_map(|line| line.strip_prefix(name)?.strip_prefix(' ')?.parse::<u64>().ok())
    };
    Some(field("pswpin")?.saturating_add(field("pswpout")?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_proc_as_it_is_written() {
        let memory = "MemTotal:       24566112 kB\nMemAvailable:    1024 kB\n";
        assert_eq!(meminfo_bytes(memory, "MemAvailable"), Some(1_048_576));
        assert_eq!(meminfo_bytes(memory, "SwapTotal"), None);
        assert_eq!(swapped_pages("nr_free 7\npswpin 5\npswpout 6\n"), Some(11));
        assert_eq!(swapped_pages("pswpin 5\n"), None);
    }
}
