//! An endurance lap: a task repeated for a stated time, a program that draws frames, or an idle wait.

use crate::error::MeasureError;
use crate::frames::presented::Tell;
use crate::lap::{Lap, LapResult, not_run};
use crate::os::{Look, now, on_mains, sampled, used_by_children};
use crate::sampler::Watcher;
use honest_lap_core::record::{EnduranceRule, Mode, Outcome, OwnWaits, Repeat, Sampled, Usage};
use honest_lap_core::unit::Nanos;

impl Lap<'_> {
    /// Runs an endurance lap as `rule` says, watched at its own pace.
    pub(crate) fn endure(
        &self,
        rule: &EnduranceRule,
        watcher: &mut Watcher,
        tell: Tell<'_>,
    ) -> Result<LapResult, MeasureError> {
        if let Some(why) = self.not_on_battery(rule) {
            return Ok(not_run(Outcome::NotStarted, why));
        }
        watcher.look_every(Some(rule.look_every));
        let once = rule.idle || self.job.workload.task.kind.draws();
        let ran = if once { self.once(watcher, tell) } else { self.repeat(rule, watcher, tell) };
        watcher.look_every(None);
        let mut result = ran?;
        if rule.on_battery && result.outcome == Outcome::Done && self.on_mains() == Some(true) {
            result.outcome = Outcome::ReadingFailed;
            result.body.reason =
                Some("mains was plugged in meanwhile: leave it unplugged to the end".to_owned());
        }
        Ok(result)
    }

    fn on_mains(&self) -> Option<bool> {
        on_mains(self.job.machine)
    }

    /// Returns why a lap that is to be run on the battery cannot be.
    fn not_on_battery(&self, rule: &EnduranceRule) -> Option<String> {
        match self.on_mains().filter(|_| rule.on_battery) {
            Some(true) => Some(
                "the machine runs on mains, and this is run on the battery: unplug it".to_owned(),
            ),
            None if rule.on_battery => Some("the machine shows no battery to be run on".to_owned()),
            _ => None,
        }
    }

    /// Runs what runs for the whole time by itself.
    fn once(&self, watcher: &mut Watcher, tell: Tell<'_>) -> Result<LapResult, MeasureError> {
        let mut result = self.run(watcher, tell)?;
        self.read(&mut result)?;
        self.clean_up(&mut result)?;
        Ok(result)
    }

    /// Runs the task again and again until the time is over; the last repetition is run to its end.
    fn repeat(
        &self,
        rule: &EnduranceRule,
        watcher: &mut Watcher,
        tell: Tell<'_>,
    ) -> Result<LapResult, MeasureError> {
        let machine = self.job.machine;
        let watch = watcher.start().map_err(|source| MeasureError::Starter { source })?;
        let mut unwatched = watcher.beside();
        let (begun, before, ours) = (now(), Look::take(machine), used_by_children());
        let mut repeats = Vec::new();
        let mut used = Usage::default();
        let (mut slept, mut left_behind) = (Nanos(0), Vec::new());
        let mut modes: Option<Vec<Mode>> = None;
        let mut own: Option<OwnWaits> = None;
        let mut result = loop {
            let mut result = self.run(&mut unwatched, tell)?;
            self.keep_frames(&mut result);
            self.clean_up(&mut result)?;
            add(&mut used, &result);
            let waits = result.body.conditions.own;
            own = Some(own.map_or(waits, |own| own.and(waits)));
            slept = slept.plus(result.body.conditions.slept.unwrap_or_default());
            left_behind.append(&mut result.body.left_behind);
            modes = Some(joined(modes, std::mem::take(&mut result.body.conditions.modes)));
            let started = result.started.and_then(|started| started.since(begun));
            let (Outcome::Done, Some(began), Some(took)) = (result.outcome, started, result.wall)
            else {
                break result;
            };
            repeats.push(Repeat { began, took });
            if now().since(begun).unwrap_or_default() >= rule.lasts {
                break result;
            }
            if self.job.stop.requested() {
                result.outcome = Outcome::Interrupted;
                break result;
            }
        };
        let after = Look::take(machine);
        let traces = watcher.finish(watch);
        if result.outcome != Outcome::Done {
            let why = result.body.reason.take();
            let said = format!("in repetition {}", repeats.len() + 1);
            result.body.reason = Some(why.map_or(said.clone(), |why| format!("{said}: {why}")));
        }
        left_behind.sort_unstable();
        left_behind.dedup();
        result.body.left_behind = left_behind;
        let last = repeats.last().map(|last: &Repeat| last.began.plus(last.took));
        let first = repeats.first().map(|first| first.began);
        result.wall = last.zip(first).map(|(last, first)| last.minus(first));
        result.body.usage = (!repeats.is_empty()).then_some(used);
        // What starting them and the steps about them used is no other program's.
        let all = used_by_children();
        let all = Usage {
            user: all.user.minus(ours.user),
            system: all.system.minus(ours.system),
            ..used
        };
        result.body.conditions = before.until(&after, Some(&all), slept);
        result.body.conditions.own = own.unwrap_or_default();
        let looked = result.body.conditions.sampled.looked;
        result.body.conditions.modes = modes.unwrap_or_default();
        result.body.conditions.sampled = Sampled { looked, ..sampled(&traces, machine) };
        result.body.conditions.other_programs = watcher.named(&result.body.conditions);
        result.body.traces = traces;
        result.body.repeats = repeats;
        Ok(result)
    }
}

/// Returns how the program was set from its first repetition to the last.
fn joined(first: Option<Vec<Mode>>, last: Vec<Mode>) -> Vec<Mode> {
    let Some(first) = first else { return last };
    let both = first.into_iter().zip(last);
    both.map(|(first, last)| Mode { before: first.before.or(first.after), ..last }).collect()
}

/// Adds what a repetition used.
fn add(used: &mut Usage, result: &LapResult) {
    if let Some(usage) = &result.body.usage {
        used.user = used.user.plus(usage.user);
        used.system = used.system.plus(usage.system);
        used.peak_bytes = used.peak_bytes.max(usage.peak_bytes);
        used.peak_floor_bytes = used.peak_floor_bytes.max(usage.peak_floor_bytes);
    }
}
