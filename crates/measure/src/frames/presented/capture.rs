//! A lap whose frames are noted: what is put ahead of it, looked at beside it, read behind it.

use super::caught::Caught;
use super::follow::{Follower, Lost};
use super::mark::{MarkSignal, Marks};
use super::program::{Program, found};
use super::recorder::Recorder;
use super::shared::Shared;
use super::why::{Said, why};
use super::witness::Witness;
use crate::error::{During, MeasureError};
use crate::frames::source::{Found, FrameSource, Lapped};
use crate::meanwhile::Meanwhile;
use crate::os::now;
use crate::place::Place;
use crate::starter::{Beside, Next};
use honest_lap_core::frame::{Live, MarkKind, TimedMark, live};
use honest_lap_core::record::{Against, Choice, LapName, Outcome, Presented};
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
    shared: Shared,
    recorder: Recorder,
    marks: Marks<'a>,
    wanted: &'a Presented,
    against: Against,
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
        (wanted, against): (&'a Presented, Against),
        signal: Option<&'a MarkSignal>,
        tell: Tell<'a>,
    ) -> Result<Self, MeasureError> {
        let shared = Shared::make(place.capture(lap), mark)?;
        let recorder = Recorder::put(shared.folder(), mark)?;
        let marks = Marks::begin(place, signal).during("write", &place.marks())?;
        let (follower, witness) = (Follower::new(now().0), Witness::default());
        Ok(Self {
            shared,
            recorder,
            marks,
            wanted,
            against,
            follower,
            witness,
            looks: 0,
            over: false,
            tell,
        })
    }

    /// Reads what is left once the lap has ended; `command` and `folder` are what it was.
    fn caught(mut self, command: &[String], folder: &Path) -> Caught {
        self.marks.close();
        self.follower.look(&mut self.shared, || now().0, true);
        let (streams, marks, said) =
            (self.follower.streams(), self.marks.look(), self.shared.header());
        let refused = self.follower.refused();
        let lost = Lost { frames: said.dropped, trouble: self.shared.trouble() };
        let why = match streams.is_empty() {
            true => {
                let word = command.first().map_or("", String::as_str);
                let file = found(word, folder).and_then(|path| Program::of(&path));
                let said = Said { loaded: said.loaded, unmapped: said.unmapped, lost, refused };
                why(word, &self.witness.seen().collect::<Vec<_>>(), file, &said)
            }
            false => String::new(),
        };
        let unsure = said.unsure;
        Caught { streams, marks, lost, refused, unsure, over: self.over, why }
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

impl FrameSource for Capture<'_> {
    fn environment(&self, own: &[(String, String)]) -> Vec<(String, String)> {
        let given = |name: &str| {
            let own = own.iter().find(|(key, _)| key == name).map(|(_, value)| value.clone());
            own.or_else(|| std::env::var(name).ok())
        };
        let file = self.shared.path().display().to_string();
        self.recorder.environment(&file, given)
    }

    fn look(&mut self) -> Option<&mut dyn Beside> {
        Some(self)
    }

    /// It had all the frames that were asked for, or no number was asked for, and a person ended it.
    fn ends_well(&self) -> bool {
        let ends = self.wanted.ends;
        self.over || (ends.frames.is_none() && ends.time.is_none())
    }

    fn finish(self: Box<Self>, lap: &Lapped<'_>) -> Option<Found> {
        let (wanted, against) = (self.wanted, self.against);
        let caught = self.caught(lap.command, lap.folder);
        Some(match caught.pass(wanted, against) {
            Ok(made) => Found {
                pass: Some(made.pass),
                wrong: made.short.map(|short| (Outcome::WrongOutput, short)),
            },
            Err(why) => Found { pass: None, wrong: Some((Outcome::ReadingFailed, why)) },
        })
    }
}

impl Beside for Capture<'_> {
    fn pause(&self) -> Nanos {
        PAUSE
    }

    fn look(&mut self, starter: u32) -> Result<Next, MeasureError> {
        self.follower.look(&mut self.shared, || now().0, false);
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
