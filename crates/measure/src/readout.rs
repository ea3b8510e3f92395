//! What a lap says of itself: streams that are spooled while it runs, and read once it has ended.

use crate::error::MeasureError;
use crate::lap::{Lap, LapResult, below};
use crate::last_words::last_words;
use crate::reading::{self, Text, Texts};
use crate::spool;
use crate::starter::Spools;
use honest_lap_core::record::{CountedPower, Outcome, Reading, Source};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

impl Lap<'_> {
    /// Returns which streams are written down as they come in: those that something is read from.
    pub(crate) fn spools(&self) -> Result<Spools, MeasureError> {
        let task = &self.job.workload.task;
        let mut spools = Spools::default();
        let frames = task.kind.frame_log().into_iter().map(|frames| &frames.source);
        let modes = self.job.workload.modes.iter().map(|rule| &rule.source);
        let read = reading::sources(&task.readings, task.splits.as_ref());
        for source in read.chain(frames).chain(modes) {
            match source {
                Source::Output => spools.stdout = Some(self.job.place.spool("stdout")?),
                Source::Errors => spools.stderr = Some(self.job.place.spool("stderr")?),
                Source::File(_) => {}
            }
        }
        if let Some(Source::File(file)) = task.splits.as_ref().map(|splits| &splits.source) {
            // What cannot be filled in is told by the marks that are missing.
            let file = self.values.text(file).map(|file| below(self.job.place.study(), &file));
            spools.watched = file.ok().zip(Some(self.job.place.spool("watched")?));
        }
        Ok(spools)
    }

    /// Reads what the lap is to say, and divides it into its parts.
    pub(crate) fn read(&self, result: &mut LapResult) -> Result<(), MeasureError> {
        let task = &self.job.workload.task;
        let spools = self.spools()?;
        let mut texts = Texts::new();
        let spooled = |path: &Option<String>, total| {
            path.as_ref().map(|path| Text::Spool { path: PathBuf::from(path), total })
        };
        let stdout = spooled(&spools.stdout, result.body.stdout.total);
        let stderr = spooled(&spools.stderr, result.body.stderr.total);
        for (source, text) in [(Source::Output, stdout), (Source::Errors, stderr)] {
            texts.extend(text.map(|text| (reading::key(&source), text)));
        }
        for source in task.readings.iter().map(|rule| &rule.source) {
            if let Source::File(file) = source
                && let Ok(path) = self.values.text(file)
            {
                let path = PathBuf::from(below(self.job.place.study(), &path));
                if path.exists() {
                    texts.insert(reading::key(source), Text::File(path));
                }
            }
        }
        if let (Outcome::Done, Some(wall)) = (result.outcome, result.wall) {
            let mut marks = texts.clone();
            let watched = spools.watched.as_ref().map(|(_, spool)| spool.clone());
            if let (Some(splits), Some(text)) = (&task.splits, spooled(&watched, result.watched)) {
                marks.insert(reading::key(&splits.source), text);
            }
            let parts = task.splits.as_ref().map(|splits| reading::parts(splits, &marks, wall));
            if let Some(parts) = parts {
                (result.body.readings, result.parts) = (parts.readings, parts.counted);
                let of_parts = || CountedPower::of(&result.body.traces, &parts.counted_in);
                let counted = parts.counted.map(|_| Box::new(of_parts()));
                result.body.conditions.sampled.counted = counted;
            }
            result.body.readings.extend(reading::readings(&task.readings, &texts));
            self.keep_frames(result);
            let optional: BTreeSet<&str> =
                task.readings.iter().filter(|rule| rule.optional).map(|rule| &*rule.name).collect();
            let last_words = last_words(&result.body);
            let missing = |reading: &&mut Reading| reading.value.is_none();
            for reading in result.body.readings.iter_mut().filter(missing) {
                if let (true, Some(words)) = (optional.contains(&*reading.name), &last_words) {
                    reading.seen = format!("{}; it last said: {words}", reading.seen);
                }
            }
            let needed =
                |reading: &&Reading| reading.value.is_none() && !optional.contains(&*reading.name);
            let failed = result.body.readings.iter().filter(needed);
            let reasons: Vec<String> =
                failed.map(|reading| format!("{}: {}", reading.name, reading.seen)).collect();
            if !reasons.is_empty() {
                let earlier = result.body.reason.take();
                result.outcome = Outcome::ReadingFailed;
                result.body.reason =
                    Some(earlier.into_iter().chain(reasons).collect::<Vec<_>>().join("; "));
            }
        }
        // What a program showed before it was killed was shown.
        self.keep_frames(result);
        let watched = spools.watched.map(|(_, spool)| spool);
        for path in [spools.stdout, spools.stderr, watched].into_iter().flatten() {
            spool::remove(Path::new(&path));
        }
        Ok(())
    }
}
