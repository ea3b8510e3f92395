//! What is seen while laps are run: a line a lap, and at a terminal a live line below.

use crate::background::Background;
use crate::ctx::Ctx;
use honest_lap_core::endurance::{Endured, Evidence};
use honest_lap_core::frame::Live;
use honest_lap_core::plan::Expected;
use honest_lap_core::record::{LapBody, LoadOutcome, Outcome, Reading, plain_line, plain_lines};
use honest_lap_core::unit::{Nanos, display_count, display_size, display_span};
use honest_lap_measure::{LapResult, LapStart, Meanwhile, Plan, Silence, SilentMeter};
use honest_lap_view::figure::went;
use honest_lap_view::number::fixed;
use honest_lap_view::sheet::pass_words;
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, lap_of, lap_time, left_words, reading_words, some_of};
use indicatif::{ProgressBar, ProgressStyle};
use std::time::{Duration, Instant};

/// The live line looks again this often: a clock that ticks, at no cost to the lap.
const TICK: Duration = Duration::from_secs(1);
/// A run that takes longer says when it should have ended.
const LONG: Nanos = Nanos::from_seconds(60);
/// By how much of what is left that must move to be said again.
const MOVED: f64 = 0.2;
/// Lines of a failed lap's output that are shown at once.
const LAST_LINES: usize = 5;

/// Shows a run under way.
pub struct Progress<'a> {
    ctx: &'a Ctx,
    bar: ProgressBar,
    /// Lets the time on the live line go on between what is told.
    ticking: Option<Background>,
    /// Widths of the columns of lap names and of what they are laps of.
    widths: (usize, usize),
    begun: Instant,
    /// Seconds from begin to end, as last told.
    told: Option<f64>,
    no_temperature_told: bool,
    /// The lap under way, in words.
    lap: String,
    /// Laps are not told one by one, but by workload: the one under way.
    brief: Option<ByWorkload>,
}

/// The laps of the workload under way, where they are told together.
#[derive(Default)]
struct ByWorkload {
    workload: String,
    laps: usize,
    begun: Option<Instant>,
    /// How long everything behind it should take.
    left: String,
}

fn tick(bar: ProgressBar) -> Background {
    Background::begin("live-line", move |until| {
        while until.goes_on_after(TICK) {
            bar.tick();
        }
    })
}

impl<'a> Progress<'a> {
    pub fn new(ctx: &'a Ctx, plan: &Plan<'_>, brief: bool) -> Self {
        let laps = plan.planner.order().len();
        let bar = ProgressBar::new(laps as u64);
        let look =
            ProgressStyle::with_template("lap {human_pos} of {human_len} · {msg} · {elapsed}");
        bar.set_style(look.expect("the template above is well formed"));
        let last = format!("{}.{}", plan.session, laps.max(99));
        let of = plan.parts.iter().flat_map(|part| {
            part.variants.iter().map(|settings| lap_of(&part.workload.name, settings))
        });
        let widest = of.map(|text| text.chars().count()).max().unwrap_or(0);
        let widths = (last.chars().count(), widest);
        Self {
            ctx,
            bar,
            ticking: None,
            widths,
            begun: Instant::now(),
            told: None,
            no_temperature_told: false,
            lap: String::new(),
            brief: brief.then(ByWorkload::default),
        }
    }

    /// Tells the laps of the workload under way together, if they are so told and there are any.
    fn tell_workload(&mut self) {
        let Some(told) = self.brief.as_mut().map(std::mem::take).filter(|told| told.laps > 0)
        else {
            return;
        };
        let took = told.begun.map(|begun| begun.elapsed().as_nanos()).unwrap_or_default();
        let took = display_span(Nanos(u64::try_from(took).unwrap_or(u64::MAX)));
        let left =
            if told.left.is_empty() { String::new() } else { format!("; {} left", told.left) };
        let (width, laps) = (self.widths.1, count(told.laps, "lap"));
        let line = format!("{:width$}  {laps} in {took}{left}", told.workload);
        self.bar.suspend(|| self.ctx.ui.say(Role::Plain, &line));
    }

    /// Shows which lap begins, and when everything should have ended; `budget` is what is left of
    /// the time, where that is what ends it.
    pub fn lap_starting(&mut self, start: &LapStart<'_>, left: Expected, budget: Option<Nanos>) {
        self.bar.set_length(start.total as u64);
        self.bar.set_position(start.place as u64);
        let what = lap_of(&start.workload.name, start.settings);
        if self.brief.as_ref().is_some_and(|told| told.workload != start.workload.name) {
            if let Some(told) = &mut self.brief {
                told.left = match left.unknown {
                    0 => left_words(left),
                    _ => count(start.total - start.place, "lap"),
                };
            }
            self.tell_workload();
            let workload = start.workload.name.clone();
            let begun = Some(Instant::now());
            self.brief = Some(ByWorkload { workload, begun, ..ByWorkload::default() });
        }
        let kind = if start.planned.warm_up { ", warm-up" } else { "" };
        let begun = self.begun;
        let spent = Nanos(u64::try_from(begun.elapsed().as_nanos()).unwrap_or(u64::MAX));
        let left = match budget {
            Some(budget) => Expected { time: budget.minus(spent), unknown: 0 },
            None => left,
        };
        let end = (left.unknown == 0).then(|| self.ctx.time_of_day_in(left.time));
        let ends = end.as_ref().map(|end| format!(", ends about {end}")).unwrap_or_default();
        let rule = start.workload.task.kind.load().zip(start.load);
        let at = rule.map(|(rule, place)| format!(", at {}", rule.text(place))).unwrap_or_default();
        let kind = format!("{kind}{at}");
        self.lap = format!("{what}{kind}");
        self.show(format!("{what}{kind} · {} left{ends}", left_words(left)));
        self.ticking.get_or_insert_with(|| tick(self.bar.clone()));
        self.tell_end(left, end);
    }

    /// Shows words on the live line, made safe: names and settings may come from anyone.
    fn show(&self, words: impl AsRef<str>) {
        self.bar.set_message(plain_line(words.as_ref()));
    }

    /// Says when a long run should have ended, and says so again when that has moved.
    fn tell_end(&mut self, left: Expected, end: Option<String>) {
        let Some(end) = end.filter(|_| left.time >= LONG) else { return };
        let spent = self.begun.elapsed().as_secs_f64();
        let total = spent + left.time.seconds();
        let moved = self.told.is_none_or(|told: f64| {
            (total - told).abs() > (MOVED * left.time.seconds()).max(LONG.seconds() / 2.0)
        });
        if moved {
            self.told = Some(total);
            let line = format!("ends about {end}, {} left", left_words(left));
            self.bar.suspend(|| self.ctx.ui.say(Role::Quiet, &line));
        }
    }

    /// Shows how a lap under way stands.
    pub fn meanwhile(&self, stands: Meanwhile<'_>) {
        let words = match stands {
            Meanwhile::Frames(live) => {
                live.map_or_else(|| "nothing presented yet".to_owned(), live_words)
            }
            Meanwhile::Summing { file, done, of } => {
                format!("not timed: summing {file}, {} of {}", display_size(done), display_size(of))
            }
        };
        self.show(format!("{} · {words}", self.lap));
    }

    pub fn resting(&self, span: Nanos) {
        self.show(format!("resting for {}", display_span(span)));
    }

    pub fn cooling(&self, hottest: f64, wanted: f64) {
        self.show(format!("resting: {hottest:.0} °C, until {wanted:.0} °C"));
    }

    pub fn still_warm(&self, hottest: f64, wanted: f64, waited: Nanos) {
        let waited = display_span(waited);
        let line = format!("still {hottest:.0} °C and not {wanted:.0} °C after a rest of {waited}");
        self.bar.suspend(|| self.ctx.ui.say_labelled("warning", Role::Open, &line));
    }

    pub fn no_temperature(&mut self) {
        if !std::mem::replace(&mut self.no_temperature_told, true) {
            let line = "no temperature can be read here, so no rest waits for one";
            self.bar.suspend(|| self.ctx.ui.say_labelled("warning", Role::Open, line));
        }
    }

    /// Warns of an outside meter from which nothing comes.
    pub fn meter_silent(&self, meter: &SilentMeter) {
        let SilentMeter { name, unit, why } = meter;
        let why = match why {
            Silence::Nothing => "it prints nothing".to_owned(),
            Silence::NoValue(line) => format!("it prints `{line}`, which is no value in {unit}"),
            Silence::Ended => "its command has ended".to_owned(),
        };
        let line = format!("meter {name}: {why}; laps have no value of it");
        self.bar.suspend(|| {
            self.ctx.ui.say_labelled("warning", Role::Open, &line);
            let remedy = format!("what to do about it: try the command of [meter.{name}] alone");
            self.ctx.ui.say(Role::Quiet, &remedy);
        });
    }

    pub fn lap_ended(&mut self, start: &LapStart<'_>, result: &LapResult) {
        let what = lap_of(&start.workload.name, start.settings);
        let kind = if start.planned.warm_up { "  warm-up" } else { "" };
        let load = start.workload.task.kind.load().zip(start.load);
        let (came_to, role) = match (result.outcome, load, result.came) {
            (_, Some((rule, place)), Some(came)) => {
                let role = if came == LoadOutcome::Held { Role::Plain } else { Role::Quiet };
                (format!("{} at {}", came.word(), rule.text(place)), role)
            }
            (Outcome::Done, ..) if start.workload.task.kind.endurance().is_some() => {
                (endured(start, result), Role::Plain)
            }
            (Outcome::Done, ..) => {
                let time = result.parts.or(result.wall).map(lap_time);
                (time.unwrap_or_default(), Role::Plain)
            }
            (Outcome::Interrupted, ..) => (result.outcome.phrase().to_owned(), Role::Open),
            (failed, ..) => (format!("failed: {}", failed.phrase()), Role::Failed),
        };
        if let Some(told) = &mut self.brief {
            told.laps += 1;
            // Only what went wrong is told by itself; how a load came out is no failure.
            if result.outcome == Outcome::Done || result.came.is_some() {
                return;
            }
        }
        self.bar.suspend(|| {
            let (name, (first, second)) = (start.name.to_string(), self.widths);
            self.ctx.ui.say(role, &format!("{name:first$}  {what:second$}  {came_to:>8}{kind}"));
            // What a lap of a search says of its load stands in its line already.
            let own = |reading: &&Reading| !reading.reports_time && load.is_none();
            let read = result.body.readings.iter().filter(own);
            let read: Vec<String> = read.map(reading_words).collect();
            if !read.is_empty() && result.outcome == Outcome::Done {
                self.ctx.ui.say(Role::Quiet, &format!("  {}", read.join(", ")));
            }
            if let Some(pass) = &result.body.pass {
                self.ctx.ui.say(Role::Quiet, &format!("  {}", pass_words(pass)));
                for other in some_of(&pass.about.also) {
                    self.ctx.ui.say(Role::Quiet, &format!("  also presented: {other}"));
                }
            }
            if let Some(reason) = &result.body.reason {
                self.ctx.ui.say(Role::Quiet, &format!("  {reason}"));
            }
            if !result.body.left_behind.is_empty() {
                let names = result.body.left_behind.join(", ");
                self.ctx.ui.say(Role::Open, &format!("  it left behind, and I ended: {names}"));
            }
            if result.outcome.is_failure() && result.came.is_none() {
                for line in last_lines(&result.body) {
                    self.ctx.ui.say(Role::Quiet, &format!("  | {line}"));
                }
            }
        });
    }

    pub fn gave_up(&self, start: &LapStart<'_>) {
        let what = lap_of(&start.workload.name, start.settings);
        self.bar.suspend(|| {
            let line = format!("{what} has failed twice in a row; its other laps are passed over");
            self.ctx.ui.say_labelled("warning", Role::Open, &line);
        });
    }
}

impl Drop for Progress<'_> {
    fn drop(&mut self) {
        self.tell_workload();
        drop(self.ticking.take());
        self.bar.finish_and_clear();
    }
}

/// Returns a pass under way in words: what it is now, what it was so far, what just hurt.
fn live_words(live: &Live) -> String {
    let rate = |rate: f64| fixed(rate, if rate < 100.0 { 1 } else { 0 });
    format!(
        "{} fps now, {} on average, worst frame of the last 5 s {} ms · {} frames",
        rate(live.current),
        rate(live.average),
        fixed(live.worst.seconds() * 1e3, 1),
        display_count(usize::try_from(live.frames).unwrap_or(usize::MAX))
    )
}

fn last_lines(body: &LapBody) -> Vec<String> {
    let stream = if body.stderr.total > 0 { &body.stderr } else { &body.stdout };
    let bytes = if stream.tail.is_empty() { &stream.head } else { &stream.tail };
    let lines = plain_lines(bytes);
    let from = lines.len().saturating_sub(LAST_LINES);
    lines[from..].iter().map(|line| line.chars().take(200).collect()).collect()
}

/// Returns what an endurance lap comes to, in words.
fn endured(start: &LapStart<'_>, result: &LapResult) -> String {
    let body = &result.body;
    let shown = body.pass.as_ref().map_or(&[][..], |pass| &pass.pass.shown);
    let evidence = Evidence { repeats: &body.repeats, frames: shown, traces: &body.traces };
    let found = Endured::of(&start.workload.task, start.settings, &evidence);
    let time = result.wall.map(lap_time).unwrap_or_default();
    let Some(found) = found else { return time };
    let rate = found.course.as_ref().map(|course| went(course, &found.unit));
    let hours = found.drain.as_ref().and_then(|drain| drain.as_ref().ok()).map(|drain| {
        let (full, ends) = drain.hours();
        format!("{full:.1} h of a full charge ({:.1} to {:.1})", ends.low, ends.high)
    });
    let words: Vec<String> = rate.into_iter().chain(hours).collect();
    if words.is_empty() { time } else { format!("{time}  {}", words.join("; ")) }
}
