//! A system that shows nothing: what a port begins with, and what keeps the seam whole.
//!
//! It starts programs and waits for them as the standard library does; trees, groups, usage and sensors are absent.

use super::told::{Process, Reaped, Used};
use honest_lap_core::plan::MachineState;
use honest_lap_core::record::{Conditions, Quantity, RigFound, Sampled, Trace, Traces, Usage};
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::process::Signal;
use std::fs::File;
use std::io;
use std::os::fd::OwnedFd;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Instant;

/// The machine that laps are run on.
#[derive(Clone, Debug)]
pub struct Machine;

impl Machine {
    /// Returns the machine whose files are below `root`.
    pub fn below(_root: &Path) -> Self {
        Self
    }

    /// Returns this machine.
    pub fn here() -> Self {
        Self
    }

    /// Returns whether it is this machine, and not files of another.
    pub fn is_here(&self) -> bool {
        true
    }
}

/// Returns the moment on the monotonic clock.
pub fn now() -> Stamp {
    static BEGUN: std::sync::OnceLock<Instant> = std::sync::OnceLock::new();
    let since = BEGUN.get_or_init(Instant::now).elapsed();
    Stamp(u64::try_from(since.as_nanos()).unwrap_or(u64::MAX))
}

pub(crate) fn now_with_sleep() -> Stamp {
    now()
}

/// Without a count of its own, the time that passes.
pub(crate) fn worked() -> Stamp {
    now()
}

pub(crate) fn own_program() -> PathBuf {
    std::env::current_exe().unwrap_or_default()
}

pub(crate) fn own_session() -> io::Result<()> {
    Ok(())
}

pub(crate) fn keep_orphans() -> io::Result<()> {
    Ok(())
}

pub(crate) fn boot() -> String {
    String::new()
}

pub(crate) fn environment_of(_pid: i32) -> Vec<u8> {
    Vec::new()
}

/// A terminal of a lap's own.
pub(crate) struct Terminal {
    pub(crate) ours: File,
    #[expect(dead_code, reason = "held for as long as the lap lasts")]
    pub(crate) theirs: OwnedFd,
}

impl Terminal {
    pub(crate) fn open() -> io::Result<Self> {
        Err(io::ErrorKind::Unsupported.into())
    }

    pub(crate) fn stream(&self) -> io::Result<Stdio> {
        Err(io::ErrorKind::Unsupported.into())
    }

    pub(crate) fn becomes_that_of(&self, _command: &mut Command) -> io::Result<()> {
        Err(io::ErrorKind::Unsupported.into())
    }
}

pub(crate) fn process(_pid: i32) -> Option<Process> {
    None
}

pub(crate) fn processes() -> Vec<Process> {
    Vec::new()
}

pub(crate) fn children(_pid: i32) -> Vec<i32> {
    Vec::new()
}

pub(crate) fn descendants(_root: i32) -> Vec<Process> {
    Vec::new()
}

pub(crate) fn send(_to: &[Process], _signal: Signal) {}

pub(crate) fn signal_name(signal: i32) -> String {
    format!("number {signal}")
}

/// A port waits here; without one no lap comes to an end that is known.
pub(crate) fn reap(_pid: u32) -> io::Result<Reaped> {
    Err(io::ErrorKind::Unsupported.into())
}

pub(crate) fn reap_if_ended(_pid: i32) {}

pub(crate) fn reap_orphans() {}

pub(crate) fn reap_orphans_but(_child: u32) {}

pub(crate) fn has_children() -> bool {
    false
}

pub(crate) fn used_by_children() -> Used {
    Used::default()
}

pub(crate) fn moved_by_children() -> Option<[u64; 2]> {
    None
}

pub(crate) fn used_by_self() -> Used {
    Used::default()
}

/// A group that holds all of a lap.
#[derive(Debug)]
pub(crate) struct Group {
    view: GroupView,
}

/// What any thread may ask of a group.
#[derive(Clone, Debug)]
pub(crate) struct GroupView;

impl Group {
    pub(crate) fn join(_mark: &str) -> Option<Self> {
        None
    }

    pub(crate) fn view(&self) -> &GroupView {
        &self.view
    }
}

impl GroupView {
    pub(crate) fn members(&self) -> Vec<Process> {
        Vec::new()
    }

    pub(crate) fn kill(&self) -> bool {
        false
    }

    pub(crate) fn resident_bytes(&self) -> Option<u64> {
        None
    }

    pub(crate) fn used(&self) -> Option<Used> {
        None
    }

    pub(crate) fn waited(&self) -> [Option<Nanos>; 2] {
        [None; 2]
    }
}

pub(crate) fn place_of(_mark: &str) -> Option<PathBuf> {
    None
}

pub(crate) fn end_members(_dir: &Path) -> Vec<String> {
    Vec::new()
}

pub(crate) fn shrink() {}

pub(crate) fn reset_peak() {}

pub(crate) fn peak_bytes() -> u64 {
    0
}

/// A channel of samples.
pub(crate) struct Channel {
    pub(crate) quantity: Quantity,
}

impl Channel {
    pub(crate) fn trace(&self) -> Trace {
        Trace {
            quantity: self.quantity,
            which: String::new(),
            unit: String::new(),
            values: honest_lap_core::record::Samples::default(),
        }
    }
}

/// Every sensor that a machine has.
pub(crate) struct Sensors;

impl Sensors {
    pub(crate) fn open(_machine: &Machine) -> Self {
        Self
    }

    pub(crate) fn channels(&self) -> impl Iterator<Item = &Channel> {
        std::iter::empty()
    }

    pub(crate) fn begin(&mut self) {}

    pub(crate) fn read(&mut self, _seconds: f64, _out: &mut Vec<Option<f64>>) {}
}

/// Returns the channels of `machine`.
pub fn sensor_names(_machine: &Machine) -> Vec<(Quantity, String)> {
    Vec::new()
}

/// Returns whether the machine runs on mains.
pub fn on_mains(_machine: &Machine) -> Option<bool> {
    None
}

/// A look at the machine.
pub(crate) struct Look(Stamp);

impl Look {
    pub(crate) fn take(_machine: &Machine) -> Self {
        Self(now())
    }

    pub(crate) fn until(&self, after: &Self, _lap: Option<&Usage>, slept: Nanos) -> Conditions {
        let sampled = Sampled { looked: after.0.since(self.0), ..Sampled::default() };
        Conditions { slept: Some(slept), sampled, ..Conditions::default() }
    }
}

pub(crate) fn sampled(traces: &Traces, _machine: &Machine) -> Sampled {
    Sampled::of(traces)
}

/// Returns what `machine` says of itself.
pub fn read_rig(_machine: &Machine) -> RigFound {
    RigFound::default()
}

/// Watches `machine` for `span` and returns its state.
pub fn read_state(_machine: &Machine, _folder: &Path, span: Nanos) -> MachineState {
    std::thread::sleep(span.into());
    MachineState::default()
}
