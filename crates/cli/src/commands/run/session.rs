//! One session: begun in the logbook, run, each lap written down as it ends.

use super::result::print_result;
use super::resume::Resumed;
use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::progress::Progress;
use crate::rig_key::sign;
use crate::working::Working;
use honest_lap_core::capacity::{ByHand, is_failure, searches};
use honest_lap_core::lab::load_rules;
use honest_lap_core::plan::{Forecast, Part, Planner, looks};
use honest_lap_core::record::{
    Goal, LapBody, Remark, RemarkKind, RigFound, SessionAbout, SessionName, Study, Subject,
    VersionLine, Workload,
};
use honest_lap_core::unit::{display_share, display_span};
use honest_lap_logbook::{Logbook, NewLap, NewSession, OpenSession};
use honest_lap_measure::{
    Ending, Event, Machine, MarkSignal, Place, Plan, PlannedPart, Sink, SinkError, Stop, UnderWay,
    read_versions, run_laps,
};
use honest_lap_view::table::Role;
use std::collections::BTreeMap;

/// What a session is made of before it has a name.
pub(super) struct Session<'a> {
    pub(super) rig: &'a str,
    pub(super) seed: u64,
    pub(super) found: &'a RigFound,
    pub(super) mark: String,
    pub(super) mark_signal: &'a MarkSignal,
    pub(super) place: Place,
    pub(super) machine: Machine,
    pub(super) watched: bool,
    pub(super) study: &'a Study,
    pub(super) workloads: &'a [Workload],
    pub(super) about: SessionAbout,
    pub(super) planner: Planner,
    pub(super) forecast: Forecast,
    /// The session that is resumed, if one is.
    pub(super) resumed: Option<Resumed>,
    pub(super) logbook: Logbook,
    /// Whether a line a workload is said in place of a line a lap.
    pub(super) brief: bool,
}

impl Session<'_> {
    /// Runs the session; `report` is the form in which its result is printed, if it is.
    pub(super) fn run(
        mut self,
        stop: &Stop,
        report: Option<FormatArg>,
        ctx: &Ctx,
    ) -> Result<Exit, CmdError> {
        let resumed = self.resumed.as_ref().map(|resumed| resumed.name.clone());
        let session = match resumed {
            Some(name) => self.go_on(&name, ctx)?,
            None => self.begin(stop, ctx)?,
        };
        let name = session.name.clone();
        let parts = self.workloads.iter();
        let parts = parts.map(|workload| PlannedPart { workload, variants: workload.variants() });
        let (driven, places, tried, last_number, spent) =
            self.resumed.map_or_else(Default::default, |r| {
                (r.driven, r.places, r.tried, r.last_number, r.spent)
            });
        let starts = starts(self.workloads, self.rig, &self.logbook)?;
        let mut planner = self.planner;
        // What a budget ran before is part of the order again.
        for lap in places {
            planner.place_of(lap);
        }
        let plan = Plan {
            session: name.clone(),
            parts: parts.collect(),
            planner,
            forecast: self.forecast,
            driven,
            tried,
            starts,
            last_number,
            spent,
            place: self.place,
            machine: self.machine,
            watched: self.watched,
            meters: &self.study.meters,
            mark: self.mark,
            mark_signal: Some(self.mark_signal),
        };
        announce(&plan, ctx);
        let mut book = Bookkeeper {
            logbook: self.logbook,
            session,
            plan: &plan,
            started: String::new(),
            progress: Progress::new(ctx, &plan, self.brief),
            ctx,
        };
        let ending = run_laps(&plan, stop, &mut book);
        drop(book.progress);
        UnderWay::clear(&plan.place);
        plan.place.clear();
        let ending = ending?;
        sign(&mut book.logbook, &[&book.session], ctx)?;
        finish(ending, &plan, &book.logbook, self.study, report, ctx)
    }
}

impl Session<'_> {
    /// Begins a new session in the logbook.
    fn begin(&mut self, stop: &Stop, ctx: &Ctx) -> Result<OpenSession, CmdError> {
        let mut versions: Vec<VersionLine> = Vec::new();
        let working = Working::on("asking for versions, summing inputs");
        for workload in self.workloads {
            versions.extend(read_versions(workload, &self.place, &self.mark, stop)?);
        }
        drop(working);
        Ok(self.logbook.begin_session(&NewSession {
            rig: self.rig,
            mark: &self.mark,
            started: &ctx.now(),
            seed: self.seed,
            tool: env!("CARGO_PKG_VERSION"),
            found: self.found,
            versions: &versions,
            about: &self.about,
        })?)
    }

    /// Notes beside a session that it is resumed.
    fn go_on(&mut self, name: &SessionName, ctx: &Ctx) -> Result<OpenSession, CmdError> {
        let against = self.about.against.join("; ");
        let state = if against.is_empty() { String::new() } else { format!(" ({against})") };
        let remark = Remark {
            kind: RemarkKind::Note,
            subject: Subject::Session(name.clone()),
            made: ctx.now(),
            text: format!("resumed after an interruption{state}"),
        };
        self.logbook.append_remark(&remark, &ctx.mark()?)?;
        Ok(self.logbook.open_session(name)?)
    }
}

/// Returns where the searches of each part and variant begin: at the edge that the last one on this rig found.
fn starts(
    workloads: &[Workload],
    rig: &str,
    logbook: &Logbook,
) -> Result<BTreeMap<(usize, usize), usize>, CmdError> {
    let (rules, laps) = (load_rules(&logbook.tasks()?), logbook.laps()?);
    let mut starts = BTreeMap::new();
    for search in searches(&laps, &rules, &ByHand::new()) {
        let (Some((last, _)), Some(edge)) = (search.laps.last(), search.edge) else { continue };
        let part = workloads.iter().position(|workload| {
            workload.name == last.workload && workload.task.kind.load() == Some(search.rule)
        });
        let variant = part.and_then(|part| {
            workloads[part].variants().iter().position(|settings| *settings == last.settings)
        });
        if let (Some(part), Some(variant), true) = (part, variant, last.name.session.rig == rig) {
            starts.insert((part, variant), edge.at.max(0.0) as usize);
        }
    }
    Ok(starts)
}

/// Says what is about to be run, what ends it, and when that should be.
fn announce(plan: &Plan<'_>, ctx: &Ctx) {
    let (laps, name) = (plan.planner.order().len(), &plan.session);
    let done = plan.driven.len();
    let what = if done > 0 { format!("{done} of {laps} laps run") } else { format!("{laps} laps") };
    let goal = match plan.planner.goal() {
        Goal::All => what,
        Goal::Until(share) => {
            let looks: Vec<String> = plan
                .parts
                .iter()
                .map(|part| {
                    let (variants, block) = (part.variants.len(), part.workload.block());
                    let laps = part.workload.laps;
                    let at = looks(&Part { variants, block, laps, warm_up: 0 });
                    let at: Vec<String> = at.iter().map(ToString::to_string).collect();
                    format!("{} after {} laps", part.workload.name, at.join(", "))
                })
                .collect();
            let share = display_share(share);
            format!("at most {what}; looked at for ±{share}: {}", looks.join("; "))
        }
        Goal::Budget(span) => format!("{} of laps, at least {what}", display_span(span)),
    };
    ctx.ui.say(Role::Heading, &format!("session {name}: {goal}"));
}

fn finish(
    ending: Ending,
    plan: &Plan<'_>,
    logbook: &Logbook,
    study: &Study,
    report: Option<FormatArg>,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let name = &plan.session;
    let laps = logbook.laps_of(name)?;
    if let Some(format) = report {
        print_result(std::slice::from_ref(name), logbook, study, format, ctx)?;
    }
    // A load that broke is what was asked for, and no failure.
    let failed = laps.iter().filter(|lap| is_failure(lap)).count();
    match ending {
        Ending::Stopped => {
            let line = format!(
                "stopped; the {} laps run so far are kept, and `lap run --resume` goes on",
                laps.len()
            );
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
    session: OpenSession,
    plan: &'a Plan<'a>,
    /// When the lap under way began.
    started: String,
    progress: Progress<'a>,
    ctx: &'a Ctx,
}

impl Sink for Bookkeeper<'_> {
    fn event(&mut self, event: &Event<'_>) -> Result<(), SinkError> {
        match event {
            Event::LapStarting(start, left) => {
                self.started = self.ctx.now();
                UnderWay {
                    mark: self.plan.mark.clone(),
                    session: self.session.mark().to_owned(),
                    number: start.name.number,
                    workload: start.workload.name.clone(),
                    settings: start.settings.clone(),
                    task: start.workload.task.clone(),
                    round: start.planned.round,
                    warm_up: start.planned.warm_up,
                    started: self.started.clone(),
                    place: start.place,
                    total: start.total,
                    left: left.time,
                    unknown: left.unknown,
                }
                .write(&self.plan.place)?;
                let budget = match self.plan.planner.goal() {
                    Goal::Budget(span) => Some(span.minus(self.plan.spent)),
                    Goal::All | Goal::Until(_) => None,
                };
                self.progress.lap_starting(start, *left, budget);
            }
            Event::Meanwhile(stands) => self.progress.meanwhile(*stands),
            Event::LapEnded(start, result) => {
                let body =
                    LapBody { started: std::mem::take(&mut self.started), ..result.body.clone() };
                let lap = NewLap {
                    number: start.name.number,
                    workload: &start.workload.name,
                    task: &start.workload.task,
                    settings: start.settings,
                    round: start.planned.round,
                    warm_up: start.planned.warm_up,
                    outcome: result.outcome,
                    wall: result.wall,
                    parts: result.parts,
                    step: None,
                    body: &body,
                };
                self.logbook.append_lap(&self.session, &lap)?;
                // Only what is on the disk is announced.
                self.progress.lap_ended(start, result);
            }
            Event::Resting(span) => self.progress.resting(*span),
            Event::Cooling { hottest, wanted } => self.progress.cooling(*hottest, *wanted),
            Event::StillWarm { hottest, wanted, waited } => {
                self.progress.still_warm(*hottest, *wanted, *waited);
            }
            Event::NoTemperature => self.progress.no_temperature(),
            Event::MeterSilent(meter) => self.progress.meter_silent(meter),
            Event::GaveUp(start) => self.progress.gave_up(start),
        }
        Ok(())
    }
}
