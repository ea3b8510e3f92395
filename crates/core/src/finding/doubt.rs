//! What may be wrong: one variant a finding, with the data that shows it. No words: `view` has them.

use super::meant::Meant;
use super::parts::{Copies, FewLaps, Lacking, SeriesName, VersionOn};
use crate::judge::CellName;
use crate::lab::Limited;
use crate::record::{PicturesApart, SessionName, Settings};
use crate::unit::Nanos;
use serde::Serialize;

/// A named reason why figures may mislead, with what was seen.
///
/// Where it speaks of one lap, that is the first of the finding's laps; the others are likewise.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", rename_all = "kebab-case")]
pub enum Doubt {
    /// Cells of one or two counted laps.
    TooFewLaps {
        /// The rig.
        rig: String,
        /// Each variant that has too few, with how many.
        cells: Vec<FewLaps>,
        /// How many are needed.
        needed: usize,
    },
    /// Nobody warmed up, and the first lap was slower than the rest.
    FirstLap {
        /// The series.
        series: SeriesName,
        /// By what share it was.
        excess: f64,
    },
    /// Laps lie far from the others of their session.
    OddLap {
        /// The series.
        series: SeriesName,
        /// How far the first of them lies from the median, as a share.
        off: f64,
    },
    /// The laps of a session are of two kinds, far apart.
    TwoGroups {
        /// The series.
        series: SeriesName,
        /// The measure.
        measure: String,
        /// The geometric mean of the lower values.
        quick: f64,
        /// That of the upper ones, whose laps are named.
        slow: f64,
        /// How many laps it has.
        of: usize,
    },
    /// The laps of a session got slower, or faster, one after another.
    NotSteady {
        /// The series.
        series: SeriesName,
        /// The change from first to last, as a share.
        change: f64,
        /// The chance of such a trend, or a clearer one, where there is none.
        p: f64,
    },
    /// Sessions of one rig differ by more than days do.
    SessionsDisagree {
        /// The rig.
        rig: String,
        /// The measure.
        measure: String,
        /// The session that lies apart.
        session: SessionName,
        /// How many times the typical value of the others it has.
        ratio: f64,
        /// What is on record that is another in it.
        changed: Vec<crate::lab::Changed>,
    },
    /// A variant's laps made files of different sizes.
    OtherSize {
        /// The file.
        file: String,
        /// The variant.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
        /// The least bytes: of the first lap.
        least: u64,
        /// The most bytes: of the second lap.
        most: u64,
    },
    /// A file that is mostly made alike is not alike everywhere.
    OtherContent {
        /// The file.
        file: String,
        /// The variant.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
        /// Its contents, by checksum; three at most.
        copies: Vec<Copies>,
        /// Whether there are more.
        more: bool,
    },
    /// A variant's laps made pictures that show different things: of the first two laps.
    OtherPicture {
        /// The file.
        file: String,
        /// The variant.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
        /// How far they lie apart.
        apart: PicturesApart,
        /// How far they may, by the study.
        within: f64,
    },
    /// A variant came to something else than the one that it is held against, and how much work either does is not stated.
    LessWork {
        /// The rigs on which it did.
        rigs: Vec<String>,
        /// The variant.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
        /// What it is held against.
        #[serde(serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        against: Settings,
        /// In what they differ, on the first of the rigs.
        differs: Vec<crate::lab::Unlike>,
    },
    /// Other programs used the processor while a lap ran.
    MachineBusy {
        /// How much processor time they used.
        used: Nanos,
        /// The share of one hardware thread that is.
        share: f64,
        /// Which programs, most first; empty where that is not known.
        by: Vec<String>,
    },
    /// The clock fell while the temperature rose.
    Throttled {
        /// The clock at first and at last, in MHz.
        clock_mhz: (f64, f64),
        /// The temperature at first and at its most, in °C.
        heat_c: (f64, f64),
        /// Whether that is of the level at which a long lap settled.
        settled: bool,
    },
    /// The rate of an endurance lap last changed shortly ahead of its end.
    NeverSettled {
        /// When it last changed, in seconds.
        since: f64,
        /// How long it lasted, in seconds.
        lasted: f64,
    },
    /// The rate of an endurance lap fell on behind its last change.
    StillFalling {
        /// By what share, over the last two fifths.
        by: f64,
    },
    /// Memory was written to disk, or read back from it.
    Swapped {
        /// How many bytes.
        bytes: u64,
    },
    /// The machine slept.
    Slept {
        /// For how long.
        time: Nanos,
    },
    /// A lap has no value of outside meters that its rig's other laps have.
    MeterSilent {
        /// Their names.
        meters: Vec<String>,
    },
    /// A lap left programs behind.
    LeftOvers {
        /// Their names.
        programs: Vec<String>,
    },
    /// A program reports another time than was measured.
    OwnTime {
        /// What it reports, in seconds.
        reported: f64,
        /// What was measured.
        measured: Nanos,
    },
    /// A pass shows the display, not the rig.
    Capped {
        /// The display's or the limiter's rate, in Hz.
        hz: f64,
        /// Whether the study states it.
        stated: bool,
        /// Whether it is a limiter's, and no display's.
        limiter: bool,
        /// The share of frames that took a whole number of refreshes, or are under the limiter.
        share: f64,
        /// How many most of them took.
        refreshes: u32,
        /// What the work alone would allow, in frames a second, where that is known.
        by_work: Option<f64>,
    },
    /// An average that says little of what was felt.
    AverageHides {
        /// The longest frame, in seconds, where it stood still for long.
        stall: Option<f64>,
        /// Average rate and median rate, where they are apart.
        lopsided: Option<(f64, f64)>,
    },
    /// Two rigs run alike on average, and not in what was felt.
    AveragesHide {
        /// The two rigs.
        rigs: (String, String),
        /// The variant.
        #[serde(rename = "variant", serialize_with = "crate::record::by_name")]
        #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
        settings: Settings,
        /// By what share their averages differ.
        apart: f64,
        /// Their `low 1%`, where these are apart.
        lows: Option<(f64, f64)>,
        /// Their hitches a minute, where these are apart.
        hitches: Option<(f64, f64)>,
    },
    /// Results under an older version of a program than the newest beside them.
    OlderProgram {
        /// The rig.
        rig: String,
        /// What its program said.
        line: String,
        /// What the newest said.
        newest: String,
        /// A rig that has the newest.
        on: String,
    },
    /// A rig has changed since.
    RigChanged {
        /// The rig.
        rig: String,
        /// What changed.
        what: crate::lab::What,
        /// What it was.
        then: String,
        /// What it is now.
        now: String,
        /// By which session.
        by: SessionName,
    },
    /// Results older than the study wants them.
    TooOld {
        /// The rig.
        rig: String,
        /// How old they are.
        age: Nanos,
        /// How old they may be.
        limit: Nanos,
    },
    /// Laps beside each other were run with different program versions.
    OtherVersion {
        /// The program, as the study calls it.
        program: String,
        /// Each version, where it could be read, with the rigs that had it.
        versions: Vec<VersionOn>,
    },
    /// Laps beside each other were run with the program set otherwise, or with other parts.
    OtherSetting {
        /// What was another.
        what: crate::lab::What,
        /// What it was, where it could be read, each with the rigs that had it.
        settings: Vec<VersionOn>,
    },
    /// Laps differ by less than the step in which they were read.
    ReadCoarsely {
        /// The rig.
        rig: String,
        /// By what share they differ.
        differs: f64,
        /// What the step leaves open, as a share.
        open: f64,
    },
    /// A typed number looks like its neighbours with a digit out of place.
    SlippedDigit {
        /// The rig.
        rig: String,
        /// The measure.
        measure: String,
        /// The value.
        value: f64,
        /// What its neighbours read like.
        meant: f64,
    },
    /// A typed number lies far from what its rig's and its workload's other numbers say.
    DoesNotFit {
        /// The rig.
        rig: String,
        /// What the number is of.
        of: CellName,
        /// The number.
        value: f64,
        /// What the others say.
        fits: f64,
        /// What it may have been meant to be.
        meant: Option<Meant>,
    },
    /// What was typed in for one session is that of another to the last digit.
    Repeated {
        /// The session.
        session: SessionName,
        /// The one that it repeats.
        of: SessionName,
        /// How many values are alike.
        values: usize,
    },
    /// What was typed for a session of one rig is that of another, and the other way round.
    SessionsExchanged {
        /// The session.
        session: SessionName,
        /// The other.
        with: SessionName,
    },
    /// Laps that hardly worked: they waited.
    MostlyWaiting {
        /// The rig.
        rig: String,
        /// What limited the first of them.
        by: Limited,
    },
    /// Every rig comes out the same.
    NothingToChoose {
        /// The cell that they share.
        of: CellName,
        /// The rigs.
        rigs: Vec<String>,
        /// How far they lie apart, as a share.
        apart: f64,
        /// What limited most of them, as far as the conditions show it, and which.
        by: Option<(Limited, Vec<String>)>,
    },
    /// A rig comes out behind one that it was expected to beat.
    UpsideDown {
        /// The cell.
        of: CellName,
        /// The rig that is behind.
        behind: String,
        /// The rig that is ahead.
        ahead: String,
        /// How many times as fast that is.
        ratio: f64,
        /// In how many other comparisons it is the other way round; none where the study expects the opposite.
        others: Option<usize>,
    },
    /// One workload decides which side of the index a rig is on.
    OddOneOut {
        /// The rig.
        rig: String,
        /// What it is held against.
        baseline: String,
        /// The index.
        index: f64,
        /// The index without the workload.
        without: f64,
    },
    /// Rigs have no figure where the others have one.
    Missing {
        /// The cell.
        of: CellName,
        /// Each rig that lacks it, with why.
        rigs: Vec<Lacking>,
    },
    /// Two rigs share parts and differ in several.
    TwoThingsChanged {
        /// The two rigs.
        rigs: (String, String),
        /// Each part that differs, with what it is in each.
        parts: Vec<(String, String, String)>,
    },
    /// One machine speaks for its model.
    OneOfAKind {
        /// The rig.
        rig: String,
        /// The model.
        model: String,
    },
    /// A load failed below one that held.
    OutOfOrder {
        /// The rig.
        rig: String,
        /// The load that failed.
        failed: String,
        /// The laps that failed at it.
        in_laps: Vec<crate::record::LapName>,
        /// The load that held.
        held: String,
    },
}
