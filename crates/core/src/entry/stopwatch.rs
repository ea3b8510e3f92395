//! A stopwatch: keys with their moments in, laps out.

use crate::unit::{Nanos, Stamp};

/// How well a person hits a key: a time between two presses is known to this, half of it either way.
///
/// Source: the spread of simple reaction times to a seen event is some 20 to 50 ms once the event
/// is awaited (Luce, 1986, *Response Times*, 2); twice two of them, rounded up.
pub const REACTION_STEP: Nanos = Nanos(200_000_000);

/// What a person does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Press {
    /// Starts a lap, or stops it.
    Go,
    /// Ends a part of the lap.
    Split,
    /// Makes the lap under way, or the last one, not count.
    Void,
    /// Ends the lap under way as one that failed.
    Failed,
}

/// A lap by the stopwatch.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Clocked {
    /// Its time.
    pub time: Nanos,
    /// Its parts, where it was split: one more than there were splits.
    pub parts: Vec<Nanos>,
}

/// What a press came to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Told {
    /// A lap began.
    Started,
    /// A part of it ended.
    Split(Nanos),
    /// It ended.
    Stopped(Clocked),
    /// The lap under way was given up after this time.
    GivenUp(Nanos),
    /// The lap under way failed after this time.
    Failed(Nanos),
    /// The last lap is not to count.
    VoidLast,
    /// There was nothing to do.
    Nothing,
}

/// A stopwatch, at rest or running.
#[derive(Clone, Debug, Default)]
pub struct Stopwatch {
    started: Option<Stamp>,
    splits: Vec<Stamp>,
    /// Whether there is a last lap that counts.
    last: bool,
}

impl Stopwatch {
    /// Takes a press at `at`.
    pub fn press(&mut self, press: Press, at: Stamp) -> Told {
        match (press, self.started) {
            (Press::Go, None) => {
                self.started = Some(at);
                Told::Started
            }
            (Press::Go, Some(started)) => {
                let marks: Vec<Stamp> =
                    [started].into_iter().chain(self.splits.drain(..)).chain([at]).collect();
                let spans = marks.windows(2).map(|pair| pair[1].since(pair[0]).unwrap_or_default());
                let parts = if marks.len() > 2 { spans.collect() } else { Vec::new() };
                (self.started, self.last) = (None, true);
                Told::Stopped(Clocked { time: at.since(started).unwrap_or_default(), parts })
            }
            (Press::Split, Some(started)) => {
                let before = self.splits.last().copied().unwrap_or(started);
                self.splits.push(at);
                Told::Split(at.since(before).unwrap_or_default())
            }
            (Press::Void | Press::Failed, Some(started)) => {
                self.splits.clear();
                self.started = None;
                let time = at.since(started).unwrap_or_default();
                if press == Press::Void { Told::GivenUp(time) } else { Told::Failed(time) }
            }
            (Press::Void, None) if self.last => {
                self.last = false;
                Told::VoidLast
            }
            (Press::Split | Press::Void | Press::Failed, None) => Told::Nothing,
        }
    }

    /// Returns how long the lap under way has lasted at `at`.
    pub fn running(&self, at: Stamp) -> Option<Nanos> {
        at.since(self.started?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_lap_goes_from_press_to_press_and_may_be_split() {
        let mut watch = Stopwatch::default();
        assert_eq!(watch.press(Press::Split, Stamp(1)), Told::Nothing);
        assert_eq!(watch.press(Press::Go, Stamp(10)), Told::Started);
        assert_eq!(watch.running(Stamp(12)), Some(Nanos(2)));
        assert_eq!(watch.press(Press::Split, Stamp(30)), Told::Split(Nanos(20)));
        assert_eq!(watch.press(Press::Split, Stamp(35)), Told::Split(Nanos(5)));
        let lap = Clocked { time: Nanos(40), parts: vec![Nanos(20), Nanos(5), Nanos(15)] };
        assert_eq!(watch.press(Press::Go, Stamp(50)), Told::Stopped(lap));
        assert_eq!(watch.running(Stamp(60)), None);
        watch.press(Press::Go, Stamp(60));
        let plain = Clocked { time: Nanos(7), parts: Vec::new() };
        assert_eq!(watch.press(Press::Go, Stamp(67)), Told::Stopped(plain));
    }

    #[test]
    fn a_void_takes_the_lap_under_way_or_else_the_last_and_once_only() {
        let mut watch = Stopwatch::default();
        assert_eq!(watch.press(Press::Void, Stamp(1)), Told::Nothing);
        watch.press(Press::Go, Stamp(10));
        assert_eq!(watch.press(Press::Void, Stamp(15)), Told::GivenUp(Nanos(5)));
        assert_eq!(watch.press(Press::Void, Stamp(16)), Told::Nothing, "no lap came of it");
        assert_eq!(watch.press(Press::Failed, Stamp(16)), Told::Nothing);
        watch.press(Press::Go, Stamp(17));
        assert_eq!(watch.press(Press::Failed, Stamp(19)), Told::Failed(Nanos(2)));
        watch.press(Press::Go, Stamp(20));
        watch.press(Press::Go, Stamp(30));
        assert_eq!(watch.press(Press::Void, Stamp(31)), Told::VoidLast);
        assert_eq!(watch.press(Press::Void, Stamp(32)), Told::Nothing);
    }
}
