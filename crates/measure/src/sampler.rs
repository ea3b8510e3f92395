//! Samples the machine while a lap runs, from a thread that sleeps between looks.
//!
//! It begins before the program starts and ends after it was reaped, so that even the shortest lap
//! has a look at either end. What a look costs is in docs/measurements.md.

use crate::meter::Meters;
use crate::neighbours::Neighbours;
use crate::os::{Machine, Sensors, now, worked};
use honest_lap_core::record::{Conditions, OtherProgram, Quantity, Trace, Traces};
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::event::{EventfdFlags, PollFd, PollFlags, eventfd, poll};
use std::io;
use std::os::fd::OwnedFd;
use std::sync::Arc;
use std::thread::JoinHandle;

/// Watching may take this share of one core: one in so many parts.
const SHARE: u64 = 1_000;
/// Time between samples at first.
const INTERVAL_NS: u64 = 500_000_000;
/// After this many samples the time between them doubles, again and again: a lap of ten minutes
/// and one of ten hours both keep some thousand samples.
const STEADY_SAMPLES: usize = 600;

/// What laps of a session are watched with.
pub(crate) struct Watcher {
    sensors: Option<Sensors>,
    meters: Arc<Meters>,
    /// The time between samples that was asked for; without one it grows.
    every: Option<Nanos>,
    /// Other programs; `None` where laps are not watched, or the machine is not this one.
    neighbours: Option<Neighbours>,
}

/// A lap being watched.
pub(crate) struct Watch {
    thread: Option<JoinHandle<(Sensors, Traces)>>,
    stop: Arc<OwnedFd>,
}

impl Watcher {
    /// Returns what watches `machine` and `meters`.
    pub(crate) fn new(machine: &Machine, meters: Arc<Meters>) -> Self {
        let neighbours = machine.is_here().then(Neighbours::default);
        Self { sensors: Some(Sensors::open(machine)), meters, every: None, neighbours }
    }

    /// Returns what lets laps run unwatched.
    pub(crate) fn idle(meters: Arc<Meters>) -> Self {
        Self { sensors: None, meters, every: None, neighbours: None }
    }

    /// Returns what lets repetitions run unwatched, while this watches the lap that they are of.
    pub(crate) fn beside(&self) -> Self {
        Self::idle(Arc::clone(&self.meters))
    }

    /// Has samples taken at this pace from now on, or at a pace that suits any length.
    pub(crate) fn look_every(&mut self, every: Option<Nanos>) {
        self.every = every;
    }

    /// Returns whether laps are watched.
    pub(crate) fn watches(&self) -> bool {
        self.sensors.is_some()
    }

    /// Takes the first sample and goes on until [`Self::finish`].
    pub(crate) fn start(&mut self) -> io::Result<Watch> {
        self.neighbours.iter_mut().for_each(Neighbours::look);
        let stop = Arc::new(eventfd(0, EventfdFlags::CLOEXEC)?);
        let Some(mut sensors) = self.sensors.take() else {
            return Ok(Watch { thread: None, stop });
        };
        let mut samples = Samples::new(&sensors, &self.meters, self.every);
        sensors.begin();
        samples.take(&mut sensors, &self.meters);
        let (meters, until) = (Arc::clone(&self.meters), Arc::clone(&stop));
        let name = "lap-watch".to_owned();
        let thread = std::thread::Builder::new().name(name).spawn(move || {
            while !samples.wait(&until) {
                samples.take(&mut sensors, &meters);
            }
            if samples.end_is_worth_a_look() {
                samples.take(&mut sensors, &meters);
            }
            (sensors, samples.traces)
        })?;
        Ok(Watch { thread: Some(thread), stop })
    }

    /// Returns which other programs used the processor during the lap that was watched last.
    pub(crate) fn named(&mut self, conditions: &Conditions) -> Vec<OtherProgram> {
        self.neighbours.as_mut().map(|all| all.named(conditions)).unwrap_or_default()
    }

    /// Takes the last sample of a lap and returns all of them.
    pub(crate) fn finish(&mut self, mut watch: Watch) -> Traces {
        let _ = rustix::io::write(&*watch.stop, &1u64.to_ne_bytes());
        let Some(Ok((sensors, mut traces))) = watch.thread.take().map(JoinHandle::join) else {
            return Traces::default();
        };
        self.sensors = Some(sensors);
        // A channel that gave nothing all the time is as good as absent.
        traces.channels.retain(|trace| trace.values.known().next().is_some());
        traces
    }
}

/// The samples of a lap, as they come in.
struct Samples {
    begun: Stamp,
    last: Stamp,
    every: Option<Nanos>,
    traces: Traces,
    row: Vec<Option<f64>>,
    /// The processor time that the last sample took.
    took: Nanos,
}

impl Samples {
    fn new(sensors: &Sensors, meters: &Meters, every: Option<Nanos>) -> Self {
        let own = sensors.channels().map(|channel| channel.trace());
        let channels: Vec<Trace> = own.chain(meters.traces()).collect();
        let (begun, row) = (now(), Vec::with_capacity(channels.len()));
        let traces = Traces { at_ms: Vec::new(), channels };
        Self { begun, last: begun, every, traces, row, took: Nanos(0) }
    }

    fn take(&mut self, sensors: &mut Sensors, meters: &Meters) {
        let (at, before) = (now(), worked());
        let since = at.since(self.last).unwrap_or_default();
        self.row.clear();
        sensors.read(since.seconds(), &mut self.row);
        meters.read(self.last, &mut self.row);
        self.last = at;
        self.traces.at_ms.push(at.since(self.begun).unwrap_or_default().0 / 1_000_000);
        for (trace, value) in self.traces.channels.iter_mut().zip(&self.row) {
            trace.values.push(value.map(|value| rounded(trace.quantity, value)));
        }
        self.took = worked().since(before).unwrap_or_default();
    }

    /// Returns whether the end is far enough behind the last sample: at a pace that was asked for, counters have not
    /// moved on shortly after one.
    fn end_is_worth_a_look(&self) -> bool {
        let since = now().since(self.last).unwrap_or_default();
        self.every.is_none_or(|every| since.0 >= every.0 / 2) || self.traces.at_ms.len() < 2
    }

    /// Waits until the next sample is due; returns whether the lap is over.
    fn wait(&self, stop: &OwnedFd) -> bool {
        let taken = self.traces.at_ms.len();
        let due = match self.every {
            // By the beginning and not by the last one, so that the pace is kept; what was missed is.
            Some(every) => {
                let since = self.last.since(self.begun).unwrap_or_default().0;
                self.begun.0.saturating_add((since / every.0.max(1) + 1).saturating_mul(every.0))
            }
            // The more a machine shows, the rarer: it may not cost more than its share.
            None => {
                let pace = INTERVAL_NS << (taken / STEADY_SAMPLES).min(16);
                self.last.0.saturating_add(pace.max(self.took.0.saturating_mul(SHARE)))
            }
        };
        loop {
            let left = due.saturating_sub(now().0);
            let mut fds = [PollFd::new(stop, PollFlags::IN)];
            match poll(&mut fds, Some(&crate::stop::timespec(left))) {
                Ok(0) => return false,
                Err(rustix::io::Errno::INTR) => {}
                // Without a way to wait, waiting for the end would be a busy loop.
                Ok(_) | Err(_) => return true,
            }
        }
    }
}

/// Keeps what a sensor can know, so that samples stay small: no sensor knows a tenth of a per mille.
fn rounded(quantity: Quantity, value: f64) -> f64 {
    let to = |step: f64| (value / step).round() * step;
    match quantity {
        // Some batteries count finer than in per cent, and its fall is what is wanted of it.
        Quantity::Charge => (value * 1e6).round() / 1e6,
        Quantity::CoreUse | Quantity::GraphicsUse => (value * 1e3).round() / 1e3,
        Quantity::MemoryAvailable | Quantity::SwapUsed | Quantity::GraphicsMemory => to(65_536.0),
        Quantity::Meter => value,
        _ => (value * 1e3).round() / 1e3,
    }
}
