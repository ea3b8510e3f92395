//! Frames that a lap's program wrote down in a log.

use super::source::{Found, FrameSource, Lapped};
use crate::lap::{Lap, below};
use crate::starter::Spools;
use honest_lap_core::record::{Cut, Digest, FrameLog, Outcome, PassAbout, RecordedPass, Source};
use honest_lap_core::unit::{Nanos, display_span};
use honest_lap_frame_log::{As, TimeUnit, Which, Wish};
use std::fs::File;

/// The log of a lap.
pub(super) struct Log<'a> {
    pub(super) lap: &'a Lap<'a>,
    pub(super) log: &'a FrameLog,
}

impl FrameSource for Log<'_> {
    fn finish(self: Box<Self>, lap: &Lapped<'_>) -> Option<Found> {
        let read = lap.done.then(|| self.lap.frames(self.log, lap.spools))?;
        Some(match read.and_then(|pass| whole(pass, lap.wall)) {
            Ok(pass) => Found { pass: Some(pass), wrong: None },
            Err(why) => Found { pass: None, wrong: Some((Outcome::ReadingFailed, why)) },
        })
    }
}

impl Lap<'_> {
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
