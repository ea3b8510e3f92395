//! The frames of a lap: those that its program wrote down, and those that it presented.

use crate::error::MeasureError;
use crate::lap::{Lap, LapResult, below};
use crate::presented::{Capture, Caught, Tell};
use crate::starter::{Ended, Spools};
use honest_lap_core::record::{
    Cut, Digest, FrameLog, Outcome, PassAbout, Presented, RecordedPass, Source,
};
use honest_lap_core::unit::{Nanos, display_span};
use honest_lap_frame_log::{As, TimeUnit, Which, Wish};
use std::fs::File;

impl Lap<'_> {
    /// Reads the frames that the lap wrote down; where that cannot be done, the reading failed.
    pub(crate) fn read_frames(&self, spools: &Spools, result: &mut LapResult) {
        let task = &self.job.workload.task;
        let Some(log) = task.kind.frame_log() else { return };
        let read = self.frames(log, spools);
        match read.and_then(|pass| whole(pass, result.wall)) {
            Ok(pass) => result.body.pass = Some(Box::new(pass)),
            Err(why) => {
                result.outcome = Outcome::ReadingFailed;
                result.body.reason = Some(format!("frames: {why}"));
            }
        }
    }

    /// Puts in place what notes the frames that the lap presents.
    pub(crate) fn capture<'b>(
        &'b self,
        wanted: &'b Presented,
        tell: Tell<'b>,
    ) -> Result<Capture<'b>, MeasureError> {
        let job = self.job;
        Capture::begin(job.place, job.name, job.mark, wanted, job.mark_signal, tell)
    }

    /// Returns whether the lap had done its work when it was ended: it had all the frames that were
    /// asked for, or no number was asked for, and a person ended it.
    pub(crate) fn ended_well(&self, ended: &Ended, caught: &Caught) -> bool {
        let ends = self.job.workload.task.kind.presented().map(|wanted| wanted.ends);
        let open = ends.is_some_and(|ends| ends.frames.is_none() && ends.time.is_none());
        ended.asked && (caught.over || open)
    }

    /// Keeps the frames that were presented, whatever came of the lap: what a program showed before
    /// it was killed was shown. Only a lap that was done may fail by them.
    pub(crate) fn keep_presented(&self, caught: &Caught, result: &mut LapResult) {
        let task = &self.job.workload.task;
        let Some(wanted) = task.kind.presented() else { return };
        let done = result.outcome == Outcome::Done;
        let why = match caught.pass(wanted, task.kind.against()) {
            Ok(made) => {
                result.body.pass = Some(Box::new(made.pass));
                made.short.map(|short| (Outcome::WrongOutput, short))
            }
            Err(why) => Some((Outcome::ReadingFailed, why)),
        };
        if let Some((outcome, why)) = why {
            if done {
                result.outcome = outcome;
            }
            let earlier = result.body.reason.take();
            let all: Vec<String> = earlier.into_iter().chain([format!("frames: {why}")]).collect();
            result.body.reason = Some(all.join("; "));
        }
    }

    fn frames(&self, log: &FrameLog, spools: &Spools) -> Result<RecordedPass, String> {
        let spooled = |path: &Option<String>| path.clone().ok_or("nothing was printed".to_owned());
        let (name, path) = match &log.source {
            Source::Output => ("standard output".to_owned(), spooled(&spools.stdout)?),
            Source::Errors => ("standard error".to_owned(), spooled(&spools.stderr)?),
            Source::File(file) => {
                let path = self.values.text(file).map_err(|err| err.to_string())?;
                (file.source().to_owned(), below(self.job.place.study(), &path))
            }
        };
        let file = File::open(&path).map_err(|err| format!("{name}: {err}"))?;
        let read = honest_lap_frame_log::read(&file, &wish(log))
            .map_err(|err| format!("{name}: {err}; {}", err.help().unwrap_or("is it complete?")))?;
        let digest = Digest::of(&read.pass, &Cut::default(), self.job.workload.task.kind.against())
            .ok_or_else(|| format!("{name}: no frames"))?;
        let about = PassAbout {
            log: name,
            // The log itself is a product of the lap, where its checksum is wanted.
            log_sha256: None,
            read_as: read.read_as,
            faults: read.faults,
            marks: read.marks,
            also: Vec::new(),
            digest,
        };
        Ok(RecordedPass { about, pass: read.pass })
    }
}

/// Returns the pass, unless it cannot be all that the lap's program showed, and no more.
fn whole(recorded: RecordedPass, wall: Option<Nanos>) -> Result<RecordedPass, String> {
    let RecordedPass { about, pass } = &recorded;
    if about.faults.truncated > 0 {
        return Err(format!(
            "{}: its last row is cut short, so more may be missing; the program must write out its log before it ends",
            about.log
        ));
    }
    let frames = Nanos(pass.shown.iter().sum());
    match wall {
        // Two clocks go alike to some parts in a thousand.
        Some(wall) if frames.seconds() > wall.seconds() * CLOCKS + LEAST_MORE => Err(format!(
            "{}: its frames last {} and the lap {}: is it of this lap, and is its unit right?",
            about.log,
            display_span(frames),
            display_span(wall)
        )),
        _ => Ok(recorded),
    }
}

/// How much longer than its lap a pass may last by clocks that go unlike: as a factor, and in seconds.
const CLOCKS: f64 = 1.002;
const LEAST_MORE: f64 = 0.02;

/// Returns how the study says that a log is read.
fn wish(log: &FrameLog) -> Wish {
    let which = |text: &Option<String>| text.as_deref().map(Which::parse);
    Wish {
        column: which(&log.column),
        unit: log.unit.as_deref().and_then(TimeUnit::from_word),
        reading: match log.reading.as_deref() {
            Some("durations") => Some(As::Durations),
            Some("moments") => Some(As::Moments),
            _ => None,
        },
        processor: which(&log.processor),
        graphics: which(&log.graphics),
    }
}
