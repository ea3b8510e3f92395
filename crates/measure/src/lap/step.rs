//! Steps around a lap, and how any command of a lap is started.

use super::{Lap, LapResult, below};
use crate::error::MeasureError;
use crate::fill::NoCommand;
use crate::os::signal_name;
use crate::starter::{self, Order, Report, Spools};
use crate::stop::Stop;
use honest_lap_core::record::{Captured, Launch, Outcome, plain_line, plain_lines};
use honest_lap_core::unit::Nanos;

/// Why a step or a product was not as wanted.
pub(super) struct Failed {
    pub(super) reason: String,
    /// An outcome that says more than 'it failed'.
    pub(super) outcome: Option<Outcome>,
    pub(super) stdout: Captured,
    pub(super) stderr: Captured,
}

impl Failed {
    pub(super) fn because(reason: String) -> Self {
        let (stdout, stderr) = Default::default();
        Self { reason, outcome: None, stdout, stderr }
    }
}

/// How long a step behind a lap may take once everything is to end.
const CLEAN_UP_AFTER_STOP: Nanos = Nanos::from_seconds(30);

fn last_line(stream: &Captured) -> Option<String> {
    let bytes = if stream.tail.is_empty() { &stream.head } else { &stream.tail };
    plain_lines(bytes).into_iter().rev().find(|line| !line.trim().is_empty())
}

impl Lap<'_> {
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
    pub(super) fn step(
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

    pub(super) fn order(&self, launch: &Launch) -> Result<Order, NoCommand> {
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
}
