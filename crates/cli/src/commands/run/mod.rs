//! `lap run`: runs laps, writing each down before the next begins.

mod resume;
mod retest;
mod session;

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lock;
use crate::mark_signal::mark_on_signal;
use crate::rig_name::{Known, rig_name};
use crate::stop_signals::stop_on_signals;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::plan::{Forecast, Part, Planner, obstacles};
use honest_lap_core::record::{
    Campaign, CampaignPart, Goal, LapHead, RigFound, SessionAbout, Workload,
};
use honest_lap_core::unit::{Nanos, parse_celsius, parse_share, parse_span};
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Machine, Place, on_mains, read_rig, read_state};
use honest_lap_view::sheet;
use honest_lap_view::table::Role;
use session::Session;
use std::path::{Path, PathBuf};

/// Run laps: warm-ups, then rounds in which the variants take turns
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap run                         every workload, as the study says\n  lap run --preview               only say what would be run\n  \
                        lap run dome-still --laps 10    ten counted laps of each variant of one workload\n  lap run --rig heron             say which rig this machine is\n  \
                        lap run --until 1%              end early once every figure is known to 1 %\n  lap run --budget 2h             run what is least certain, for two hours\n  \
                        lap run --retest                run what would resolve the doubts about this rig\n  \
                        lap run --resume                go on where an interrupted run stood"
)]
pub struct RunArgs {
    /// Workloads to run; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// The rig that this machine is; remembered for this machine [default: the one it was]
    #[arg(long, value_name = "NAME")]
    rig: Option<String>,
    /// Keep the rig's name although its system was set up anew
    #[arg(long, requires = "rig")]
    rebuilt: bool,
    /// Counted laps of each variant [default: the study's; with --until, 30 at most]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    laps: Option<u32>,
    /// Warm-up laps of each variant [default: the study's]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(0..=1_000))]
    warm_up: Option<u32>,
    /// End a workload at one of three announced looks once all its figures are to this precision
    #[arg(long, value_name = "SHARE", value_parser = precision)]
    until: Option<f64>,
    /// Spend this much time, on whatever is least certain
    #[arg(long, value_name = "TIME", value_parser = budget, conflicts_with_all = ["until", "laps"])]
    budget: Option<Nanos>,
    /// Go on with an interrupted session where it stood [default: the last one of this rig]
    #[arg(
        long,
        value_name = "SESSION",
        num_args = 0..=1,
        default_missing_value = "",
        conflicts_with_all = ["workloads", "laps", "warm_up", "until", "budget", "seed"]
    )]
    resume: Option<String>,
    /// Run failed laps of the session again too; they stay on record
    #[arg(long, requires = "resume")]
    again: bool,
    /// Run exactly the laps that would resolve this rig's doubts and open comparisons
    #[arg(long, conflicts_with_all = ["laps", "until", "budget", "resume"])]
    retest: bool,
    /// The seed of the order, to repeat one [default: a new one]
    #[arg(long, value_name = "N")]
    seed: Option<u64>,
    /// Room temperature, such as 21.5C, recorded with the session
    #[arg(long, value_name = "TEMPERATURE", value_parser = room)]
    room: Option<f64>,
    /// A remark, recorded with the session
    #[arg(long, value_name = "TEXT")]
    remark: Option<String>,
    /// Read the machine's files below this folder instead of /, as of a simulated machine
    #[arg(long, value_name = "DIR")]
    machine_root: Option<PathBuf>,
    /// Do not watch the machine while laps run
    #[arg(long)]
    unwatched: bool,
    /// Say what would be run, in which order, and how long it should take; run nothing
    #[arg(long)]
    preview: bool,
    /// Whether a line a workload is said in place of a line a lap: the demo is not about single laps.
    #[arg(skip)]
    brief: bool,
    #[command(flatten)]
    output: OutputArgs,
}

/// The most counted laps of a variant where a run ends by itself.
const MOST_LAPS_UNTIL: u32 = 30;
/// How long the machine is watched ahead of a run.
const GLANCE: Nanos = Nanos(300_000_000);

fn precision(text: &str) -> Result<f64, String> {
    match parse_share(text) {
        Ok(share) if share > 0.0 && share < 1.0 => Ok(share),
        Ok(_) => Err("a precision lies above 0 % and below 100 %".to_owned()),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

fn budget(text: &str) -> Result<Nanos, String> {
    match parse_span(text) {
        Ok(Nanos(0)) => Err("that is no time at all".to_owned()),
        Ok(span) => Ok(span),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

fn room(text: &str) -> Result<f64, String> {
    parse_celsius(text).map_err(|err| format!("{err}; {}", err.remedy))
}

pub fn run(args: &RunArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    run_in(args, &read_study(cli, ctx)?, true, ctx)
}

impl RunArgs {
    /// Returns the arguments with which the demo runs this machine.
    pub fn as_rig(rig: &str, workloads: &[&str], laps: u32) -> Self {
        Self {
            workloads: workloads.iter().map(|name| (*name).to_owned()).collect(),
            rig: Some(rig.to_owned()),
            rebuilt: false,
            laps: Some(laps),
            warm_up: None,
            until: None,
            budget: None,
            resume: None,
            again: false,
            retest: false,
            seed: None,
            room: None,
            remark: None,
            machine_root: None,
            unwatched: false,
            preview: false,
            brief: true,
            output: OutputArgs { format: FormatArg::Text },
        }
    }

    /// Returns them with another machine's sensors, and what is to be said of the session.
    pub fn on(self, machine: PathBuf, remark: &str) -> Self {
        Self { machine_root: Some(machine), remark: Some(remark.to_owned()), ..self }
    }

    fn goal(&self) -> Goal {
        match (self.until, self.budget) {
            (Some(target), _) => Goal::Until(target),
            (_, Some(budget)) => Goal::Budget(budget),
            _ => Goal::All,
        }
    }
}

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
        false => Some(take_over(&place, open, ctx)?),
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
                true => retest::only(chosen, &rig, open, existing.as_ref(), ctx)?,
                false => chosen,
            }
        }
    };
    if workloads.is_empty() {
        ctx.ui.say(Role::Plain, &format!("no lap on {rig} would resolve anything: lap doubts"));
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
        mark: ctx.mark()?,
        mark_signal: &mark_signal,
        place,
        machine,
        watched: !args.unwatched,
        study: &open.study,
        workloads: &workloads,
        about: SessionAbout {
            room_c: args.room,
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
fn take_over(place: &Place, open: &OpenStudy, ctx: &Ctx) -> Result<lock::Locks, CmdError> {
    let locks = lock::take(place)?;
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

/// Returns the campaign that runs `workloads`.
fn campaign(workloads: &[Workload], goal: Goal) -> Campaign {
    let part = |workload: &Workload| CampaignPart {
        workload: workload.name.clone(),
        variants: workload.variants(),
        block: workload.block(),
        laps: workload.laps,
        // A lap that is to find an empty cache cannot be warmed up for.
        warm_up: if workload.task.fills_cache { 0 } else { workload.warm_up },
    };
    Campaign { parts: workloads.iter().map(part).collect(), goal }
}

/// Returns the workloads asked for, with what the command line says instead of the study.
fn chosen(args: &RunArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Vec<Workload>, CmdError> {
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
    let (driven, by_hand): (Vec<&Workload>, Vec<&Workload>) =
        all.iter().filter(wanted).partition(|workload| workload.task.command.is_some());
    for workload in &by_hand {
        let name = &workload.name;
        let how = if workload.task.kind.load().is_some() { "try its loads" } else { "time it" };
        let line = format!("{name} is done by hand: {how} with `lap clock {name}`");
        ctx.ui.say_labelled("note", Role::Quiet, &line);
    }
    if driven.is_empty() {
        return Err(CmdError::request(
            "the tool can run none of these workloads: people do them",
            "time one with `lap clock WORKLOAD`, or type its times in with `lap enter`",
        ));
    }
    let most = args.until.map(|_| MOST_LAPS_UNTIL);
    Ok(driven
        .into_iter()
        .map(|workload| Workload {
            // Of a load each is a search, and how many laps that takes it knows itself.
            laps: match workload.task.kind.load() {
                Some(_) => workload.laps,
                // Nor does a lap of hours tell sooner how many of it are enough.
                None if workload.task.kind.endurance().is_some() => {
                    args.laps.unwrap_or(workload.laps)
                }
                None => args.laps.or(most).unwrap_or(workload.laps),
            },
            warm_up: match workload.task.kind.load() {
                Some(_) => 0,
                None => args.warm_up.unwrap_or(workload.warm_up),
            },
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
    let laps = logbook.map(Logbook::laps).transpose()?.unwrap_or_default();
    for (part, workload) in workloads.iter().enumerate() {
        let number = |book: &Logbook| book.task_number(&workload.name, &workload.task);
        let task = logbook.map(number).transpose()?.flatten();
        for (variant, settings) in workload.variants().iter().enumerate() {
            let same = |lap: &&LapHead| {
                lap.name.session.rig == rig
                    && lap.workload == workload.name
                    && Some(lap.task) == task
                    && lap.settings == *settings
            };
            let mut known = laps.iter().filter(same).filter_map(LapHead::counted).peekable();
            // An endurance lap says itself how long it takes.
            let lasts = workload.task.kind.endurance().map(|rule| rule.lasts);
            let lasts = lasts.filter(|_| known.peek().is_none());
            for wall in known.chain(lasts) {
                forecast.add(part, variant, wall);
            }
        }
    }
    Ok(forecast)
}

fn tell_rounding(args: &RunArgs, workloads: &[Workload], ctx: &Ctx) {
    for workload in workloads {
        let (variants, block) = (workload.variants().len(), workload.block());
        let driven = Part { variants, block, laps: workload.laps, warm_up: 0 }.driven();
        if driven != workload.laps {
            let (name, asked) = (&workload.name, workload.laps);
            let who = if args.laps.is_some() { "--laps" } else { "the study" };
            let line = format!(
                "{name}: {driven} laps of each of its two variants, not {asked} as {who} says: \
                 pairs are run A B B A, in even number"
            );
            ctx.ui.say_labelled("note", Role::Quiet, &line);
        }
    }
}
