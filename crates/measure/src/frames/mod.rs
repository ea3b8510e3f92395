//! The frames of a lap, wherever they come from.

mod log;
pub(crate) mod presented;
mod source;

use crate::error::MeasureError;
use crate::lap::{Lap, LapResult};
use honest_lap_core::record::Outcome;
use log::Log;
use presented::{Capture, Tell};
pub(crate) use source::{Found, FrameSource, Lapped};

impl Lap<'_> {
    /// Prepares the source that the study names for the lap's frames, if it names one.
    pub(crate) fn frame_source<'b>(
        &'b self,
        tell: Tell<'b>,
    ) -> Result<Option<Box<dyn FrameSource + 'b>>, MeasureError> {
        let job = self.job;
        let kind = &job.workload.task.kind;
        if let Some(wanted) = kind.presented() {
            let wanted = (wanted, kind.against());
            let (place, signal) = (job.place, job.mark_signal);
            let capture = Capture::begin(place, job.name, job.mark, wanted, signal, tell)?;
            return Ok(Some(Box::new(capture)));
        }
        Ok(kind.frame_log().map(|log| Box::new(Log { lap: self, log }) as Box<dyn FrameSource>))
    }

    /// Keeps the frames that were found.
    pub(crate) fn keep_frames(&self, result: &mut LapResult) {
        let Some(Found { pass, wrong }) = result.frames.take() else { return };
        result.body.pass = pass.map(Box::new);
        if let Some((outcome, why)) = wrong {
            if result.outcome == Outcome::Done {
                result.outcome = outcome;
            }
            let earlier = result.body.reason.take();
            let all: Vec<String> = earlier.into_iter().chain([format!("frames: {why}")]).collect();
            result.body.reason = Some(all.join("; "));
        }
    }
}
