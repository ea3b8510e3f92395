//! A simulated machine: the files in which a machine describes itself, in trouble on request.
//!
//! The tree looks as the kernel writes it, below any folder. Files are rewritten in place, so that
//! whoever holds one open reads what it says now.

use clap::ValueEnum;
use std::fs;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::JoinHandle;
use std::time::{Duration, Instant};

/// Settings of the simulated machine.
#[derive(clap::Args, Debug)]
pub struct MachineArgs {
    /// The folder for its files
    #[arg(long)]
    out: PathBuf,
    /// How long it lives
    #[arg(long, default_value_t = 0.0)]
    seconds: f64,
    /// Its trouble
    #[arg(long, value_enum, default_value_t = Trouble::None)]
    trouble: Trouble,
}

/// What goes wrong with a machine as time goes by.
#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub enum Trouble {
    /// Nothing
    None,
    /// It gets hot, and its clock falls
    Throttle,
    /// It runs on a battery that drains
    Battery,
    /// Something else keeps its graphics card busy
    BusyCard,
    /// A night of two hours in eight seconds: hot after a quarter of it, and slower from then on
    Night,
}

/// What the machine shows at one moment.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct State {
    /// Clock of its cores, in MHz.
    pub clock_mhz: f64,
    /// Temperature of its package, in °C.
    pub temperature_c: f64,
    /// Its fan, in turns a minute.
    pub fan_rpm: f64,
    /// Power of its package, in watts.
    pub power_w: f64,
    /// Charge of its battery, as a share.
    pub charge: f64,
    /// Use of its graphics card, as a share.
    pub graphics_use: f64,
}

/// How often the tree is brought up to date.
const TICK: Duration = Duration::from_millis(50);
/// Degrees a throttling machine gains, and the seconds in which it gains most of them.
const HEAT: (f64, f64) = (44.0, 1.2);

/// Returns what a machine in `trouble` shows `seconds` after it began to work.
pub fn state_at(trouble: Trouble, seconds: f64) -> State {
    let warming = 1.0 - (-seconds / HEAT.1).exp();
    let calm = State {
        clock_mhz: 4_200.0,
        temperature_c: 48.0 + 6.0 * warming,
        fan_rpm: 900.0 + 200.0 * warming,
        power_w: 38.0,
        charge: 1.0,
        graphics_use: 0.03,
    };
    match trouble {
        Trouble::None => calm,
        Trouble::Throttle => State {
            clock_mhz: 4_200.0 - 1_500.0 * warming,
            temperature_c: 52.0 + HEAT.0 * warming,
            fan_rpm: 1_800.0 + 3_000.0 * warming,
            power_w: 45.0 - 20.0 * warming,
            ..calm
        },
        Trouble::Battery => State {
            clock_mhz: 2_800.0,
            power_w: 19.0,
            // A made-up, quick battery: it is to be seen draining within a lap.
            charge: (0.62 - 0.01 * seconds).max(0.05),
            ..calm
        },
        Trouble::BusyCard => State { graphics_use: 0.88, ..calm },
        Trouble::Night => night(seconds * NIGHT_MINUTES, 0.22),
    }
}

/// Minutes of the night that pass in a second.
pub const NIGHT_MINUTES: f64 = 15.0;

/// Returns what a machine shows so many minutes into a night, whose clock falls by `fall` once it is hot.
pub fn night(minutes: f64, fall: f64) -> State {
    let warming = 1.0 - (-minutes / 11.0).exp();
    let fallen = 1.0 / (1.0 + (-(minutes - 34.0) / 0.4).exp());
    State {
        clock_mhz: 4_200.0 * (1.0 - fall * fallen),
        temperature_c: 46.0 + (22.0 + 110.0 * fall) * warming,
        fan_rpm: 900.0 + 2_600.0 * fall.sqrt() * warming,
        power_w: 52.0 * (1.0 - 1.3 * fall * fallen),
        charge: 1.0,
        graphics_use: 0.03,
    }
}

/// This machine with simulated sensors, for as long as it is kept.
pub struct Night {
    root: PathBuf,
    over: Arc<AtomicBool>,
    thread: Option<JoinHandle<()>>,
}

/// What of this machine is as it is.
const REAL: [&str; 8] = [
    "etc/machine-id",
    "etc/os-release",
    "proc/cpuinfo",
    "proc/loadavg",
    "proc/meminfo",
    "proc/stat",
    "proc/vmstat",
    "proc/sys/kernel",
];

impl Night {
    /// Begins a night below `root`: clock, heat, fan and power are simulated, all else is this machine's.
    pub fn begin(root: &Path) -> io::Result<Self> {
        let tree = |root: &Path, seconds| {
            let tree = Tree { root, trouble: Trouble::Night };
            tree.write_sensors(state_at(Trouble::Night, seconds))?;
            tree.write_energy(seconds)
        };
        for path in REAL {
            let link = root.join(path);
            if let Some(parent) = link.parent() {
                fs::create_dir_all(parent)?;
            }
            std::os::unix::fs::symlink(Path::new("/").join(path), link)?;
        }
        Tree { root, trouble: Trouble::Night }.write_names()?;
        tree(root, 0.0)?;
        let over = Arc::new(AtomicBool::new(false));
        let (ended, below, begun) = (Arc::clone(&over), root.to_owned(), Instant::now());
        let thread = std::thread::spawn(move || {
            while !ended.load(Ordering::Relaxed) {
                std::thread::sleep(TICK);
                // A tree that was taken away meanwhile is nobody's loss.
                let _ = tree(&below, begun.elapsed().as_secs_f64());
            }
        });
        Ok(Self { root: root.to_owned(), over, thread: Some(thread) })
    }
}

impl Drop for Night {
    fn drop(&mut self) {
        self.over.store(true, Ordering::Relaxed);
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
        let _ = fs::remove_dir_all(&self.root);
    }
}

pub(crate) fn run(args: &MachineArgs) -> io::Result<()> {
    let begun = Instant::now();
    Tree { root: &args.out, trouble: args.trouble }.write_all(0.0)?;
    while begun.elapsed().as_secs_f64() < args.seconds {
        std::thread::sleep(TICK);
        Tree { root: &args.out, trouble: args.trouble }
            .write_moving(begun.elapsed().as_secs_f64())?;
    }
    Ok(())
}

struct Tree<'a> {
    root: &'a Path,
    trouble: Trouble,
}

const CORES: u32 = 4;
/// What its battery holds, in Wh.
const FULL_WH: f64 = 52.0;

impl Tree<'_> {
    fn write_all(&self, seconds: f64) -> io::Result<()> {
        let cpus: String = (0..CORES)
            .map(|n| {
                format!("processor\t: {n}\nmodel name\t: Harbour H4 laptop\nphysical id\t: 0\ncore id\t\t: {n}\nflags\t\t: fpu\n\n")
            })
            .collect();
        let on_mains = self.trouble != Trouble::Battery;
        let governor = if on_mains { "performance" } else { "powersave" };
        let fixed = [
            ("proc/cpuinfo", cpus),
            ("proc/loadavg", "0.12 0.10 0.09 1/200 4711\n".to_owned()),
            ("proc/meminfo", meminfo()),
            ("proc/vmstat", "pswpin 0\npswpout 0\n".to_owned()),
            ("etc/machine-id", "5a17ed0000000000000000000000cafe\n".to_owned()),
            ("etc/os-release", "PRETTY_NAME=\"Harbour OS 3 (made up)\"\n".to_owned()),
            ("sys/devices/system/cpu/cpu0/cpufreq/scaling_governor", format!("{governor}\n")),
            ("sys/firmware/acpi/platform_profile", "balanced\n".to_owned()),
            ("sys/class/power_supply/AC/type", "Mains\n".to_owned()),
            ("sys/class/power_supply/AC/online", format!("{}\n", u8::from(on_mains))),
            ("sys/class/power_supply/BAT0/type", "Battery\n".to_owned()),
            ("sys/class/power_supply/BAT0/energy_full", format!("{}\n", FULL_WH * 1e6)),
            ("sys/class/backlight/panel/brightness", "60\n".to_owned()),
            ("sys/class/backlight/panel/max_brightness", "100\n".to_owned()),
        ];
        for (path, text) in fixed {
            self.write(path, &text)?;
        }
        self.write_names()?;
        self.write_moving(seconds)
    }

    /// Writes what the sensors are called.
    fn write_names(&self) -> io::Result<()> {
        for (path, text) in [
            ("sys/class/hwmon/hwmon0/name", "package\n"),
            ("sys/class/hwmon/hwmon0/temp1_label", "cores\n"),
            ("sys/class/powercap/package:0/name", "package\n"),
            ("sys/class/powercap/package:0/max_energy_range_uj", "262143328850\n"),
        ] {
            self.write(path, text)?;
        }
        Ok(())
    }

    /// Writes clock, heat and fan as `state` has them.
    fn write_sensors(&self, state: State) -> io::Result<()> {
        for core in 0..CORES {
            let path = format!("sys/devices/system/cpu/cpu{core}/cpufreq/scaling_cur_freq");
            self.write(&path, &number(state.clock_mhz * 1e3))?;
        }
        self.write("sys/class/hwmon/hwmon0/temp1_input", &number(state.temperature_c * 1e3))?;
        self.write("sys/class/hwmon/hwmon0/fan1_input", &number(state.fan_rpm))
    }

    /// Writes the energy that was used so far.
    fn write_energy(&self, seconds: f64) -> io::Result<()> {
        let ticks = (seconds * 100.0) as u64;
        let joules = (0..ticks).map(|t| state_at(self.trouble, t as f64 / 100.0).power_w / 100.0);
        self.write("sys/class/powercap/package:0/energy_uj", &number(joules.sum::<f64>() * 1e6))
    }

    /// Writes the files that change; each keeps its length, so that no reader sees half of one.
    fn write_moving(&self, seconds: f64) -> io::Result<()> {
        let state = state_at(self.trouble, seconds);
        // The kernel counts in hundredths of a second; this machine works on one core of four.
        let ticks = (seconds * 100.0) as u64;
        let idle = 10_000 + ticks;
        let mut stat = format!("cpu  {:010} 0 0 {:010} 0 0 0 0 0 0\n", ticks, idle + 3 * ticks);
        for core in 0..CORES {
            let worked = if core == 0 { ticks } else { 0 };
            stat += &format!("cpu{core} {worked:010} 0 0 {:010} 0 0 0 0 0 0\n", idle - worked);
        }
        self.write("proc/stat", &stat)?;
        for (name, stalled) in [("cpu", ticks * 20), ("memory", 0), ("io", ticks * 5)] {
            let line = format!("some avg10=0.00 avg60=0.00 avg300=0.00 total={stalled:012}\n");
            self.write(&format!("proc/pressure/{name}"), &line)?;
        }
        self.write_sensors(state)?;
        self.write_energy(seconds)?;
        for (path, value) in [
            ("sys/class/power_supply/BAT0/capacity", state.charge * 100.0),
            ("sys/class/power_supply/BAT0/energy_now", state.charge * FULL_WH * 1e6),
            ("sys/class/power_supply/BAT0/power_now", state.power_w * 1e6),
            ("sys/class/drm/card0/device/gpu_busy_percent", state.graphics_use * 100.0),
            ("sys/class/drm/card0/device/mem_info_vram_used", 6.4e8),
            ("sys/class/drm/card0/gt_act_freq_mhz", 300.0 + 1_500.0 * state.graphics_use),
        ] {
            self.write(path, &number(value))?;
        }
        Ok(())
    }

    fn write(&self, path: &str, text: &str) -> io::Result<()> {
        let path = self.root.join(path);
        if let Some(parent) = path.parent() {
            fs::create_dir_all(parent)?;
        }
        // In place and in one piece: no reader finds an empty file.
        let mut file = fs::File::options().write(true).create(true).truncate(false).open(path)?;
        file.write_all(text.as_bytes())
    }
}

fn number(value: f64) -> String {
    format!("{:012}\n", value.round() as u64)
}

fn meminfo() -> String {
    [
        "MemTotal:       16384000 kB",
        "MemAvailable:   12000000 kB",
        "SwapTotal:       4000000 kB",
        "SwapFree:        4000000 kB",
        "",
    ]
    .join("\n")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn trouble_is_what_it_says() {
        let (cold, hot) = (state_at(Trouble::Throttle, 0.0), state_at(Trouble::Throttle, 5.0));
        assert!(hot.clock_mhz < 0.7 * cold.clock_mhz && hot.temperature_c > 90.0);
        let drained = state_at(Trouble::Battery, 10.0).charge;
        assert!((drained - 0.52).abs() < 1e-9);
        assert!(state_at(Trouble::BusyCard, 0.0).graphics_use > 0.8);
        assert!(state_at(Trouble::None, 9.0).clock_mhz == 4_200.0);
    }

    #[test]
    fn the_tree_is_written_in_place() {
        let dir = tempfile::tempdir().unwrap();
        let tree = Tree { root: dir.path(), trouble: Trouble::Throttle };
        tree.write_all(0.0).unwrap();
        let path = dir.path().join("sys/class/hwmon/hwmon0/temp1_input");
        let first = fs::read_to_string(&path).unwrap();
        tree.write_moving(3.0).unwrap();
        let second = fs::read_to_string(&path).unwrap();
        assert_eq!((first.trim(), first.len()), ("000000052000", second.len()));
        assert!(second > first);
    }
}
