//! Outside meters: commands that print a number a line, such as a wall power meter's reader.
//!
//! Each runs under a starter of its own for the length of a session, so that it ends with the tool
//! however that ends. Its output is spooled with the moment of every line.

use crate::clock::now;
use crate::error::MeasureError;
use crate::fill::Values;
use crate::place::Place;
use crate::spool::Tail;
use crate::starter::{self, Order, Spools};
use crate::stop::Stop;
use honest_lap_core::record::{Meter, Quantity, Samples, Settings, Trace, plain_line};
use honest_lap_core::unit::{Decimals, Nanos, Stamp, parse_number};
use rustix::event::{EventfdFlags, eventfd};
use std::os::fd::OwnedFd;
use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};
use std::thread::JoinHandle;

/// A session's limit is nobody's business here.
const FOR_EVER: Nanos = Nanos(u64::MAX / 2);
/// A value older than this says nothing of the present.
const STALE_NS: u64 = 15 * Nanos::PER_SECOND;

/// The meters of a session, running.
#[derive(Debug, Default)]
pub(crate) struct Meters {
    running: Vec<Running>,
}

#[derive(Debug)]
struct Running {
    name: String,
    unit: String,
    decimals: Decimals,
    spool: PathBuf,
    latest: Mutex<Latest>,
    stop: OwnedFd,
    thread: Mutex<Option<JoinHandle<()>>>,
}

#[derive(Debug)]
struct Latest {
    tail: Tail,
    value: Option<(f64, Stamp)>,
}

impl Meters {
    /// Starts `meters`; each is read from as soon as it prints.
    pub(crate) fn start(meters: &[Meter], place: &Place, mark: &str) -> Result<Self, MeasureError> {
        let mut running = Vec::new();
        for (number, meter) in meters.iter().enumerate() {
            running.push(start(meter, number, place, mark)?);
        }
        Ok(Self { running })
    }

    /// Returns an empty trace for every meter.
    pub(crate) fn traces(&self) -> Vec<Trace> {
        let trace = |meter: &Running| Trace {
            quantity: Quantity::Meter,
            which: meter.name.clone(),
            unit: meter.unit.clone(),
            values: Samples::default(),
        };
        self.running.iter().map(trace).collect()
    }

    /// Puts the mean of what each meter printed since `before` into `out`; its last value where it
    /// printed nothing since.
    pub(crate) fn read(&self, before: Stamp, out: &mut Vec<Option<f64>>) {
        for meter in &self.running {
            // A panic elsewhere leaves the latest value as it was.
            let mut latest = meter.latest.lock().unwrap_or_else(PoisonError::into_inner);
            let at = now();
            let mut fresh = Vec::new();
            for line in latest.tail.lines() {
                if let Ok(number) = parse_number(&plain_line(&line), meter.decimals) {
                    fresh.push(number.value);
                    latest.value = Some((number.value, at));
                }
            }
            let held = latest.value.filter(|(_, seen)| at.0.saturating_sub(seen.0) < STALE_NS);
            let mean = fresh.iter().sum::<f64>() / fresh.len() as f64;
            // Before the first sample of a lap only the last value is of it.
            let several = fresh.len() > 1 && before < at;
            out.push(if several { Some(mean) } else { held.map(|(value, _)| value) });
        }
    }
}

impl Drop for Meters {
    fn drop(&mut self) {
        for meter in &self.running {
            let _ = rustix::io::write(&meter.stop, &1u64.to_ne_bytes());
        }
        for meter in &self.running {
            let thread = meter.thread.lock().unwrap_or_else(PoisonError::into_inner).take();
            let _ = thread.map(JoinHandle::join);
            let _ = std::fs::remove_file(&meter.spool);
        }
    }
}

fn start(meter: &Meter, number: usize, place: &Place, mark: &str) -> Result<Running, MeasureError> {
    let starter = |source| MeasureError::Starter { source };
    let settings = Settings::default();
    let values = Values::of(place, &settings);
    let command =
        values.command(&meter.command).map_err(|err| starter(std::io::Error::other(err)))?;
    let spool = place.spool(&format!("meter-{number}"))?;
    let order = Order {
        command,
        folder: place.study().to_owned(),
        environment: Vec::new(),
        stdin: None,
        limit: FOR_EVER,
        spools: Spools { stdout: Some(spool.clone()), ..Spools::default() },
        watched: false,
    };
    let stop = eventfd(0, EventfdFlags::CLOEXEC).map_err(|err| starter(err.into()))?;
    let until = Stop::new(stop.try_clone().map_err(starter)?);
    let mark = mark.to_owned();
    let thread = std::thread::spawn(move || {
        // A meter that fails is one whose channel stays empty.
        let _ = starter::run(&order, &mark, &until);
    });
    let spool = PathBuf::from(spool);
    let latest = Latest { tail: Tail::of(&spool), value: None };
    Ok(Running {
        name: meter.name.clone(),
        unit: meter.unit.clone(),
        decimals: meter.decimals,
        spool,
        latest: Mutex::new(latest),
        stop,
        thread: Mutex::new(Some(thread)),
    })
}
