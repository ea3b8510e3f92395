//! Laps on this machine.

use super::args::RunArgs;
use super::choice::{campaign, chosen, forecast, tell_rounding};
use super::session::Session;
use super::{resume, retest};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lock::{self, IfTaken};
use crate::mark_signal::mark_on_signal;
use crate::rig_name::{Known, rig_name};
use crate::stop_signals::stop_on_signals;
use crate::study_file::OpenStudy;
use honest_lap_core::plan::{Part, Planner, obstacles};
use honest_lap_core::record::{CampaignPart, RigFound, SessionAbout, Workload};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Machine, Place, on_mains, read_rig, read_state};
use honest_lap_view::sheet;
use honest_lap_view::table::Role;
use std::path::Path;

/// How long the machine is watched ahead of a run.
const GLANCE: Nanos = Nanos(300_000_000);

/// Runs, or previews, laps of the study `open`; `report` prints the session when it is over.
pub fn run_in(args: &RunArgs, open: &OpenStudy, report: bool, ctx: &Ctx) -> Result<Exit, CmdError> {
    let machine = match &args.machine_root {
        Some(root) => Machine::below(&ctx.folder.join(root)),
        None => Machine::here(),
    };
    let found = read_rig(&machine);
    let place = Place::new(&open.folder, &ctx.tool()?)?;
    // What a killed session left is corrected before anything is read that depends on it.
    let _locks = match args.preview {
        true => None,
        false => Some(take_over(&place, args.if_taken(), open, ctx)?),
    };
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let rig = this_rig(args, open, &found, existing.as_ref())?;
    let resumed = match &args.resume {
        Some(name) => Some(resume::find(name, args.again, &rig, open, existing.as_ref())?),
        None => None,
    };
    let workloads = match &resumed {
        Some(resumed) => resumed.workloads.clone(),
        None => {
            let chosen = chosen(args, open, ctx)?;
            match args.retest {
                true => {
                    let wanted = retest::wanted(open, existing.as_ref(), ctx)?;
                    retest::only(&wanted, &chosen, &rig, ctx)
                }
                false => chosen,
            }
        }
    };
    if workloads.is_empty() {
        return Ok(Exit::Done);
    }
    let seed = match &resumed {
        Some(resumed) => resumed.seed,
        None => args.seed.map_or_else(|| ctx.random(), Ok)?,
    };
    let campaign = match &resumed {
        Some(resumed) => resumed.campaign.clone(),
        None => campaign(&workloads, args.goal()),
    };
    let parts: Vec<Part> = campaign.parts.iter().map(CampaignPart::part).collect();
    let planner = Planner::new(parts, campaign.goal, seed);
    let forecast = forecast(&workloads, &rig, existing.as_ref())?;
    drop(existing);
    if args.preview {
        let driven = resumed.as_ref().map_or(&[][..], |resumed| &resumed.driven);
        let sheet = sheet::preview(&workloads, &planner, driven, &rig, seed, &forecast);
        ctx.ui.print(&sheet, args.output.format)?;
        return Ok(Exit::Done);
    }
    if resumed.is_none() {
        tell_rounding(args, &workloads, ctx);
    }
    check_battery(&workloads, &machine)?;
    let stop = stop_on_signals()?;
    let mark_signal = mark_on_signal()?;
    let logbook = open.logbook_to_write(ctx)?;
    let against = glance(&machine, &open.folder, ctx);
    let session = Session {
        rig: &rig,
        seed,
        found: &found,
        mark: args.sent.clone().map_or_else(|| ctx.mark(), Ok)?,
        mark_signal: &mark_signal,
        place,
        machine,
        watched: !args.unwatched,
        study: &open.study,
        workloads: &workloads,
        about: SessionAbout {
            room_c: args.room,
            parts: args.parts.clone(),
            remark: args.remark.clone(),
            campaign: Some(campaign),
            against,
            ..SessionAbout::default()
        },
        planner,
        forecast,
        resumed,
        logbook,
        brief: args.brief,
    };
    session.run(&stop, report.then_some(args.output.format), ctx)
}

/// Refuses to begin where something is to be run on a battery, and the machine runs on mains.
fn check_battery(workloads: &[Workload], machine: &Machine) -> Result<(), CmdError> {
    let on_battery =
        |workload: &&Workload| workload.task.kind.endurance().is_some_and(|rule| rule.on_battery);
    let Some(workload) = workloads.iter().find(on_battery) else { return Ok(()) };
    let (problem, help) = match on_mains(machine) {
        Some(false) => return Ok(()),
        Some(true) => ("this machine runs on mains", "unplug it, and run again"),
        None => ("this machine shows no battery", "run other workloads: lap run WORKLOAD"),
    };
    let problem = format!("{} is run on the battery, and {problem}", workload.name);
    Err(CmdError::request(problem, help))
}

/// Takes the machine and the study, and writes down what a killed session left undone.
fn take_over(
    place: &Place,
    if_taken: IfTaken,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<lock::Locks, CmdError> {
    let locks = lock::take(place, if_taken)?;
    if open.logbook().exists() {
        let mut logbook = open.logbook_to_write(ctx)?;
        lock::recover(place, &mut logbook, ctx)?;
    }
    Ok(locks)
}

/// Says in a line each what would spoil laps right now, and returns it for the record.
fn glance(machine: &Machine, folder: &Path, ctx: &Ctx) -> Vec<String> {
    let found = obstacles(&read_state(machine, folder, GLANCE));
    for obstacle in &found {
        let line = format!("{}: {}", obstacle.name, obstacle.evidence);
        ctx.ui.say_labelled("warning", Role::Open, &line);
    }
    if !found.is_empty() {
        ctx.ui.say(Role::Quiet, "what to do about it: lap rig check");
    }
    found.into_iter().map(|obstacle| format!("{}: {}", obstacle.name, obstacle.evidence)).collect()
}

fn this_rig(
    args: &RunArgs,
    open: &OpenStudy,
    found: &RigFound,
    logbook: Option<&Logbook>,
) -> Result<String, CmdError> {
    let machine = found.machine.as_deref();
    let recorded_as = match (logbook, machine) {
        (Some(logbook), Some(machine)) => logbook.rig_of(machine)?,
        _ => None,
    };
    let asked = args.rig.as_deref();
    let name = asked.or(recorded_as.as_deref()).unwrap_or("here");
    let recorded_by = match logbook {
        Some(logbook) => logbook.machine_of(name)?,
        None => None,
    };
    rig_name(
        &open.study,
        &Known {
            asked,
            rebuilt: args.rebuilt,
            machine,
            recorded_as: recorded_as.as_deref(),
            recorded_by: recorded_by.as_deref(),
        },
    )
}
