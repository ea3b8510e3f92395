//! Runs a campaign, one lap after another, telling a sink of each.

use crate::error::MeasureError;
use crate::event::{Event, LapStart, Sink};
use crate::frames::presented::MarkSignal;
use crate::lap::{Job, LapResult, Warm, drive_lap};
use crate::meanwhile::Meanwhile;
use crate::meter::Meters;
use crate::os::Machine;
use crate::place::Place;
use crate::rest::{Rested, rest};
use crate::sampler::Watcher;
use crate::stop::Stop;
use honest_lap_core::capacity::{SearchLap, next_load};
use honest_lap_core::plan::{DoneLap, Forecast, PlannedLap, Planner, Step};
use honest_lap_core::record::{
    CACHE, LapName, Meter, Outcome, SessionName, Settings, WARM, Workload,
};
use honest_lap_core::unit::Nanos;
use std::collections::BTreeMap;
use std::sync::Arc;

/// One workload of a plan, and its variants in order.
#[derive(Clone, Debug)]
pub struct PlannedPart<'a> {
    /// The workload.
    pub workload: &'a Workload,
    /// Its variants.
    pub variants: Vec<Settings>,
}

/// Everything that is to be run in one session.
#[derive(Debug)]
pub struct Plan<'a> {
    /// The session's name.
    pub session: SessionName,
    /// The workloads.
    pub parts: Vec<PlannedPart<'a>>,
    /// Decides which lap is next, referring to `parts`.
    pub planner: Planner,
    /// What earlier laps say about how long laps take.
    pub forecast: Forecast,
    /// Laps of the session that were dealt with before, where it is resumed.
    pub driven: Vec<DoneLap>,
    /// What was tried in searches that were cut short, by their place in the order.
    pub tried: BTreeMap<usize, Vec<SearchLap>>,
    /// Where searches begin, by part and variant: at the edge that the last one found.
    pub starts: BTreeMap<(usize, usize), usize>,
    /// The number of the last lap of the session, where it is resumed.
    pub last_number: u32,
    /// The time that was spent on it before.
    pub spent: Nanos,
    /// Where they are run.
    pub place: Place,
    /// The machine whose sensors are read.
    pub machine: Machine,
    /// Whether laps are watched while they run.
    pub watched: bool,
    /// Outside meters.
    pub meters: &'a [Meter],
    /// What marks their processes.
    pub mark: String,
    /// Tells of the moments at which a signal set a mark.
    pub mark_signal: Option<&'a MarkSignal>,
}

/// How a run came to its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Ending {
    /// Everything was run that the campaign's goal asks for.
    Complete,
    /// It was asked to stop.
    Stopped,
}

/// Runs `plan` to its end, or until `stop` is requested.
///
/// The sink hears of every lap before it begins and after it has ended, and the next begins only
/// when the sink has returned. Errors: our own surroundings, or the sink's; never a lap's.
pub fn run_laps(plan: &Plan<'_>, stop: &Stop, sink: &mut dyn Sink) -> Result<Ending, MeasureError> {
    // What a starter leaves that is killed becomes this process's own, and is ended. Where the kernel cannot do that,
    // the mark in its environment still tells.
    let _ = crate::os::keep_orphans();
    let meters = Arc::new(Meters::start(plan.meters, &plan.place, &plan.mark)?);
    let mut watcher = match plan.watched {
        true => Watcher::new(&plan.machine, Arc::clone(&meters)),
        false => Watcher::idle(Arc::clone(&meters)),
    };
    let mut planner = plan.planner.clone();
    let mut forecast = plan.forecast.clone();
    plan.driven.iter().for_each(|driven| planner.take(driven));
    let mut number = plan.last_number;
    let mut before: Option<(PlannedLap, Outcome)> = None;
    let begun = crate::now();
    let mut tell =
        |event: &Event<'_>| sink.event(event).map_err(|source| MeasureError::Sink { source });
    meters.await_first(stop);
    loop {
        for silent in meters.newly_silent() {
            tell(&Event::MeterSilent(&silent))?;
        }
        let spent = plan.spent.plus(crate::now().since(begun).unwrap_or_default());
        let rests = |part: usize| plan.parts[part].workload.rest.time;
        let Step::Run(next) = planner.next(spent, &forecast, rests) else {
            return Ok(Ending::Complete);
        };
        if let Some((last, _)) = before {
            let rests = plan.parts[last.part].workload.rest;
            // Nothing may come between a lap that fills a cache and the one that finds it.
            if !is_warm(plan, planner.order()[next])
                && rest(rests, &plan.machine, stop, &mut |event| tell(&event))? == Rested::Asked
            {
                return Ok(Ending::Stopped);
            }
        }
        if stop.requested() {
            return Ok(Ending::Stopped);
        }
        let place = cold_first(plan, &planner, next, before);
        let planned = planner.order()[place];
        let part = &plan.parts[planned.part];
        let rule = part.workload.task.kind.load();
        let mut tried = plan.tried.get(&place).cloned().unwrap_or_default();
        let start = plan.starts.get(&(planned.part, planned.variant)).copied();
        let mut failures = 0;
        // A lap, or where a load is searched for, as many as that takes.
        let (outcome, failed, time) = loop {
            let load = match rule.map(|rule| next_load(&rule.search(start), &tried)) {
                Some(None) => break (Outcome::Done, false, None),
                load => load.flatten(),
            };
            if (!tried.is_empty() || failures > 0)
                && rest(part.workload.rest, &plan.machine, stop, &mut |event| tell(&event))?
                    == Rested::Asked
            {
                return Ok(Ending::Stopped);
            }
            if stop.requested() {
                return Ok(Ending::Stopped);
            }
            number += 1;
            let name = LapName { session: plan.session.clone(), number };
            let start = LapStart {
                name: &name,
                workload: part.workload,
                settings: &part.variants[planned.variant],
                planned,
                place: place + 1,
                total: planner.order().len(),
                load,
            };
            let left = planner.left(&forecast, rests);
            tell(&Event::LapStarting(start, left))?;
            let job = Job {
                name: &name,
                workload: start.workload,
                settings: start.settings,
                place: &plan.place,
                mark: &plan.mark,
                stop,
                mark_signal: plan.mark_signal,
                machine: &plan.machine,
                warm: match (is_warm(plan, planned), before) {
                    (false, _) => Warm::Fresh,
                    (true, Some((_, Outcome::Done))) => Warm::Filled,
                    (true, _) => Warm::NotFilled,
                },
                load,
            };
            let mut meanwhile = |stands: Meanwhile<'_>| tell(&Event::Meanwhile(stands));
            let result: LapResult = drive_lap(&job, &mut watcher, &mut meanwhile)?;
            tell(&Event::LapEnded(start, &result))?;
            if result.outcome == Outcome::Interrupted {
                return Ok(Ending::Stopped);
            }
            match (load, result.came) {
                (Some(at), Some(came)) => {
                    tried.push(SearchLap { at, came });
                    failures = 0;
                }
                // What fails for another reason than its load says nothing of it; twice is enough.
                (Some(_), None) => {
                    failures += 1;
                    if failures == 2 {
                        tell(&Event::GaveUp(start))?;
                        break (result.outcome, true, None);
                    }
                }
                (None, _) => {
                    let failed = result.outcome.is_failure();
                    let time = result.parts.or(result.wall).filter(|_| !failed && !planned.warm_up);
                    if let (false, Some(wall)) = (failed, result.wall) {
                        forecast.add(planned.part, planned.variant, wall);
                    }
                    break (result.outcome, failed, time);
                }
            }
        };
        let start = LapStart {
            name: &LapName { session: plan.session.clone(), number },
            workload: part.workload,
            settings: &part.variants[planned.variant],
            planned,
            place: place + 1,
            total: planner.order().len(),
            load: None,
        };
        planner.take(&DoneLap { place, failed, time });
        before = Some((planned, outcome));
        if planner.passes_over(planned) {
            tell(&Event::GaveUp(start))?;
        }
    }
}

fn is_warm(plan: &Plan<'_>, lap: PlannedLap) -> bool {
    let part = &plan.parts[lap.part];
    part.workload.task.fills_cache && part.variants[lap.variant].get(CACHE) == Some(WARM)
}

/// Returns the place to be run for `next`: a warm lap whose cold lap is not the one just run,
/// as where an interruption came between, has it run again first.
fn cold_first(
    plan: &Plan<'_>,
    planner: &Planner,
    next: usize,
    before: Option<(PlannedLap, Outcome)>,
) -> usize {
    let order = planner.order();
    if !is_warm(plan, order[next]) || next == 0 {
        return next;
    }
    match before {
        Some((last, _)) if last == order[next - 1] => next,
        _ => next - 1,
    }
}
