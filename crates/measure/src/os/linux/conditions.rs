//! What the machine is like around a lap: a look before, a look after, and the samples between.
//!
//! What cannot be read is unknown, never 0.

use super::clock::now;
use super::machine::Machine;
use super::sensor::{meminfo_bytes, on_mains, ticks};
use honest_lap_core::record::{Conditions, OwnWaits, Sampled, Traces, Usage};
use honest_lap_core::unit::{Nanos, Stamp};

/// A look at the machine.
pub(crate) struct Look {
    at: Stamp,
    busy: Option<Nanos>,
    memory_available: Option<u64>,
    swap_used: Option<u64>,
    load_1min: Option<f64>,
}

impl Look {
    pub(crate) fn take(machine: &Machine) -> Self {
        let memory = machine.read("proc/meminfo");
        let bytes = |name: &str| memory.as_deref().and_then(|text| meminfo_bytes(text, name));
        Self {
            at: now(),
            busy: machine.read("proc/stat").as_deref().and_then(busy_time),
            memory_available: bytes("MemAvailable"),
            swap_used: bytes("SwapTotal")
                .zip(bytes("SwapFree"))
                .map(|(all, free)| all - free.min(all)),
            load_1min: machine
                .read("proc/loadavg")
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
            other_programs: Vec::new(),
            modes: Vec::new(),
            own: OwnWaits::default(),
            sampled: Sampled { looked: after.at.since(self.at), ..Sampled::default() },
        }
    }
}

/// Returns what `traces` come to, with what only words can say of `machine`.
pub(crate) fn sampled(traces: &Traces, machine: &Machine) -> Sampled {
    Sampled {
        on_mains: on_mains(machine),
        governor: governor(machine),
        power_profile: power_profile(machine),
        brightness: brightness(machine),
        ..Sampled::of(traces)
    }
}

/// Returns how the processor's clock is governed.
pub(crate) fn governor(machine: &Machine) -> Option<String> {
    machine.read("sys/devices/system/cpu/cpu0/cpufreq/scaling_governor")
}

/// Returns the power profile that the machine's firmware follows.
pub(crate) fn power_profile(machine: &Machine) -> Option<String> {
    machine.read("sys/firmware/acpi/platform_profile")
}

/// Returns how bright the screen is, as a share of its most; the brightest where there are several.
fn brightness(machine: &Machine) -> Option<f64> {
    const SCREENS: &str = "sys/class/backlight";
    let share = |name: String| {
        let number = |key: &str| machine.number(&format!("{SCREENS}/{name}/{key}"));
        Some(number("brightness")? / number("max_brightness").filter(|most| *most > 0.0)?)
    };
    machine.names(SCREENS).into_iter().filter_map(share).reduce(f64::max)
}

/// Returns the processor time that all cores have worked since boot, from `/proc/stat`.
fn busy_time(stat: &str) -> Option<Nanos> {
    ticks(stat, "cpu").map(|ticks| Nanos(ticks.busy * tick().0))
}

/// Returns the step in which the kernel counts processor time here.
pub(super) fn tick() -> Nanos {
    Nanos(Nanos::PER_SECOND / rustix::param::clock_ticks_per_second())
}

/// Returns `span` to the nearest whole tick: the difference of two counts knows no better.
fn whole_ticks(span: Nanos) -> Nanos {
    Nanos((span.0 + tick().0 / 2) / tick().0 * tick().0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn processor_time_is_counted_in_ticks() {
        let per_tick = tick().0;
        // 10 + 1 + 5 + 2 + 3 ticks worked; 100 idle and 7 waiting did not.
        let busy = busy_time("cpu  10 1 5 100 7 2 3 9 0 0\ncpu0 1 1 1 1\n");
        assert_eq!(busy, Some(Nanos(21 * per_tick)));
        assert_eq!(busy_time("nonsense"), None);
    }

    #[test]
    fn what_others_used_never_goes_below_nothing() {
        let look = |busy| Look {
            at: Stamp(0),
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
