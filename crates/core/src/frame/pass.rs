//! A pass, and what is kept beside its frames.

use super::{Against, Busy, Cap, Cut, Paced, Played, Sums, busy, cap, paced, played, sums};
use crate::measure::Reading;
use serde::{Deserialize, Serialize};

/// A pass frame by frame, in whole nanoseconds.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Pass {
    /// How long each frame was shown, above zero.
    pub shown: Vec<u64>,
    /// How long the processor was busy with each; empty where unknown, 0 for a frame that is.
    pub processor: Vec<u64>,
    /// How long the graphics card was busy with each, likewise.
    pub graphics: Vec<u64>,
    /// How long the call took by which each frame was presented, likewise.
    pub presenting: Vec<u64>,
}

/// What a log held that is no frame time. None of it reaches a sum.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct Faults {
    /// Rows without a value.
    pub missing: u64,
    /// Values that are no number: words, NaN, infinities.
    pub not_numbers: u64,
    /// Frame times below zero.
    pub negative: u64,
    /// Frame times of zero.
    pub zero: u64,
    /// Moments that stood there twice.
    pub repeated: u64,
    /// Moments earlier than the one before.
    pub backward: u64,
    /// Times at which the counter began anew, and was put right.
    pub wrapped: u64,
    /// Rows cut short at the end of the file.
    pub truncated: u64,
    /// Frames that were presented and could not be recorded.
    pub dropped: u64,
}

impl Faults {
    /// Returns what there was, in words; empty where there was nothing.
    pub fn words(&self) -> Vec<String> {
        let of = |count: u64, one: &str, many: &str| match count {
            0 => None,
            1 => Some(format!("1 {one}")),
            n => Some(format!("{n} {many}")),
        };
        [
            of(self.missing, "row without a value", "rows without a value"),
            of(self.not_numbers, "value that is no number", "values that are no numbers"),
            of(self.negative, "negative frame time", "negative frame times"),
            of(self.zero, "frame time of zero", "frame times of zero"),
            of(self.repeated, "repeated moment", "repeated moments"),
            of(self.backward, "moment out of order", "moments out of order"),
            of(self.truncated, "row cut short at the end", "rows cut short at the end"),
            of(
                self.dropped,
                "frame that could not be recorded",
                "frames that could not be recorded",
            ),
        ]
        .into_iter()
        .flatten()
        .collect()
    }
}

/// A place in a pass with a name.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Mark {
    /// The frame that follows it, from 0.
    pub frame: u64,
    /// Its name.
    pub name: String,
}

/// Everything about a pass besides its frames: where they come from, and what they come to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PassAbout {
    /// The log, as it was named.
    pub log: String,
    /// The SHA-256 of the log in hexadecimal, where the log was a file of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub log_sha256: Option<String>,
    /// How it was read, in a sentence.
    pub read_as: String,
    /// What it held besides frame times.
    #[serde(default)]
    pub faults: Faults,
    /// Named places.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub marks: Vec<Mark>,
    /// What else was presented while it was captured, and is not in it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<String>,
    /// What the frames come to.
    pub digest: Digest,
}

/// What a pass comes to under one cut: kept, so that no comparison reads the frames again.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Digest {
    /// What is left out.
    #[serde(default, skip_serializing_if = "Cut::is_empty")]
    pub cut: Cut,
    /// What it is held against.
    #[serde(flatten)]
    pub against: Against,
    /// The sums.
    pub sums: Sums,
    /// How it went on that display.
    pub paced: Option<Paced>,
    /// How it held the rate of what was played.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub played: Option<Played>,
    /// What pins its rate.
    pub cap: Option<Cap>,
    /// What its work would allow.
    pub busy: Option<Busy>,
}

impl Digest {
    /// Returns what `pass` comes to, or `None` where the cut leaves nothing.
    pub fn of(pass: &Pass, cut: &Cut, against: Against) -> Option<Self> {
        let cut_pass;
        let kept = match cut.is_empty() {
            true => pass,
            false => {
                cut_pass = cut.applied(pass);
                &cut_pass
            }
        };
        let sums = sums(&kept.shown)?;
        let median_ns = sums.median * 1e9;
        Some(Self {
            cut: cut.clone(),
            against,
            paced: against.display.map(|display| paced(&kept.shown, median_ns, display)),
            // What lies on both sides of a gap has turns of its own.
            played: against.plays_at.and_then(|rate| {
                let runs = cut.runs(&pass.shown);
                runs.iter().filter_map(|run| played(run, rate)).reduce(Played::plus)
            }),
            cap: cap(&kept.shown, median_ns, against.display),
            busy: busy(&kept.processor, &kept.graphics),
            sums,
        })
    }

    /// Returns its measures as readings of a lap.
    pub fn readings(&self) -> Vec<Reading> {
        super::measures::readings(self)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::frame::Stretch;
    use crate::time::Nanos;

    #[test]
    fn a_cut_changes_the_figures_and_may_leave_nothing() {
        let pass = Pass {
            shown: [vec![500_000_000; 4], vec![10_000_000; 100]].concat(),
            ..Pass::default()
        };
        let stretch = |from, to| Stretch { from: Nanos(from), to: Nanos(to) };
        let whole = Digest::of(&pass, &Cut::default(), Against::default()).unwrap();
        assert!((whole.sums.rate - 104.0 / 3.0).abs() < 1e-9);
        let cut = Cut::without(vec![stretch(0, 2_000_000_000)]);
        let digest = Digest::of(&pass, &cut, Against::display(90.0)).unwrap();
        assert_eq!((digest.sums.rate, digest.paced.unwrap().missed), (100.0, 0));
        assert_eq!(
            Digest::of(&pass, &Cut::without(vec![stretch(0, u64::MAX)]), Against::default()),
            None
        );
    }

    #[test]
    fn faults_are_told_by_name_and_number() {
        let faults = Faults { zero: 1, backward: 3, ..Faults::default() };
        assert_eq!(faults.words(), ["1 frame time of zero", "3 moments out of order"]);
    }
}
