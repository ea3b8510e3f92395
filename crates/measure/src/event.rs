//! What happens while laps are run, told to whoever writes it down or shows it.

use crate::lap::LapResult;
use crate::meanwhile::Meanwhile;
use crate::meter::SilentMeter;
use honest_lap_core::plan::{Expected, PlannedLap};
use honest_lap_core::record::{LapName, Settings, Workload};
use honest_lap_core::unit::Nanos;

/// Why a sink could not take an event.
pub type SinkError = Box<dyn std::error::Error + Send + Sync>;

/// A lap about to be run.
#[derive(Clone, Copy, Debug)]
pub struct LapStart<'a> {
    /// Its name.
    pub name: &'a LapName,
    /// Its workload.
    pub workload: &'a Workload,
    /// Its variant.
    pub settings: &'a Settings,
    /// Its place in the order.
    pub planned: PlannedLap,
    /// Its place in the order, counted from 1.
    pub place: usize,
    /// How many laps the order has.
    pub total: usize,
    /// The place of the load that it is run at, where it is a lap of a search.
    pub load: Option<usize>,
}

/// Something that happened.
#[derive(Clone, Copy, Debug)]
pub enum Event<'a> {
    /// A lap is about to be run, and so much is left with it; nothing of it has started.
    LapStarting(LapStart<'a>, Expected),
    /// A lap is under way, or was just run, and so it stands.
    Meanwhile(Meanwhile<'a>),
    /// A lap has ended. The next begins only when the sink has returned.
    LapEnded(LapStart<'a>, &'a LapResult),
    /// A rest of this length begins.
    Resting(Nanos),
    /// A rest goes on until the hottest sensor shows no more than wanted, in °C.
    Cooling {
        /// What it shows.
        hottest: f64,
        /// What is wanted.
        wanted: f64,
    },
    /// The longest rest is over, and the machine has not cooled as far as wanted.
    StillWarm {
        /// What the hottest sensor shows, in °C.
        hottest: f64,
        /// What is wanted.
        wanted: f64,
        /// How long it was waited for.
        waited: Nanos,
    },
    /// A rest until a temperature is asked for, and the machine shows none.
    NoTemperature,
    /// Nothing comes from an outside meter: laps have no value of it from now on.
    MeterSilent(&'a SilentMeter),
    /// The variant has failed too often in a row: its remaining laps are passed over.
    GaveUp(LapStart<'a>),
}

/// Takes events, in order, on the thread that runs.
pub trait Sink {
    /// Takes one event; an error ends the run before anything more is started.
    fn event(&mut self, event: &Event<'_>) -> Result<(), SinkError>;
}
