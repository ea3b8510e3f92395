//! One lap: its folder, the steps ahead of it, the timed program, its products, the steps behind.

use crate::error::{During, MeasureError};
use crate::fill::{NoCommand, Values};
use crate::frames::presented::{MarkSignal, Tell};
use crate::frames::{Found, Lapped};
use crate::last_words::last_words;
use crate::meanwhile::Meanwhile;
use crate::os::{Look, Machine, now, sampled, signal_name};
use crate::picture::read_picture;
use crate::place::Place;
use crate::product::{Expected, Identity, inspect};
use crate::reading::Budgeted;
use crate::sampler::Watcher;
use crate::starter::{self, Ended, Order, Report, Spools};
use crate::stop::Stop;
use honest_lap_core::capacity;
use honest_lap_core::record::{
    CACHE, COLD, Captured, LapBody, LapName, Launch, LoadOutcome, LoadRule, Outcome, Produced,
    Sampled, Settings, Strained, Unfilled, Workload, plain_line, plain_lines,
};
use honest_lap_core::unit::{Nanos, Stamp, display_span};
use std::fs;
use std::path::{Path, PathBuf};

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

/// How long a step behind a lap may take once everything is to end.
const CLEAN_UP_AFTER_STOP: Nanos = Nanos::from_seconds(30);

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

    /// Returns what came of a lap by how its program ended, and why; `by_us` says that it had done its work and was ended by
    /// us.
    fn came(&self, ended: &Ended, by_us: bool) -> (Outcome, Option<String>) {
        let accepted = &self.job.workload.task.exit_codes;
        let limit = self.job.workload.limit;
        match (ended, ended.exit_code, ended.signal) {
            _ if by_us => (Outcome::Done, None),
            (Ended { asked: true, .. }, ..) => (Outcome::Interrupted, Some("ended by hand".into())),
            (Ended { over_limit: true, .. }, ..) => {
                (Outcome::OverLimit, Some(format!("ended at its limit of {}", display_span(limit))))
            }
            (_, _, Some(signal)) => {
                (Outcome::Signal, Some(format!("ended by signal {}", signal_name(signal))))
            }
            (_, Some(code), _) if !accepted.contains(&code) => {
                let wanted: Vec<String> = accepted.iter().map(ToString::to_string).collect();
                let wanted = wanted.join(" or ");
                (Outcome::ExitCode, Some(format!("exit code {code}, and {wanted} is wanted")))
            }
            (_, Some(_), _) => (Outcome::Done, None),
            (_, None, None) => (Outcome::Signal, Some("how it ended is not known".into())),
        }
    }

    /// Turns what came of the program, and what it produced, into an outcome.
    fn judge(
        &self,
        ended: Ended,
        (outcome, reason): (Outcome, Option<String>),
        expected: &[(Expected, Option<&Launch>)],
        (tell, result): (Tell<'_>, &mut LapResult),
    ) -> Result<(), MeasureError> {
        result.wall = (ended.wall > Nanos(0)).then_some(ended.wall);
        (result.outcome, result.body.reason) = (outcome, reason);
        result.body.exit_code = ended.exit_code;
        result.body.signal = ended.signal;
        result.body.usage = result.wall.map(|_| ended.usage);
        result.body.left_behind = ended.left_behind.iter().map(|name| plain_line(name)).collect();
        (result.body.stdout, result.body.stderr) = (ended.stdout, ended.stderr);
        if let (true, Some(words)) = (outcome.is_failure(), last_words(&result.body)) {
            let reason = result.body.reason.get_or_insert_default();
            reason.push_str("; it last said: ");
            reason.push_str(&words);
        }
        let (produced, wrong) = self.inspect(expected, outcome == Outcome::Done, tell)?;
        result.body.produced = produced;
        if outcome == Outcome::Done && wrong.is_none() {
            result.body.reason = look_at(expected, &mut result.body.produced);
        }
        if let (Outcome::Done, Some(wrong)) = (outcome, wrong) {
            result.outcome = wrong.outcome.unwrap_or(Outcome::WrongOutput);
            result.body.reason = Some(wrong.reason);
        }
        Ok(())
    }

    /// Looks at every product; the check commands run only where the program itself did well.
    fn inspect(
        &self,
        expected: &[(Expected, Option<&Launch>)],
        checks: bool,
        tell: Tell<'_>,
    ) -> Result<(Vec<Produced>, Option<Failed>), MeasureError> {
        let mut all = Vec::new();
        let mut first_wrong: Option<Failed> = None;
        for (expected, check) in expected {
            let mut told = Ok(());
            let (produced, wrong) = inspect(expected, self.job.stop, &mut |done, of| {
                if told.is_ok() {
                    told = tell(Meanwhile::Summing { file: &expected.named, done, of });
                }
            });
            told?;
            let mut wrong = wrong.map(Failed::because);
            if let (None, Some(check), true) = (&wrong, check, checks) {
                let what = format!("the check of `{}`", expected.named);
                wrong = self.step(&what, check, self.job.stop, self.job.workload.limit)?;
            }
            all.push(produced);
            first_wrong = first_wrong.or(wrong);
        }
        Ok((all, first_wrong))
    }

    /// Runs the steps behind the lap, whatever came of it: they corrected what it or the steps
    /// ahead of it left. Its time is known by then; a failing step is a remark.
    pub(crate) fn clean_up(&self, result: &mut LapResult) -> Result<(), MeasureError> {
        let mut stop = self.job.stop;
        let mut limit = self.job.workload.limit;
        let never = Stop::never().map_err(|source| MeasureError::Starter { source })?;
        if stop.requested() {
            // Ctrl-C is no reason to leave a mess, nor to wait for long.
            (stop, limit) = (&never, limit.min(CLEAN_UP_AFTER_STOP));
        }
        for step in &self.job.workload.task.after {
            if let Some(failed) = self.step("step behind it", step, stop, limit)? {
                let earlier = result.body.reason.take();
                let remarks: Vec<String> = earlier.into_iter().chain([failed.reason]).collect();
                result.body.reason = Some(remarks.join("; "));
            }
        }
        Ok(())
    }

    /// Runs an untimed step; `None` if it did well.
    fn step(
        &self,
        what: &str,
        launch: &Launch,
        stop: &Stop,
        limit: Nanos,
    ) -> Result<Option<Failed>, MeasureError> {
        let order = match self.order(launch) {
            Ok(order) => Order { stdin: None, limit, ..order },
            Err(err) => return Ok(Some(Failed::because(err.to_string()))),
        };
        let words = plain_line(&order.command.join(" "));
        match starter::run(&order, self.job.mark, stop)? {
            Report::NotStarted(why) => {
                let reason = format!("{what} could not start: {}", plain_line(&why));
                Ok(Some(Failed::because(reason)))
            }
            Report::Ended(ended) if ended.exit_code == Some(0) && !ended.asked => Ok(None),
            Report::Ended(ended) => {
                let how = match (ended.asked, ended.over_limit, ended.exit_code, ended.signal) {
                    (true, ..) => "was ended by hand".to_owned(),
                    (_, true, ..) => "was ended at the limit".to_owned(),
                    (_, _, Some(code), _) => format!("ended with exit code {code}"),
                    (.., signal) => {
                        format!("was ended by signal {}", signal_name(signal.unwrap_or(0)))
                    }
                };
                let said = last_line(&ended.stderr).or_else(|| last_line(&ended.stdout));
                let said = said.map(|line| format!(", saying `{line}`")).unwrap_or_default();
                Ok(Some(Failed {
                    reason: format!("{what} (`{words}`) {how}{said}"),
                    outcome: ended.asked.then_some(Outcome::Interrupted),
                    stdout: ended.stdout,
                    stderr: ended.stderr,
                }))
            }
        }
    }

    fn order(&self, launch: &Launch) -> Result<Order, NoCommand> {
        let workload = self.job.workload;
        let task = &workload.task;
        let text = |template| self.values.text(template);
        let study = self.job.place.study();
        let folder = match &task.folder {
            Some(folder) => below(study, &text(folder)?),
            None => study.to_owned(),
        };
        let mut environment = Vec::new();
        for (name, value) in &task.environment {
            environment.push((name.clone(), text(value)?));
        }
        let stdin = match &task.stdin {
            Some(file) => Some(below(study, &text(file)?)),
            None => None,
        };
        let command = self.values.command(launch)?;
        let (limit, spools, watched) = (workload.limit, Spools::default(), false);
        // A step around the lap has none: what it says is told if it fails.
        let (noted, terminal) = (None, false);
        Ok(Order { command, folder, environment, stdin, terminal, limit, spools, noted, watched })
    }

    fn expected(&self) -> Result<Vec<(Expected, Option<&Launch>)>, Unfilled> {
        let mut all = Vec::new();
        let pictures = &self.job.workload.same_pictures;
        for product in &self.job.workload.task.produces {
            let path =
                PathBuf::from(below(self.job.place.study(), &self.values.text(&product.file)?));
            let before = Identity::of(&path);
            let expected = Expected {
                path,
                named: product.file.source().to_owned(),
                at_least: product.at_least,
                sha256: product.sha256.clone(),
                before,
                is_picture: pictures.iter().any(|(file, _)| file == product.file.source()),
            };
            all.push((expected, product.check.as_ref()));
        }
        Ok(all)
    }
}

/// Looks at the pictures among what was produced; returns which could not be looked at, and why.
fn look_at(expected: &[(Expected, Option<&Launch>)], produced: &mut [Produced]) -> Option<String> {
    let mut remarks = Vec::new();
    let pictures = expected.iter().zip(produced).filter(|((expected, _), _)| expected.is_picture);
    for ((expected, _), produced) in pictures {
        match read_picture(&expected.path) {
            Ok(picture) => produced.picture = Some(picture),
            Err(why) => {
                remarks.push(format!("`{}` cannot be compared as a picture: {why}", expected.named))
            }
        }
    }
    (!remarks.is_empty()).then(|| remarks.join("; "))
}

/// Why a step or a product was not as wanted.
struct Failed {
    reason: String,
    /// An outcome that says more than 'it failed'.
    outcome: Option<Outcome>,
    stdout: Captured,
    stderr: Captured,
}

impl Failed {
    fn because(reason: String) -> Self {
        let (stdout, stderr) = Default::default();
        Self { reason, outcome: None, stdout, stderr }
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

fn last_line(stream: &Captured) -> Option<String> {
    let bytes = if stream.tail.is_empty() { &stream.head } else { &stream.tail };
    plain_lines(bytes).into_iter().rev().find(|line| !line.trim().is_empty())
}
