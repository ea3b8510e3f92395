//! What came of a lap: by how its program ended, and by what it produced.

use super::step::Failed;
use super::{Lap, LapResult, below};
use crate::error::MeasureError;
use crate::frames::presented::Tell;
use crate::last_words::last_words;
use crate::meanwhile::Meanwhile;
use crate::os::signal_name;
use crate::picture::read_picture;
use crate::product::{Expected, Identity, inspect};
use crate::starter::Ended;
use honest_lap_core::record::{Launch, Outcome, Produced, Unfilled, plain_line};
use honest_lap_core::unit::{Nanos, display_span};
use std::path::PathBuf;

impl Lap<'_> {
    /// Returns what came of a lap by how its program ended, and why; `by_us` says that it had done its work and was ended by
    /// us.
    pub(super) fn came(&self, ended: &Ended, by_us: bool) -> (Outcome, Option<String>) {
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
    pub(super) fn judge(
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

    pub(super) fn expected(&self) -> Result<Vec<(Expected, Option<&Launch>)>, Unfilled> {
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
