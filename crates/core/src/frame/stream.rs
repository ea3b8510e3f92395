//! Captured presents: which window they belong to, and the pass that they make.

use crate::record::{Choice, Cut, Ends, Faults, Mark, Pass, Stretch};
use crate::unit::{Nanos, display_count};

/// Two streams of one process whose numbers are this close, one OpenGL and one Vulkan, are the same
/// frames.
const SAME_SHARE: f64 = 0.02;
const SAME_FRAMES: usize = 3;

/// Through which interface a frame was presented.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Api {
    /// OpenGL by way of the X window system.
    Glx,
    /// OpenGL by way of EGL.
    Egl,
    /// Vulkan.
    Vulkan,
}

impl std::fmt::Display for Api {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::Glx => "OpenGL (GLX)",
            Self::Egl => "OpenGL (EGL)",
            Self::Vulkan => "Vulkan",
        })
    }
}

/// One present.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Present {
    /// When it was asked for, in nanoseconds on the monotonic clock.
    pub at: u64,
    /// How long that call took, in nanoseconds.
    pub took: u64,
}

/// Everything that one process presented to one surface through one interface.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stream {
    /// The program's file name.
    pub program: String,
    /// Its process.
    pub process: u32,
    /// Through which interface.
    pub api: Api,
    /// What was presented to, as that interface names it.
    pub surface: u64,
    /// How many threads presented.
    pub threads: usize,
    /// The presents, in order of time.
    pub presents: Vec<Present>,
}

impl Stream {
    /// Returns what it is, in words.
    pub fn words(&self) -> String {
        let threads = match self.threads {
            0 | 1 => String::new(),
            n => format!(" from {n} threads"),
        };
        format!(
            "{} frames through {} by `{}` (process {}){threads}",
            display_count(self.presents.len()),
            self.api,
            crate::record::plain_line(&self.program),
            self.process
        )
    }
}

/// What a mark says.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MarkKind {
    /// The pass begins.
    Begin,
    /// The pass ends.
    End,
    /// A place in it.
    Named(String),
}

/// A mark that was set while a program ran.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TimedMark {
    /// When, in nanoseconds on the monotonic clock.
    pub at: u64,
    /// What it says.
    pub kind: MarkKind,
}

/// The pass that a stream makes.
#[derive(Clone, Debug, PartialEq)]
pub struct PresentedPass {
    /// Its frames, those ahead of its begin included.
    pub pass: Pass,
    /// What lies outside of its begin and end.
    pub cut: Cut,
    /// Its marks.
    pub marks: Vec<Mark>,
    /// What is no frame time.
    pub faults: Faults,
    /// How many frames it has from its begin on.
    pub counted: u64,
}

/// Returns for each stream the one whose frames it only carries on, if it does: OpenGL may be drawn
/// over Vulkan, and then every frame is presented twice.
pub fn carriers(streams: &[Stream]) -> Vec<Option<usize>> {
    let carries = |carrier: &Stream, carried: &Stream| {
        let (n, m) = (carrier.presents.len(), carried.presents.len());
        let within = n.abs_diff(m) <= SAME_FRAMES.max((m as f64 * SAME_SHARE) as usize);
        let overlap = || {
            let (first, last) = (carrier.presents.first(), carrier.presents.last());
            let (begin, end) = (carried.presents.first(), carried.presents.last());
            first.zip(end).is_some_and(|(a, b)| a.at <= b.at.saturating_add(b.took))
                && begin.zip(last).is_some_and(|(a, b)| a.at <= b.at.saturating_add(b.took))
        };
        carrier.api == Api::Vulkan
            && carried.api != Api::Vulkan
            && carrier.process == carried.process
            && within
            && overlap()
    };
    let of = |carrier: &Stream| streams.iter().position(|carried| carries(carrier, carried));
    streams.iter().map(of).collect()
}

/// Returns the place of the wanted stream among `streams`, which stand in the order in which they
/// first presented; `None` where there is none.
pub fn choose(streams: &[Stream], choice: &Choice) -> Option<usize> {
    let carriers = carriers(streams);
    let program = |stream: &Stream| choice.program.as_ref().is_none_or(|p| *p == stream.program);
    let wanted = |place: &usize| match choice.window {
        Some(window) => place + 1 == window as usize,
        None => carriers[*place].is_none(),
    };
    (0..streams.len())
        .filter(wanted)
        .filter(|&place| program(&streams[place]))
        // Of equals the first.
        .max_by_key(|&place| (streams[place].presents.len(), std::cmp::Reverse(place)))
}

/// Returns the pass of `presents`, which stand in order of time; `None` of fewer than two, or where
/// it is to begin at a mark and there is none.
///
/// A frame lasts from its present to the next. What comes after the end is not of the pass; what
/// comes ahead of a mark of its begin is kept, and cut.
pub fn presented_pass(
    presents: &[Present],
    marks: &[TimedMark],
    ends: &Ends,
) -> Option<PresentedPass> {
    let begin_mark = marks.iter().find(|mark| mark.kind == MarkKind::Begin);
    let begin = match begin_mark {
        Some(mark) => mark.at.max(presents.first()?.at),
        None if ends.by_mark => return None,
        None => presents.first()?.at,
    };
    let begun = presents.partition_point(|present| present.at < begin);
    let until = |time: Nanos| {
        let end = begin.saturating_add(time.0);
        presents.partition_point(|present| present.at <= end)
    };
    let by_time = ends.time.map_or(presents.len(), until);
    let by_frames = ends.frames.map_or(presents.len(), |frames| {
        begun.saturating_add(usize::try_from(frames).unwrap_or(usize::MAX)).saturating_add(1)
    });
    let presents = &presents[..presents.len().min(by_time).min(by_frames)];
    let mut pass = Pass::default();
    let mut faults = Faults::default();
    // The first present of each frame: two at one moment are one.
    let mut first = Vec::with_capacity(presents.len());
    for pair in presents.windows(2) {
        match pair[1].at - pair[0].at {
            0 => faults.repeated += 1,
            shown => {
                pass.shown.push(shown);
                pass.presenting.push(pair[0].took);
                first.push(pair[0].at);
            }
        }
    }
    let start = *first.first()?;
    let end = presents.last()?.at;
    // Set when the pass was over, and the lap not yet.
    let marks: Vec<TimedMark> = marks.iter().filter(|mark| mark.at <= end).cloned().collect();
    let frame = |at: u64| first.partition_point(|&shown| shown < at) as u64;
    let named = |mark: &TimedMark| Mark {
        frame: frame(mark.at),
        name: match &mark.kind {
            MarkKind::Begin => "begin".to_owned(),
            MarkKind::End => "end".to_owned(),
            MarkKind::Named(name) => name.clone(),
        },
    };
    let whole = end - start;
    let cut = outside(&marks, begin_mark.is_some(), start, whole);
    let counted = first.len() as u64 - frame(begin);
    Some(PresentedPass { marks: marks.iter().map(named).collect(), cut, pass, faults, counted })
}

/// Returns what lies outside of begin and end, in a pass that starts at `start`.
fn outside(marks: &[TimedMark], begins: bool, start: u64, whole: u64) -> Cut {
    let mut stretches = Vec::new();
    let mut out = begins.then_some(0);
    for mark in marks {
        let at = mark.at.saturating_sub(start).min(whole);
        match (&mark.kind, out) {
            (MarkKind::Begin, Some(from)) => {
                stretches.push(Stretch { from: Nanos(from), to: Nanos(at) });
                out = None;
            }
            (MarkKind::End, None) => out = Some(at),
            _ => {}
        }
    }
    if let Some(from) = out {
        stretches.push(Stretch { from: Nanos(from), to: Nanos(whole) });
    }
    Cut::without(stretches)
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    fn presents(times_ms: impl IntoIterator<Item = u64>) -> Vec<Present> {
        times_ms.into_iter().map(|ms| Present { at: 500 * MS + ms * MS, took: 7 }).collect()
    }

    fn stream(api: Api, process: u32, surface: u64, frames: u64) -> Stream {
        let presents = presents((0..frames).map(|frame| frame * 10));
        Stream { program: "dome".into(), process, api, surface, threads: 1, presents }
    }

    fn mark(ms: u64, kind: MarkKind) -> TimedMark {
        TimedMark { at: 500 * MS + ms * MS, kind }
    }

    #[test]
    fn the_busiest_is_taken_and_what_only_carries_it_never() {
        let streams = [
            stream(Api::Glx, 1, 7, 100),
            stream(Api::Vulkan, 1, 9, 101),
            stream(Api::Egl, 2, 7, 60),
        ];
        assert_eq!(carriers(&streams), [None, Some(0), None]);
        assert_eq!(choose(&streams, &Choice::default()), Some(0));
        let window = |window| choose(&streams, &Choice { window: Some(window), program: None });
        assert_eq!((window(2), window(3), window(4)), (Some(1), Some(2), None));
        let of = |program: &str| Choice { program: Some(program.into()), window: None };
        assert_eq!(choose(&streams, &of("dome")), Some(0));
        assert_eq!(choose(&streams, &of("menu")), None);
        // A second window drawn by Vulkan is a window of its own.
        let apart = [stream(Api::Glx, 1, 7, 100), stream(Api::Vulkan, 1, 9, 400)];
        assert_eq!(choose(&apart, &Choice::default()), Some(1));
        assert_eq!(apart[1].words(), "400 frames through Vulkan by `dome` (process 1)");
    }

    #[test]
    fn a_frame_lasts_from_its_present_to_the_next() {
        let made = presented_pass(&presents([0, 10, 10, 30]), &[], &Ends::default()).unwrap();
        assert_eq!(made.pass.shown, [10 * MS, 20 * MS]);
        assert_eq!(made.pass.presenting, [7, 7]);
        assert_eq!((made.faults.repeated, made.counted), (1, 2));
        assert!(made.cut.is_empty());
        assert_eq!(presented_pass(&presents([4]), &[], &Ends::default()), None);
    }

    #[test]
    fn a_pass_ends_after_its_frames_or_its_time() {
        let presents = presents((0..100).map(|frame| frame * 10));
        let of = |ends: Ends| presented_pass(&presents, &[], &ends).unwrap().pass.shown.len();
        assert_eq!(of(Ends { frames: Some(30), ..Ends::default() }), 30);
        assert_eq!(of(Ends { frames: Some(3_000), ..Ends::default() }), 99);
        assert_eq!(of(Ends { time: Some(Nanos(305 * MS)), ..Ends::default() }), 30);
    }

    #[test]
    fn marks_keep_menus_outside_and_nothing_is_lost() {
        let presents = presents((0..100).map(|frame| frame * 10));
        let marks = [
            mark(205, MarkKind::Begin),
            mark(300, MarkKind::Named("the rings".into())),
            mark(605, MarkKind::End),
            mark(805, MarkKind::Begin),
        ];
        let by_mark = Ends { by_mark: true, ..Ends::default() };
        let made = presented_pass(&presents, &marks, &by_mark).unwrap();
        assert_eq!(made.pass.shown.len(), 99);
        assert_eq!(made.cut.to_string(), "0–0.205 s, 0.605–0.805 s");
        // Frames that begin at 210 to 600 and 810 to 980 ms.
        assert_eq!(made.cut.applied(&made.pass).shown.len(), 40 + 18);
        let frames: Vec<u64> = made.marks.iter().map(|mark| mark.frame).collect();
        assert_eq!((frames, made.counted), (vec![21, 30, 61, 81], 78));
        assert_eq!(presented_pass(&presents, &[], &by_mark), None, "no mark came");
        let late = [mark(205, MarkKind::Begin), mark(991, MarkKind::Named("too late".into()))];
        let made = presented_pass(&presents, &late, &by_mark).unwrap();
        assert_eq!(made.marks.len(), 1, "the last frame was shown at 990 ms");
        let ten = Ends { frames: Some(10), ..by_mark };
        let made = presented_pass(&presents, &marks[..1], &ten).unwrap();
        assert_eq!((made.counted, made.cut.applied(&made.pass).shown.len()), (10, 10));
    }
}
