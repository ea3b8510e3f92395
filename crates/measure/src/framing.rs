//! The frames of a lap whose program writes down how long they took.

use crate::lap::{Lap, LapResult, below};
use crate::starter::Spools;
use honest_lap_core::frame::{Cut, Digest, PassAbout};
use honest_lap_core::lap::{Outcome, RecordedPass};
use honest_lap_core::workload::{FrameLog, Source};
use honest_lap_frame_log::{As, TimeUnit, Which, Wish};
use std::fs::File;

impl Lap<'_> {
    /// Reads the frames that the lap wrote down; where that cannot be done, the reading failed.
    pub(crate) fn read_frames(&self, spools: &Spools, result: &mut LapResult) {
        let task = &self.job.workload.task;
        let Some(log) = &task.frames else { return };
        match self.frames(log, spools) {
            Ok(pass) => result.body.pass = Some(Box::new(pass)),
            Err(why) => {
                result.outcome = Outcome::ReadingFailed;
                result.body.reason = Some(format!("frames: {why}"));
            }
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
        let digest = Digest::of(&read.pass, &Cut::default(), self.job.workload.task.display)
            .ok_or_else(|| format!("{name}: no frames"))?;
        let about = PassAbout {
            log: name,
            // The log itself is a product of the lap, where its checksum is wanted.
            log_sha256: None,
            read_as: read.read_as,
            faults: read.faults,
            marks: read.marks,
            digest,
        };
        Ok(RecordedPass { about, pass: read.pass })
    }
}

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
