//! `lap run`: drives laps, writing each down before the next begins.

mod session;

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::rig_name::{Known, rig_name};
use crate::study_file::{OpenStudy, read_study};
use crate::{lock, sheets};
use honest_lap_core::forecast::Forecast;
use honest_lap_core::lap::LapHead;
use honest_lap_core::rig::RigFound;
use honest_lap_core::schedule::{Part, laps_driven, order};
use honest_lap_core::workload::Workload;
use honest_lap_draw::Role;
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Place, read_rig};
use session::{Session, stop_on_signals};
use std::path::Path;

/// Drive laps: warm-ups, then rounds in which the variants take turns
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap run                         every workload, as the study says\n  lap run --preview               only say what would be driven\n  \
                        lap run dome-still --laps 10    ten counted laps of each variant of one workload\n  lap run --rig heron             say which rig this machine is"
)]
pub struct RunArgs {
    /// Workloads to drive; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// The rig that this machine is; remembered for this machine [default: the one it was]
    #[arg(long, value_name = "NAME")]
    rig: Option<String>,
    /// Keep the rig's name although its system was set up anew
    #[arg(long, requires = "rig")]
    rebuilt: bool,
    /// Counted laps of each variant [default: the study's]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    laps: Option<u32>,
    /// Warm-up laps of each variant [default: the study's]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(0..=1_000))]
    warm_up: Option<u32>,
    /// The seed of the order, to repeat one [default: a new one]
    #[arg(long, value_name = "N")]
    seed: Option<u64>,
    /// Say what would be driven, in which order, and how long it should take; drive nothing
    #[arg(long)]
    preview: bool,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &RunArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    run_in(args, &read_study(cli, ctx)?, true, ctx)
}

impl RunArgs {
    /// Returns the arguments with which the demo drives this machine.
    pub fn as_rig(rig: &str, laps: u32) -> Self {
        Self {
            workloads: Vec::new(),
            rig: Some(rig.to_owned()),
            rebuilt: false,
            laps: Some(laps),
            warm_up: None,
            seed: None,
            preview: false,
            output: OutputArgs { format: FormatArg::Text },
        }
    }
}

/// Drives, or previews, laps of the study `open`; `report` prints the session when it is over.
pub fn run_in(args: &RunArgs, open: &OpenStudy, report: bool, ctx: &Ctx) -> Result<Exit, CmdError> {
    let workloads = chosen(args, open)?;
    let found = read_rig(Path::new("/"));
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let rig = this_rig(args, open, &found, existing.as_ref())?;
    let seed = args.seed.map_or_else(|| ctx.random(), Ok)?;
    let parts: Vec<Part> = workloads
        .iter()
        .map(|w| Part { variants: w.variants().len(), laps: w.laps, warm_up: w.warm_up })
        .collect();
    let order = order(&parts, seed);
    let forecast = forecast(&workloads, &rig, existing.as_ref())?;
    drop(existing);
    if args.preview {
        let sheet = sheets::preview(&workloads, &order, &rig, seed, &forecast);
        ctx.ui.print(&sheet, args.output.format)?;
        return Ok(Exit::Done);
    }
    tell_rounding(args, &workloads, ctx);
    let stop = stop_on_signals()?;
    let place = Place::new(&open.folder, &ctx.tool()?)?;
    let _lock = lock::take(&place)?;
    let mut logbook = Logbook::create_or_open(&open.logbook())?;
    lock::recover(&place, &mut logbook, ctx)?;
    let session = Session {
        rig: &rig,
        seed,
        found: &found,
        mark: ctx.mark()?,
        place,
        study: &open.study,
        workloads: &workloads,
        order,
        forecast,
        logbook,
    };
    session.drive(&stop, report.then_some(args.output.format), ctx)
}

/// Returns the workloads asked for, with what the command line says instead of the study.
fn chosen(args: &RunArgs, open: &OpenStudy) -> Result<Vec<Workload>, CmdError> {
    let all = &open.study.workloads;
    let names: Vec<&str> = all.iter().map(|workload| workload.name.as_str()).collect();
    if let Some(unknown) = args.workloads.iter().find(|name| !names.contains(&name.as_str())) {
        let near = names
            .iter()
            .filter(|name| strsim::damerau_levenshtein(unknown, name) <= 1 + name.len() / 4)
            .min_by_key(|name| strsim::damerau_levenshtein(unknown, name));
        let help = near.map_or_else(
            || format!("the study has: {}", names.join(", ")),
            |near| format!("did you mean `{near}`?"),
        );
        return Err(CmdError::request(format!("the study has no workload `{unknown}`"), help));
    }
    let wanted = |w: &&Workload| args.workloads.is_empty() || args.workloads.contains(&w.name);
    Ok(all
        .iter()
        .filter(wanted)
        .map(|workload| Workload {
            laps: args.laps.unwrap_or(workload.laps),
            warm_up: args.warm_up.unwrap_or(workload.warm_up),
            ..workload.clone()
        })
        .collect())
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

/// Returns what earlier laps on this rig say about how long laps take.
fn forecast(
    workloads: &[Workload],
    rig: &str,
    logbook: Option<&Logbook>,
) -> Result<Forecast, CmdError> {
    let mut forecast = Forecast::default();
    let Some(logbook) = logbook else { return Ok(forecast) };
    let laps = logbook.laps()?;
    for (part, workload) in workloads.iter().enumerate() {
        let task = logbook.task_number(&workload.name, &workload.task)?;
        for (variant, settings) in workload.variants().iter().enumerate() {
            let same = |lap: &&LapHead| {
                lap.name.session.rig == rig
                    && lap.workload == workload.name
                    && Some(lap.task) == task
                    && lap.settings == *settings
            };
            for wall in laps.iter().filter(same).filter_map(LapHead::counted) {
                forecast.add(part, variant, wall);
            }
        }
    }
    Ok(forecast)
}

fn tell_rounding(args: &RunArgs, workloads: &[Workload], ctx: &Ctx) {
    for workload in workloads {
        let driven = laps_driven(workload.variants().len(), workload.laps);
        if driven != workload.laps {
            let (name, asked) = (&workload.name, workload.laps);
            let who = if args.laps.is_some() { "--laps" } else { "the study" };
            let line = format!(
                "{name}: {driven} laps of each of its two variants, not {asked} as {who} says: \
                 pairs are driven A B B A, in even number"
            );
            ctx.ui.say_labelled("note", Role::Quiet, &line);
        }
    }
}
