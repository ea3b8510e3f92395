//! A lap whose frames are noted: what is put ahead of it, looked at beside it, read behind it.

use super::caught::Caught;
use super::folder::Folder;
use super::follow::{Follower, Lost};
use super::mark::{MarkSignal, Marks};
use super::program::{Program, found};
use super::recorder::Recorder;
use super::why::why;
use super::witness::Witness;
use crate::error::{During, MeasureError};
use crate::meanwhile::Meanwhile;
use crate::os::now;
use crate::place::Place;
use crate::starter::{Beside, Next};
use honest_lap_core::frame::{Live, MarkKind, TimedMark, live};
use honest_lap_core::record::{Choice, LapName, Presented};
use honest_lap_core::unit::Nanos;
use std::path::Path;

/// Time between two looks at what was presented.
const PAUSE: Nanos = Nanos(100_000_000);
/// Looks between two that are told.
const TOLD_EVERY: u32 = 3;
/// Looks at processes from which nothing comes: each of the first, then one a second.
const FIRST_LOOKS: u32 = 5;
const LOOKS_A_SECOND: u32 = 10;

/// Hears how a pass stands; `None` while nothing has been presented.
pub(crate) type Tell<'a> = &'a mut dyn FnMut(Meanwhile<'_>) -> Result<(), MeasureError>;

/// A capture under way.
pub(crate) struct Capture<'a> {
    folder: Folder,
    recorder: Recorder,
    marks: Marks<'a>,
    wanted: &'a Presented,
    follower: Follower,
    witness: Witness,
    looks: u32,
    over: bool,
    tell: Tell<'a>,
}

impl<'a> Capture<'a> {
    /// Puts everything in place ahead of `lap`; `mark` is its session's.
    pub(crate) fn begin(
        place: &Place,
        lap: &LapName,
        mark: &str,
        wanted: &'a Presented,
        signal: Option<&'a MarkSignal>,
        tell: Tell<'a>,
    ) -> Result<Self, MeasureError> {
        let folder = Folder::make(place.capture(lap))?;
        let recorder = Recorder::put(folder.path(), mark)?;
        let marks = Marks::begin(place, signal).during("write", &place.marks())?;
        let (follower, witness) = Default::default();
        Ok(Self { folder, recorder, marks, wanted, follower, witness, looks: 0, over: false, tell })
    }

    /// Returns the variables by which the recorder gets into what the lap starts, on top of `own`.
    pub(crate) fn environment(&self, own: &[(String, String)]) -> Vec<(String, String)> {
        let given = |name: &str| {
            let own = own.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
            own.or_else(|| std::env::var(name).ok())
        };
        let capture = self.folder.path().display().to_string();
        self.recorder.environment(&capture, given)
    }

    /// Reads what is left once the lap has ended; `command` and `folder` are what it was.
    pub(crate) fn finish(mut self, command: &[String], folder: &Path) -> Caught {
        self.marks.close();
        self.follower.look(self.folder.path(), true);
        let (streams, marks, lobby) =
            (self.follower.streams(), self.marks.look(), self.folder.lobby());
        let why = match streams.is_empty() {
            true => {
                let word = command.first().map_or("", String::as_str);
                let file = found(word, folder).and_then(|path| Program::of(&path));
                why(word, &self.witness.seen().collect::<Vec<_>>(), file, &lobby)
            }
            false => String::new(),
        };
        let own = self.follower.lost();
        let lost = Lost {
            frames: own.frames + lobby.dropped,
            trouble: own.trouble.or(lobby.trouble.filter(|_| lobby.dropped > 0)),
        };
        Caught { streams, marks, lost, over: self.over, why }
    }

    /// Returns whether the pass has all that was asked for, and what it is so far.
    fn stands(&self, marks: &[TimedMark]) -> (bool, Option<Live>) {
        let ends = self.wanted.ends;
        let presents = self.follower.under_way(&self.wanted.choice).unwrap_or_default();
        let begin_mark = marks.iter().find(|mark| mark.kind == MarkKind::Begin);
        let begin = match (begin_mark, presents.first()) {
            (Some(mark), _) => mark.at,
            (None, Some(first)) if !ends.by_mark => first.at,
            _ => return (false, None),
        };
        let at = now().0;
        let stands = live(presents, begin, at);
        let ended = marks.iter().any(|mark| mark.kind == MarkKind::End);
        let over = match (ends.frames, ends.time, &stands) {
            (Some(frames), _, Some(stands)) => stands.frames >= frames,
            // Until a present has come behind the end, the last frame is not known to be in it.
            (_, Some(time), Some(stands)) => {
                let first = presents.partition_point(|present| present.at < begin);
                let end = presents[first].at.max(begin).saturating_add(time.0);
                stands.time >= time && presents.last().is_some_and(|last| last.at >= end)
            }
            (None, None, _) => ends.by_mark && ended,
            _ => false,
        };
        (over, stands)
    }
}

impl Beside for Capture<'_> {
    fn pause(&self) -> Nanos {
        PAUSE
    }

    fn look(&mut self, starter: u32) -> Result<Next, MeasureError> {
        self.folder.make_ready();
        self.follower.look(self.folder.path(), false);
        let nothing = self.follower.under_way(&Choice::default()).is_none();
        if nothing && (self.looks < FIRST_LOOKS || self.looks.is_multiple_of(LOOKS_A_SECOND)) {
            self.witness.look(starter);
        }
        let marks = self.marks.look();
        let (over, stands) = self.stands(&marks);
        self.over = over;
        if over {
            // The lap is ended next, which may take a while; its pass is not.
            self.marks.close();
        }
        if self.looks.is_multiple_of(TOLD_EVERY) {
            (self.tell)(Meanwhile::Frames(stands.as_ref()))?;
        }
        self.looks += 1;
        Ok(if over { Next::End } else { Next::GoOn })
    }
}
