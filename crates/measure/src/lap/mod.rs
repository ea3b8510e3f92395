//! One lap: its folder, the steps ahead of it, the timed program, its products, the steps behind.

mod judged;
mod step;

use crate::error::{During, MeasureError};
use crate::fill::Values;
use crate::frames::presented::{MarkSignal, Tell};
use crate::frames::{Found, Lapped};
use crate::os::{Look, Machine, now, sampled};
use crate::place::Place;
use crate::reading::Budgeted;
use crate::sampler::Watcher;
use crate::starter::{self, Order, Report};
use crate::stop::Stop;
use honest_lap_core::capacity;
use honest_lap_core::record::{
    CACHE, COLD, LapBody, LapName, Launch, LoadOutcome, LoadRule, Outcome, Sampled, Settings,
    Strained, Workload, plain_line, plain_lines,
};
use honest_lap_core::unit::{Nanos, Stamp};
use std::fs;
use std::path::Path;

/// What came of a lap.
#[derive(Clone, Debug, PartialEq)]
pub struct LapResult {
    /// In one word.
    pub outcome: Outcome,
    /// Time from start to reap, if it was started.
    pub wall: Option<Nanos>,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// What came of it at its load, where it is a lap of a search that says so.
    pub came: Option<LoadOutcome>,
    /// When its program was started.
    pub(crate) started: Option<Stamp>,
    /// How many bytes it appended to the file of its marks.
    pub(crate) watched: u64,
    /// What came of its frames, until it is kept.
    pub(crate) frames: Option<Found>,
    /// The rest; `started` is left for whoever reads the wall clock.
    pub body: LapBody,
}

/// Everything a lap needs.
pub(crate) struct Job<'a> {
    pub(crate) name: &'a LapName,
    pub(crate) workload: &'a Workload,
    pub(crate) settings: &'a Settings,
    pub(crate) place: &'a Place,
    pub(crate) mark: &'a str,
    pub(crate) stop: &'a Stop,
    pub(crate) mark_signal: Option<&'a MarkSignal>,
    pub(crate) machine: &'a Machine,
    /// Whether the lap ahead of it left a cache that it is to find.
    pub(crate) warm: Warm,
    /// The place of the load that it is run at, where it is a lap of a search.
    pub(crate) load: Option<usize>,
}

/// What a lap needs of the lap ahead of it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Warm {
    /// Nothing: the steps ahead of it are taken.
    Fresh,
    /// A full cache, and the lap ahead filled it.
    Filled,
    /// A full cache, and there is none.
    NotFilled,
}

/// Runs one lap. What goes wrong with the lap is its result; an error is ours.
pub(crate) fn drive_lap(
    job: &Job<'_>,
    watcher: &mut Watcher,
    tell: Tell<'_>,
) -> Result<LapResult, MeasureError> {
    let lap_dir = job.place.lap_dir(job.name, job.workload.keep);
    let path = Path::new(&lap_dir);
    fs::create_dir_all(path).during("create", path)?;
    let rule = job.workload.task.kind.load().zip(job.load);
    let load = rule.map(|(rule, place)| rule.text(place));
    let seconds = job.workload.task.kind.endurance().map(|rule| rule.lasts.seconds().to_string());
    let values = Values {
        lap_dir: Some(&lap_dir),
        load: load.as_deref(),
        seconds: seconds.as_deref(),
        ..Values::of(job.place, job.settings)
    };
    let lap = Lap { job, values };
    if let Some(rule) = job.workload.task.kind.endurance() {
        let result = lap.endure(rule, watcher, tell)?;
        if !job.workload.keep {
            let _ = fs::remove_dir_all(path);
        }
        return Ok(result);
    }
    let mut result = lap.run(watcher, tell)?;
    lap.read(&mut result)?;
    if let Some((rule, place)) = rule {
        tell_load(rule, place, &mut result);
    }
    // What comes warm behind a cold lap still needs what that left.
    if !(job.workload.task.fills_cache && job.settings.get(CACHE) == Some(COLD)) {
        lap.clean_up(&mut result)?;
    }
    if !job.workload.keep {
        let _ = fs::remove_dir_all(path);
    }
    Ok(result)
}

/// Notes the load of a lap, and what came of it.
fn tell_load(rule: &LoadRule, place: usize, result: &mut LapResult) {
    let found = match &rule.strained {
        Some(Strained::Pattern(pattern)) => finds(pattern, &result.body),
        _ => Ok(false),
    };
    // Without the answer it is not known whether the load was held.
    let found = found.unwrap_or_else(|why| {
        if result.outcome == Outcome::Done {
            (result.outcome, result.body.reason) = (Outcome::ReadingFailed, Some(why));
        }
        false
    });
    let (exit_code, read) = (result.body.exit_code, &result.body.readings);
    let digest = result.body.pass.as_ref().map(|pass| &pass.about.digest);
    let on_time = digest.and_then(|digest| digest.paced.as_ref()).map(|paced| paced.on_time);
    result.came = rule.came(result.outcome, exit_code, read, found, on_time);
    result.body.readings.extend(capacity::readings(rule, place, result.came));
}

/// Returns whether a line of what is kept of a lap's output is found by `pattern`.
fn finds(pattern: &str, body: &LapBody) -> Result<bool, String> {
    let pattern = Budgeted::new(pattern)?;
    let kept = [&body.stdout, &body.stderr].into_iter().flat_map(|said| [&said.head, &said.tail]);
    for line in kept.flat_map(|bytes| plain_lines(bytes)) {
        pattern.check()?;
        if pattern.regex().is_match(&line) {
            return Ok(true);
        }
    }
    Ok(false)
}

pub(crate) struct Lap<'a> {
    pub(crate) job: &'a Job<'a>,
    pub(crate) values: Values<'a>,
}

impl Lap<'_> {
    /// Runs the program once, with the steps ahead of it, and looks at what it produced.
    pub(crate) fn run(
        &self,
        watcher: &mut Watcher,
        tell: Tell<'_>,
    ) -> Result<LapResult, MeasureError> {
        let task = &self.job.workload.task;
        let Some(command) = &task.command else {
            let why = "people do this workload, and the tool cannot";
            return Ok(not_run(Outcome::NotStarted, why.to_owned()));
        };
        let mut order = match self.order(command) {
            Ok(order) => {
                let noted = Some(self.job.place.starter().display().to_string());
                let (spools, watched) = (self.spools()?, watcher.watches());
                Order { spools, watched, noted, terminal: task.terminal, ..order }
            }
            Err(err) => return Ok(not_run(Outcome::NotStarted, err.to_string())),
        };
        let before: &[Launch] = match self.job.warm {
            Warm::Fresh => &task.before,
            Warm::Filled => &[],
            Warm::NotFilled => {
                let why = "the cold lap ahead of it did not fill the cache";
                return Ok(not_run(Outcome::BeforeFailed, why.to_owned()));
            }
        };
        let mut result = not_run(Outcome::Done, String::new());
        result.body.reason = None;
        result.body.command = order.command.clone();
        result.body.folder = order.folder.clone();
        for step in before {
            if let Some(failed) =
                self.step("step before it", step, self.job.stop, self.job.workload.limit)?
            {
                result.outcome = failed.outcome.unwrap_or(Outcome::BeforeFailed);
                result.body.reason = Some(failed.reason);
                (result.body.stdout, result.body.stderr) = (failed.stdout, failed.stderr);
                return Ok(result);
            }
        }
        let modes = self.modes_ahead();
        let expected = match self.expected() {
            Ok(expected) => expected,
            Err(err) => return Ok(not_run(Outcome::NotStarted, err.to_string())),
        };
        let mut source = self.frame_source(&mut *tell)?;
        if let Some(source) = &source {
            // What is said last holds: the recorder's variables hold what was there too.
            order.environment.extend(source.environment(&order.environment));
        }
        let machine = self.job.machine;
        let failed = |source| MeasureError::Starter { source };
        let watch = watcher.start().map_err(failed)?;
        let before = Look::take(machine);
        let beside = source.as_mut().and_then(|source| source.look());
        result.started = Some(now());
        let report = starter::run_beside(&order, self.job.mark, self.job.stop, beside);
        let after = Look::take(machine);
        let traces = watcher.finish(watch);
        let report = report?;
        match report {
            Report::NotStarted(why) => {
                result.outcome = Outcome::NotStarted;
                result.body.reason = Some(plain_line(&why));
            }
            Report::Ended(ended) => {
                let usage = Some(&ended.usage);
                result.body.conditions = before.until(&after, usage, ended.slept);
                result.body.conditions.own = ended.own;
                let seen = &mut result.body.conditions.sampled;
                let looked = seen.looked;
                let (tree, tree_peak_by) = (ended.tree, ended.tree_peak.map(|peak| peak.by));
                let tree_peak_bytes = ended.tree_peak.map(|peak| peak.bytes);
                *seen = Sampled {
                    looked,
                    tree,
                    tree_peak_bytes,
                    tree_peak_by,
                    ..sampled(&traces, machine)
                };
                let others = watcher.named(&result.body.conditions);
                result.body.conditions.other_programs = others;
                // Two looks are in what they come to; only more of them make a course.
                if traces.at_ms.len() > 2 || task.kind.endurance().is_some() {
                    result.body.traces = traces;
                }
                result.watched = ended.watched_bytes;
                let by_us = ended.asked && source.as_ref().is_some_and(|source| source.ends_well());
                let came = self.came(&ended, by_us);
                let lapped = Lapped {
                    done: came.0 == Outcome::Done,
                    wall: (ended.wall > Nanos(0)).then_some(ended.wall),
                    command: &order.command,
                    folder: Path::new(&order.folder),
                    spools: &order.spools,
                };
                result.frames = source.and_then(|source| source.finish(&lapped));
                self.judge(*ended, came, &expected, (tell, &mut result))?;
                self.modes_behind(modes, &order.spools, &mut result);
            }
        }
        Ok(result)
    }
}

pub(crate) fn not_run(outcome: Outcome, reason: String) -> LapResult {
    let body = LapBody { reason: Some(reason), ..LapBody::default() };
    LapResult {
        outcome,
        wall: None,
        parts: None,
        came: None,
        started: None,
        watched: 0,
        frames: None,
        body,
    }
}

/// Returns `path` as seen from the study's folder.
pub(crate) fn below(study: &str, path: &str) -> String {
    if path.starts_with('/') { path.to_owned() } else { format!("{study}/{path}") }
}
