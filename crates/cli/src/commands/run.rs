//! `lap run`: drives laps, writing each down before the next begins.

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::progress::Progress;
use crate::rig_name::{Known, rig_name};
use crate::study_file::{OpenStudy, read_study};
use crate::{lock, sheets};
use honest_lap_core::forecast::Forecast;
use honest_lap_core::judge::{Ask, compare};
use honest_lap_core::lap::{LapBody, LapHead};
use honest_lap_core::rig::RigFound;
use honest_lap_core::schedule::{Part, PlannedLap, laps_driven, order};
use honest_lap_core::session::{SessionName, VersionLine};
use honest_lap_core::study::Study;
use honest_lap_core::workload::Workload;
use honest_lap_draw::{Role, Sheet};
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use honest_lap_measure::{
    Ending, Event, Place, Plan, PlannedPart, Sink, SinkError, Stop, UnderWay, drive, read_rig,
    read_versions,
};
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
    };
    let report = report.then_some(args.output.format);
    drive_session(session, order, forecast, logbook, &stop, report, ctx)
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

/// Returns a stop that Ctrl-C, a closing terminal or a polite kill requests.
fn stop_on_signals() -> Result<Stop, CmdError> {
    let failed = |err: std::io::Error| CmdError::io("watch", "signals".as_ref(), &err);
    let (read, write) = std::os::unix::net::UnixStream::pair().map_err(failed)?;
    for signal in
        [signal_hook::consts::SIGINT, signal_hook::consts::SIGTERM, signal_hook::consts::SIGHUP]
    {
        let write = write.try_clone().map_err(failed)?;
        signal_hook::low_level::pipe::register(signal, write).map_err(failed)?;
    }
    Ok(Stop::new(read.into()))
}

/// What a session is made of before it has a name.
struct Session<'a> {
    rig: &'a str,
    seed: u64,
    found: &'a RigFound,
    mark: String,
    place: Place,
    study: &'a Study,
    workloads: &'a [Workload],
}

fn drive_session(
    session: Session<'_>,
    order: Vec<PlannedLap>,
    forecast: Forecast,
    mut logbook: Logbook,
    stop: &Stop,
    report: Option<FormatArg>,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let mut versions: Vec<VersionLine> = Vec::new();
    for workload in session.workloads {
        versions.extend(read_versions(workload, &session.place, &session.mark, stop)?);
    }
    let name = logbook.begin_session(&NewSession {
        rig: session.rig,
        mark: &session.mark,
        started: &ctx.now(),
        seed: session.seed,
        tool: env!("CARGO_PKG_VERSION"),
        found: session.found,
        versions: &versions,
    })?;
    let mut tasks = Vec::new();
    for workload in session.workloads {
        tasks.push(logbook.enter_task(&workload.name, &workload.task)?);
    }
    let parts = session.workloads.iter();
    let parts = parts.map(|workload| PlannedPart { workload, variants: workload.variants() });
    let plan = Plan {
        session: name.clone(),
        parts: parts.collect(),
        order,
        place: session.place,
        mark: session.mark,
    };
    ctx.ui.say(Role::Heading, &format!("session {name}: {} laps", plan.order.len()));
    let mut book = Bookkeeper {
        logbook,
        plan: &plan,
        tasks,
        forecast,
        started: String::new(),
        progress: Progress::new(ctx, &plan),
        ctx,
    };
    let ending = drive(&plan, stop, &mut book);
    drop(book.progress);
    UnderWay::clear(&plan.place);
    plan.place.clear();
    finish(ending?, &name, &book.logbook, session.study, report, ctx)
}

/// Returns what the laps of this session alone say.
fn session_result(name: &SessionName, laps: &[LapHead], study: &Study) -> Sheet {
    let variants = study.workloads.iter().map(|w| (w.name.clone(), w.variants()));
    let ask = Ask { variant_order: variants.collect(), margin: study.margin, ..Ask::default() };
    let (views, spread) = compare(laps, &ask);
    let works = study.workloads.iter();
    let works = works.filter_map(|w| Some((w.name.clone(), w.task.work.clone()?))).collect();
    let sheet = sheets::compare(study, &views, &works, spread, ask.margin);
    Sheet { title: Some(format!("session {name}")), lead: Vec::new(), ..sheet }
}

fn finish(
    ending: Ending,
    name: &SessionName,
    logbook: &Logbook,
    study: &Study,
    report: Option<FormatArg>,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let laps = logbook.laps_of(name)?;
    if let Some(format) = report {
        ctx.ui.print(&session_result(name, &laps, study), format)?;
    }
    let failed = laps.iter().filter(|lap| lap.outcome.is_failure()).count();
    match ending {
        Ending::Stopped => {
            let line = format!("stopped; the {} laps driven so far are kept", laps.len());
            ctx.ui.say_labelled("note", Role::Open, &line);
            Ok(Exit::Measurement)
        }
        Ending::Complete if failed > 0 => {
            let line =
                format!("{failed} of {} laps failed; `lap show LAP` shows one in full", laps.len());
            ctx.ui.say_labelled("warning", Role::Failed, &line);
            Ok(Exit::Measurement)
        }
        Ending::Complete => {
            if report.is_some() {
                ctx.ui.say(Role::Quiet, "next: lap compare");
            }
            Ok(Exit::Done)
        }
    }
}

/// Writes laps down as they end, and shows how far things are.
struct Bookkeeper<'a> {
    logbook: Logbook,
    plan: &'a Plan<'a>,
    /// The number of each part's task.
    tasks: Vec<u32>,
    forecast: Forecast,
    /// When the lap under way began.
    started: String,
    progress: Progress<'a>,
    ctx: &'a Ctx,
}

impl Sink for Bookkeeper<'_> {
    fn event(&mut self, event: &Event<'_>) -> Result<(), SinkError> {
        match event {
            Event::LapStarting(start) => {
                self.started = self.ctx.now();
                UnderWay {
                    mark: self.plan.mark.clone(),
                    lap: start.name.to_string(),
                    workload: start.workload.name.clone(),
                    settings: start.settings.clone(),
                    task: self.tasks[start.planned.part],
                    round: start.planned.round,
                    warm_up: start.planned.warm_up,
                    started: self.started.clone(),
                }
                .write(&self.plan.place)?;
                let parts = &self.plan.parts;
                let left = &self.plan.order[start.place - 1..];
                let left = self.forecast.of(left, |part| parts[part].workload.rest);
                self.progress.lap_starting(start, left);
            }
            Event::LapEnded(start, result) => {
                let body =
                    LapBody { started: std::mem::take(&mut self.started), ..result.body.clone() };
                self.logbook.append_lap(&NewLap {
                    name: start.name,
                    task: self.tasks[start.planned.part],
                    settings: start.settings,
                    round: start.planned.round,
                    warm_up: start.planned.warm_up,
                    outcome: result.outcome,
                    wall: result.wall,
                    body: &body,
                })?;
                if let (false, Some(wall)) = (result.outcome.is_failure(), result.wall) {
                    self.forecast.add(start.planned.part, start.planned.variant, wall);
                }
                // Only what is on the disk is announced.
                self.progress.lap_ended(start, result);
            }
            Event::Resting(span) => self.progress.resting(*span),
            Event::GaveUp(start) => self.progress.gave_up(start),
        }
        Ok(())
    }
}
