//! A lap: one timed repetition of one variant on one rig, whatever came of it.

use crate::record::{
    Conditions, Outcome, Pass, PassAbout, Picture, Reading, Readings, Repeat, SessionName,
    Settings, Traces, Yield,
};
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// A lap's name: its session's, and its place in it. `heron-3.7` is lap seven of `heron-3`.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(into = "String")]
pub struct LapName {
    /// The session.
    pub session: SessionName,
    /// The lap's place in the order run, from 1.
    pub number: u32,
}

impl LapName {
    /// Returns the lap name that `text` writes, if it is one.
    pub fn parse(text: &str) -> Option<Self> {
        let (session, number) = text.rsplit_once('.')?;
        let number = number.parse().ok().filter(|&n| n > 0)?;
        Some(Self { session: SessionName::parse(session)?, number })
    }
}

impl From<LapName> for String {
    fn from(name: LapName) -> Self {
        name.to_string()
    }
}

impl std::fmt::Display for LapName {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}.{}", self.session, self.number)
    }
}

/// What a lap is of: enough to say which cell it belongs to and whether it counts.
#[derive(Clone, Debug, PartialEq)]
pub struct LapHead {
    /// Its name.
    pub name: LapName,
    /// The workload.
    pub workload: String,
    /// The variant.
    pub settings: Settings,
    /// Which form of the workload's task it was run under; equal numbers, equal tasks.
    pub task: u32,
    /// Which round of the order it belongs to, from 1; laps of one round were run together.
    pub round: u32,
    /// Whether it only warms up.
    pub warm_up: bool,
    /// What came of it.
    pub outcome: Outcome,
    /// Time from start to reap; `None` if nothing was started. Only a done lap's counts.
    pub wall: Option<Nanos>,
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// The step in which its time was read by hand; `None` where the clock measured it.
    pub step: Option<Nanos>,
    /// What else was read from it: splits, scores.
    pub readings: Vec<Reading>,
    /// Why a person has set it aside, if one has.
    pub set_aside: Option<String>,
}

impl LapHead {
    /// Returns a lap that was done in `wall`, and nothing else of note.
    pub fn done(name: LapName, workload: &str, settings: Settings, wall: Nanos) -> Self {
        Self {
            name,
            workload: workload.to_owned(),
            settings,
            task: 1,
            round: 1,
            warm_up: false,
            outcome: Outcome::Done,
            wall: Some(wall),
            parts: None,
            step: None,
            readings: Vec::new(),
            set_aside: None,
        }
    }

    /// Returns its workload and its variant, to be told as a study tells it.
    pub fn variant(&mut self) -> (&str, &mut Settings) {
        (&self.workload, &mut self.settings)
    }

    /// Returns what sums read of it.
    pub fn yields(&self) -> Yield<'_> {
        Yield {
            warm_up: self.warm_up,
            is_set_aside: self.set_aside.is_some(),
            outcome: self.outcome,
            wall: self.wall,
            parts: self.parts,
            step: self.step,
            readings: Readings::of(&self.readings),
        }
    }

    /// Returns [`Yield::time`].
    pub fn time(&self) -> Option<Nanos> {
        self.yields().time()
    }

    /// Returns [`Yield::counted`].
    pub fn counted(&self) -> Option<Nanos> {
        self.yields().counted()
    }

    /// Returns [`Yield::value`].
    pub fn value(&self, name: &str) -> Option<f64> {
        self.yields().value(name)
    }

    /// Returns [`Yield::yielded`].
    pub fn yielded(&self, name: &str) -> Option<f64> {
        self.yields().yielded(name)
    }

    /// Returns [`Yield::counts`].
    pub fn counts(&self) -> bool {
        self.yields().counts()
    }

    /// Returns [`Yield::step_of`].
    pub fn step_of(&self, name: &str) -> Option<f64> {
        self.yields().step_of(name)
    }
}

/// What the system accounted to a lap's own processes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Usage {
    /// Processor time in the program.
    pub user: Nanos,
    /// Processor time in the kernel on its behalf.
    pub system: Nanos,
    /// Peak memory of its largest process, in bytes.
    pub peak_bytes: u64,
    /// The least that `peak_bytes` can read: what the starter itself held.
    pub peak_floor_bytes: u64,
}

impl Usage {
    /// Returns the processor time in all.
    pub fn processor_time(&self) -> Nanos {
        Nanos(self.user.0.saturating_add(self.system.0))
    }
}

/// A file that a lap produced.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Produced {
    /// The file, as the study names it.
    pub file: String,
    /// Its size in bytes; `None` if it was not there.
    pub bytes: Option<u64>,
    /// Its SHA-256 in hexadecimal; `None` if it was not there or could not be read.
    pub sha256: Option<String>,
    /// What it shows, where it is a picture that is to be compared.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picture: Option<Picture>,
}

/// The head and tail of what a stream carried.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Captured {
    /// The first bytes.
    pub head: Vec<u8>,
    /// The last bytes, where more came than `head` holds.
    pub tail: Vec<u8>,
    /// How many bytes came in all.
    pub total: u64,
}

/// The frames of a lap, and what is said of them.
#[derive(Clone, Debug, PartialEq)]
pub struct RecordedPass {
    /// Where they come from, and what they come to.
    pub about: PassAbout,
    /// The frames themselves.
    pub pass: Pass,
}

/// Everything a lap leaves in the logbook besides its head.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LapBody {
    /// Wall-clock time of its start, RFC 3339: a label.
    pub started: String,
    /// Why it is not done, in a sentence; also remarks on a lap that is.
    pub reason: Option<String>,
    /// The command as started: the program and its arguments, with every place filled in.
    pub command: Vec<String>,
    /// The folder it ran in.
    pub folder: String,
    /// Exit code, if it ended by itself.
    pub exit_code: Option<i32>,
    /// The signal that ended it, if one did.
    pub signal: Option<i32>,
    /// Processor time and memory, if it was started.
    pub usage: Option<Usage>,
    /// What the machine was like.
    pub conditions: Conditions,
    /// What it produced.
    pub produced: Vec<Produced>,
    /// Programs that outlived it and were ended.
    pub left_behind: Vec<String>,
    /// What was read from it: splits, scores, its own report of its time.
    pub readings: Vec<Reading>,
    /// Its frames, where it is a pass.
    pub pass: Option<Box<RecordedPass>>,
    /// The repetitions of its task, where it is an endurance lap.
    pub repeats: Vec<Repeat>,
    /// The conditions it was run under, sample by sample.
    pub traces: Traces,
    /// Its standard output.
    pub stdout: Captured,
    /// Its standard error.
    pub stderr: Captured,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::Better;

    #[test]
    fn names_are_read_back() {
        let name = LapName::parse("heron-3.7").unwrap();
        assert_eq!((name.session.rig.as_str(), name.session.number, name.number), ("heron", 3, 7));
        assert_eq!(name.to_string(), "heron-3.7");
        assert_eq!(LapName::parse("heron-3"), None);
        assert_eq!(LapName::parse("heron-3.0"), None);
    }

    #[test]
    fn a_failed_lap_never_counts_as_a_time() {
        let name = LapName::parse("heron-1.1").unwrap();
        let mut head = LapHead::done(name, "dome-still", Settings::default(), Nanos(5));
        assert_eq!(head.counted(), Some(Nanos(5)));
        head.warm_up = true;
        assert_eq!(head.counted(), None);
        head.warm_up = false;
        head.outcome = Outcome::OverLimit;
        assert_eq!(head.counted(), None);
        head.outcome = Outcome::Done;
        head.set_aside = Some("the window was covered".into());
        assert_eq!(head.counted(), None);
    }

    #[test]
    fn a_failed_reading_takes_the_time_with_it_and_leaves_the_others_standing() {
        let name = LapName::parse("heron-1.1").unwrap();
        let mut head = LapHead::done(name, "suite", Settings::default(), Nanos(5));
        let reading = |name: &str, value| Reading {
            name: name.into(),
            unit: "points".into(),
            better: Better::More,
            value,
            step: None,
            seen: String::new(),
            reports_time: false,
        };
        head.readings = vec![reading("sky", Some(812.0)), reading("sea", None)];
        head.outcome = Outcome::ReadingFailed;
        assert_eq!(["time", "sky", "sea"].map(|m| head.value(m)), [None, Some(812.0), None]);
        assert!(head.counts() && head.counted().is_none());
        head.outcome = Outcome::Signal;
        assert_eq!(head.value("sky"), None);
        (head.outcome, head.parts) = (Outcome::Done, Some(Nanos(2_000_000_000)));
        assert_eq!(head.value("time"), Some(2.0), "the parts that count are the lap's time");
    }
}
