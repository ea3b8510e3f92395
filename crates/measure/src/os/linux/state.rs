//! The state of a machine right now, watched for a moment.

use super::conditions::{governor, power_profile};
use super::machine::Machine;
use super::sensor::{Sensors, meminfo_bytes, on_mains, ticks};
use honest_lap_core::plan::MachineState;
use honest_lap_core::record::Quantity;
use honest_lap_core::unit::Nanos;
use rustix::time::{ClockId, clock_gettime};
use std::collections::HashMap;
use std::path::Path;

/// A program below this share of one hardware thread is not named.
const NAMED_SHARE: f64 = 0.05;
/// How many busy programs are named.
const MOST_NAMES: usize = 3;

/// Watches `machine` for `span` and returns its state; `folder` is where the study is.
pub fn read_state(machine: &Machine, folder: &Path, span: Nanos) -> MachineState {
    let ticks_now = || machine.read("proc/stat").as_deref().and_then(|stat| ticks(stat, "cpu"));
    let (ticks_before, clocks_before) = (ticks_now(), clocks());
    let programs_before = if machine.is_here() { programs() } else { HashMap::new() };
    std::thread::sleep(span.into());
    let (ticks_after, clocks_after) = (ticks_now(), clocks());
    let used = ticks_before.zip(ticks_after);
    let cpus = machine.read("proc/cpuinfo");
    let threads = cpus.as_ref().map(|text| text.matches("\nprocessor").count() + 1);
    let threads = threads.and_then(|count| u32::try_from(count).ok());
    let busy = used.and_then(|(before, after)| after.use_since(before));
    let memory = machine.read("proc/meminfo");
    let bytes = |name: &str| memory.as_deref().and_then(|text| meminfo_bytes(text, name));
    let swap = bytes("SwapTotal").zip(bytes("SwapFree"));
    let (hottest_c, charge) = heat_and_charge(machine);
    MachineState {
        on_mains: on_mains(machine),
        charge,
        governor: governor(machine),
        power_profile: power_profile(machine),
        threads,
        busy: busy.zip(threads).map(|(share, threads)| share * f64::from(threads)),
        busy_with: busiest(&programs_before, span),
        stolen: used.and_then(|(before, after)| after.stolen_since(before)),
        is_virtual: cpus.map(|text| {
            let mut flags = text.lines().filter(|line| line.starts_with("flags"));
            flags.any(|line| line.split_ascii_whitespace().any(|flag| flag == "hypervisor"))
        }),
        hottest_c,
        memory_bytes: bytes("MemTotal"),
        memory_available_bytes: bytes("MemAvailable"),
        swap_used_bytes: swap.map(|(all, free)| all.saturating_sub(free)),
        disk_free_bytes: rustix::fs::statvfs(folder).ok().map(|fs| fs.f_bavail * fs.f_frsize),
        clock_source: machine
            .read("sys/devices/system/clocksource/clocksource0/current_clocksource"),
        clock_off_ppm: machine.is_here().then(|| off_ppm(clocks_before, clocks_after)).flatten(),
        watched: span,
    }
}

/// Returns the steered and the raw monotonic clock, in nanoseconds.
fn clocks() -> (f64, f64) {
    let ns = |clock| {
        let time = clock_gettime(clock);
        time.tv_sec as f64 * 1e9 + time.tv_nsec as f64
    };
    (ns(ClockId::Monotonic), ns(ClockId::MonotonicRaw))
}

fn off_ppm(before: (f64, f64), after: (f64, f64)) -> Option<f64> {
    let (steered, raw) = (after.0 - before.0, after.1 - before.1);
    // Below a tenth of a second the two readings' own distance would be taken for steering.
    (raw > 1e8).then(|| (steered / raw - 1.0) * 1e6)
}

fn heat_and_charge(machine: &Machine) -> (Option<f64>, Option<f64>) {
    let mut sensors = Sensors::open(machine);
    let quantities: Vec<Quantity> = sensors.channels().map(|channel| channel.quantity).collect();
    let mut row = Vec::new();
    sensors.read(0.0, &mut row);
    let of = |wanted: Quantity| {
        let of_kind = quantities.iter().zip(&row).filter(move |(q, _)| **q == wanted);
        of_kind.filter_map(|(_, value)| *value).reduce(f64::max)
    };
    (of(Quantity::Temperature), of(Quantity::Charge))
}

/// Returns name and processor time of every program, in ticks, by process.
fn programs() -> HashMap<i32, (String, u64)> {
    let Ok(entries) = std::fs::read_dir("/proc") else { return HashMap::new() };
    let pids = entries.filter_map(|entry| entry.ok()?.file_name().to_str()?.parse::<i32>().ok());
    pids.filter_map(|pid| {
        let stat = std::fs::read(format!("/proc/{pid}/stat")).ok()?;
        Some((pid, name_and_ticks(&String::from_utf8_lossy(&stat))?))
    })
    .collect()
}

fn name_and_ticks(stat: &str) -> Option<(String, u64)> {
    let (open, close) = (stat.find('(')?, stat.rfind(')')?);
    let fields: Vec<&str> = stat.get(close + 1..)?.split_ascii_whitespace().collect();
    // Behind the name: state is field 3 of proc(5), user time 14, system time 15.
    let (user, system): (u64, u64) = (fields.get(11)?.parse().ok()?, fields.get(12)?.parse().ok()?);
    Some((stat[open + 1..close].to_owned(), user + system))
}

/// Returns the programs that worked most since `before`, ourselves left out.
fn busiest(before: &HashMap<i32, (String, u64)>, span: Nanos) -> Vec<String> {
    if before.is_empty() {
        return Vec::new();
    }
    let own = rustix::process::getpid().as_raw_nonzero().get();
    let per_second = rustix::param::clock_ticks_per_second() as f64;
    let mut worked: Vec<(u64, String)> = programs()
        .into_iter()
        .filter(|(pid, _)| *pid != own)
        .filter_map(|(pid, (name, ticks))| {
            let since = before.get(&pid).map_or(ticks, |(_, then)| ticks.saturating_sub(*then));
            (since as f64 / per_second > NAMED_SHARE * span.seconds()).then_some((since, name))
        })
        .collect();
    worked.sort_by(|a, b| b.cmp(a));
    worked.into_iter().take(MOST_NAMES).map(|(_, name)| name).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_what_a_program_used() {
        let stat = "7 (a (b)) S 1 7 7 0 -1 4194304 100 0 0 0 25 17 0 0 20 0 1 0 5 0";
        assert_eq!(name_and_ticks(stat), Some(("a (b)".to_owned(), 42)));
        assert_eq!(name_and_ticks("7 (a) S 1"), None);
    }

    #[test]
    fn a_simulated_machine_says_what_its_files_say_and_no_more() {
        let root = tempfile::tempdir().unwrap();
        let write = |path: &str, text: &str| {
            let path = root.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        let machine = Machine::below(root.path());
        let empty = read_state(&machine, root.path(), Nanos(0));
        assert_eq!((empty.on_mains, empty.busy, empty.is_virtual), (None, None, None));
        write("sys/class/power_supply/AC/type", "Mains\n");
        write("sys/class/power_supply/AC/online", "0\n");
        write("sys/class/power_supply/BAT0/type", "Battery\n");
        write("sys/class/power_supply/BAT0/capacity", "41\n");
        write("sys/class/hwmon/hwmon0/name", "package\n");
        write("sys/class/hwmon/hwmon0/temp1_input", "91000\n");
        write("proc/cpuinfo", "processor\t: 0\nflags\t: fpu hypervisor\n\nprocessor\t: 1\n");
        let state = read_state(&machine, root.path(), Nanos(0));
        assert_eq!(state.on_mains, Some(false));
        assert!((state.charge.unwrap() - 0.41).abs() < 1e-12);
        assert_eq!((state.hottest_c, state.threads), (Some(91.0), Some(2)));
        assert_eq!(state.is_virtual, Some(true));
    }

    #[test]
    fn steering_is_told_from_reading_the_clocks_one_after_the_other() {
        assert_eq!(off_ppm((0.0, 0.0), (1e9 + 300_000.0, 1e9)).map(f64::round), Some(300.0));
        assert_eq!(off_ppm((0.0, 0.0), (1e6 + 500.0, 1e6)), None);
    }
}
