//! Drives an order of laps, one after another, telling a sink of each.

use crate::error::MeasureError;
use crate::event::{Event, LapStart, Sink};
use crate::lap::{Job, LapResult, drive_lap};
use crate::place::Place;
use crate::stop::Stop;
use honest_lap_core::lap::{LapName, Outcome};
use honest_lap_core::schedule::{Driven, PlannedLap, Step, gave_up, next_step};
use honest_lap_core::session::SessionName;
use honest_lap_core::variant::Settings;
use honest_lap_core::workload::Workload;

/// One workload of a plan, and its variants in order.
#[derive(Clone, Debug)]
pub struct PlannedPart<'a> {
    /// The workload.
    pub workload: &'a Workload,
    /// Its variants.
    pub variants: Vec<Settings>,
}

/// Everything that is to be driven in one session.
#[derive(Debug)]
pub struct Plan<'a> {
    /// The session's name.
    pub session: SessionName,
    /// The workloads.
    pub parts: Vec<PlannedPart<'a>>,
    /// The order of laps, referring to `parts`.
    pub order: Vec<PlannedLap>,
    /// Where they are driven.
    pub place: Place,
    /// What marks their processes.
    pub mark: String,
}

/// How a drive came to its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ending {
    /// Everything was driven.
    Complete,
    /// It was asked to stop.
    Stopped,
}

/// Drives `plan` to its end, or until `stop` is requested.
///
/// The sink hears of every lap before it begins and after it has ended, and the next begins only
/// when the sink has returned. Errors: our own surroundings, or the sink's; never a lap's.
pub fn drive(plan: &Plan<'_>, stop: &Stop, sink: &mut dyn Sink) -> Result<Ending, MeasureError> {
    let mut driven: Vec<Driven> = Vec::new();
    let mut tell =
        |event: &Event<'_>| sink.event(event).map_err(|source| MeasureError::Sink { source });
    while let Step::Drive(place) = next_step(&plan.order, &driven) {
        if stop.requested() {
            return Ok(Ending::Stopped);
        }
        let planned = plan.order[place];
        let part = &plan.parts[planned.part];
        let number = u32::try_from(driven.len() + 1).unwrap_or(u32::MAX);
        let name = LapName { session: plan.session.clone(), number };
        let start = LapStart {
            name: &name,
            workload: part.workload,
            settings: &part.variants[planned.variant],
            planned,
            place: place + 1,
            total: plan.order.len(),
        };
        tell(&Event::LapStarting(start))?;
        let result: LapResult = drive_lap(&Job {
            name: &name,
            workload: start.workload,
            settings: start.settings,
            place: &plan.place,
            mark: &plan.mark,
            stop,
        })?;
        tell(&Event::LapEnded(start, &result))?;
        if result.outcome == Outcome::Interrupted {
            return Ok(Ending::Stopped);
        }
        driven.push(Driven { place, failed: result.outcome.is_failure() });
        let more = matches!(next_step(&plan.order, &driven), Step::Drive(_));
        let rest_of_order = &plan.order[place + 1..];
        let same = |lap: &PlannedLap| (lap.part, lap.variant) == (planned.part, planned.variant);
        if rest_of_order.iter().any(same) && gave_up(&plan.order, &driven, planned) {
            tell(&Event::GaveUp(start))?;
        }
        if more && start.workload.rest.0 > 0 {
            tell(&Event::Resting(start.workload.rest))?;
            stop.wait(start.workload.rest);
        }
    }
    Ok(Ending::Complete)
}
