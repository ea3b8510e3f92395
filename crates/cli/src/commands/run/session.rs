//! One session: begun in the logbook, driven, each lap written down as it ends.

use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::progress::Progress;
use crate::sheets;
use honest_lap_core::forecast::Forecast;
use honest_lap_core::judge::{Ask, compare};
use honest_lap_core::lap::{LapBody, LapHead};
use honest_lap_core::rig::RigFound;
use honest_lap_core::schedule::PlannedLap;
use honest_lap_core::session::{SessionName, VersionLine};
use honest_lap_core::study::Study;
use honest_lap_core::workload::Workload;
use honest_lap_draw::{Role, Sheet};
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use honest_lap_measure::{
    Ending, Event, Place, Plan, PlannedPart, Sink, SinkError, Stop, UnderWay, drive, read_versions,
};

/// Returns a stop that Ctrl-C, a closing terminal or a polite kill requests.
pub(super) fn stop_on_signals() -> Result<Stop, CmdError> {
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
pub(super) struct Session<'a> {
    pub(super) rig: &'a str,
    pub(super) seed: u64,
    pub(super) found: &'a RigFound,
    pub(super) mark: String,
    pub(super) place: Place,
    pub(super) study: &'a Study,
    pub(super) workloads: &'a [Workload],
    pub(super) order: Vec<PlannedLap>,
    pub(super) forecast: Forecast,
    pub(super) logbook: Logbook,
}

impl Session<'_> {
    /// Drives the session; `report` is the form in which its result is printed, if it is.
    pub(super) fn drive(
        mut self,
        stop: &Stop,
        report: Option<FormatArg>,
        ctx: &Ctx,
    ) -> Result<Exit, CmdError> {
        let mut versions: Vec<VersionLine> = Vec::new();
        for workload in self.workloads {
            versions.extend(read_versions(workload, &self.place, &self.mark, stop)?);
        }
        let name = self.logbook.begin_session(&NewSession {
            rig: self.rig,
            mark: &self.mark,
            started: &ctx.now(),
            seed: self.seed,
            tool: env!("CARGO_PKG_VERSION"),
            found: self.found,
            versions: &versions,
        })?;
        let mut tasks = Vec::new();
        for workload in self.workloads {
            tasks.push(self.logbook.enter_task(&workload.name, &workload.task)?);
        }
        let parts = self.workloads.iter();
        let parts = parts.map(|workload| PlannedPart { workload, variants: workload.variants() });
        let plan = Plan {
            session: name.clone(),
            parts: parts.collect(),
            order: self.order,
            place: self.place,
            mark: self.mark,
        };
        ctx.ui.say(Role::Heading, &format!("session {name}: {} laps", plan.order.len()));
        let mut book = Bookkeeper {
            logbook: self.logbook,
            plan: &plan,
            tasks,
            forecast: self.forecast,
            started: String::new(),
            progress: Progress::new(ctx, &plan),
            ctx,
        };
        let ending = drive(&plan, stop, &mut book);
        drop(book.progress);
        UnderWay::clear(&plan.place);
        plan.place.clear();
        finish(ending?, &name, &book.logbook, self.study, report, ctx)
    }
}

/// Returns what the laps of this session alone say.
fn session_result(name: &SessionName, laps: &[LapHead], study: &Study) -> Sheet {
    let variants = study.workloads.iter().map(|w| (w.name.clone(), w.variants()));
    let ask = Ask { variant_order: variants.collect(), margin: study.margin, ..Ask::default() };
    let (views, spread) = compare(laps, &ask);
    let works = study.workloads.iter();
    let works = works.filter_map(|w| Some((w.name.clone(), w.task.work.clone()?))).collect();
    let sheet = sheets::compare(study, &views, &works, &[], spread, ask.margin);
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
