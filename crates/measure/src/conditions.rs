//! What the machine is like around a lap: two looks at `/proc`, one before and one after.
//!
//! What cannot be read is unknown, never 0.

use honest_lap_core::lap::{Conditions, Usage};
use honest_lap_core::time::Nanos;
use std::fs;

/// A look at the machine.
pub(crate) struct Look {
    busy: Option<Nanos>,
    memory_available: Option<u64>,
    swap_used: Option<u64>,
    load_1min: Option<f64>,
}

impl Look {
    pub(crate) fn take() -> Self {
        let read = |path| fs::read_to_string(path).ok();
        let memory = read("/proc/meminfo");
        let kib = |name: &str| memory.as_deref().and_then(|text| meminfo_bytes(text, name));
        Self {
            busy: read("/proc/stat").as_deref().and_then(busy_time),
            memory_available: kib("MemAvailable"),
            swap_used: kib("SwapTotal").zip(kib("SwapFree")).map(|(all, free)| all - free.min(all)),
            load_1min: read("/proc/loadavg")
                .and_then(|text| text.split_ascii_whitespace().next()?.parse().ok()),
        }
    }

    /// Returns the conditions between this look and `after`, where the lap itself used `lap`.
    pub(crate) fn until(&self, after: &Self, lap: Option<&Usage>, slept: Nanos) -> Conditions {
        let busy = self.busy.zip(after.busy).map(|(from, to)| to.minus(from));
        let own = lap.map(|usage| usage.user.plus(usage.system));
        Conditions {
            others_cpu: busy.zip(own).map(|(busy, own)| whole_ticks(busy.minus(own))),
            memory_available_bytes: self.memory_available,
            swap_used_bytes: self.swap_used,
            load_1min: self.load_1min,
            slept: Some(slept),
        }
    }
}

/// Returns the processor time that all cores have worked since boot, from `/proc/stat`.
fn busy_time(stat: &str) -> Option<Nanos> {
    let line = stat.lines().find(|line| line.starts_with("cpu "))?;
    let ticks: Vec<u64> =
        line.split_ascii_whitespace().skip(1).map(str::parse).collect::<Result<_, _>>().ok()?;
    // user nice system idle iowait irq softirq steal; guest time is inside user already.
    let worked: u64 = [0, 1, 2, 5, 6].iter().filter_map(|&at| ticks.get(at)).sum();
    Some(Nanos(worked * tick().0))
}

/// Returns the step in which the kernel counts processor time here.
fn tick() -> Nanos {
    Nanos(Nanos::PER_SECOND / rustix::param::clock_ticks_per_second())
}

/// Returns `span` to the nearest whole tick: the difference of two counts knows no better.
fn whole_ticks(span: Nanos) -> Nanos {
    Nanos((span.0 + tick().0 / 2) / tick().0 * tick().0)
}

/// Returns the bytes that line `name` of `/proc/meminfo` states in kB, which are 1,024 bytes there.
pub(crate) fn meminfo_bytes(text: &str, name: &str) -> Option<u64> {
    let line = text.lines().find_map(|line| line.strip_prefix(name)?.strip_prefix(':'))?;
    line.split_ascii_whitespace().next()?.parse::<u64>().ok().map(|kib| kib * 1024)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_proc_as_it_is_written() {
        let memory = "MemTotal:       24566112 kB\nMemAvailable:    1024 kB\n";
        assert_eq!(meminfo_bytes(memory, "MemAvailable"), Some(1_048_576));
        assert_eq!(meminfo_bytes(memory, "SwapTotal"), None);
        let per_tick = tick().0;
        // 10 + 1 + 5 + 2 + 3 ticks worked; 100 idle and 7 waiting did not.
        let busy = busy_time("cpu  10 1 5 100 7 2 3 9 0 0\ncpu0 1 1 1 1\n");
        assert_eq!(busy, Some(Nanos(21 * per_tick)));
        assert_eq!(busy_time("nonsense"), None);
    }

    #[test]
    fn what_others_used_never_goes_below_nothing() {
        let look = |busy| Look {
            busy: Some(Nanos(busy)),
            memory_available: None,
            swap_used: None,
            load_1min: None,
        };
        let tick = tick().0;
        let used = Usage { user: Nanos(3 * tick + tick / 3), ..Usage::default() };
        let others = |to, used| look(10 * tick).until(&look(to * tick), used, Nanos(0)).others_cpu;
        assert_eq!(others(15, Some(&used)), Some(Nanos(2 * tick)), "5 − 3⅓, to a whole tick");
        assert_eq!(others(11, Some(&used)), Some(Nanos(0)));
        assert_eq!(others(11, None), None);
    }
}
