//! From values to frames: what is no frame time is counted and left out.

use crate::error::LogError;
use crate::plan::Plan;
use crate::rows::{COUNTER_BITS, MISSING, NOT_A_NUMBER, Rows};
use crate::words::As;
use honest_lap_core::record::{Faults, Mark, Pass};

/// A pass of more time than this was read wrongly: ten years.
const MOST_NS: u128 = 10 * 366 * 86_400 * 1_000_000_000;
/// Frames shorter than this, 10,000 a second, are more than a display has.
const LEAST_NS: u128 = 100_000;
/// A step over the end of a counter is at most this many times the usual one.
const MOST_STEP: i64 = 20;

/// Returns the pass of `rows`.
pub(crate) fn build(mut rows: Rows, plan: &Plan) -> Result<(Pass, Faults, Vec<Mark>), LogError> {
    let mut faults = Faults { truncated: rows.truncated, ..Faults::default() };
    let shown = match plan.reading {
        As::Durations => durations(std::mem::take(&mut rows.values[0]), &mut faults),
        As::Moments => moments(&rows, plan, &mut faults)?,
    };
    let whole: u128 = shown.iter().map(|&time| u128::from(time)).sum();
    if shown.iter().all(|&time| time == 0) {
        let told = faults.words();
        return Err(LogError::unreadable(
            format!("no row of it is a frame time: {}", told.join(", ")),
            "is it the right column? --column N, --as durations or --as moments",
        ));
    }
    if whole > MOST_NS {
        return Err(LogError::unreadable(
            "its frames come to more than ten years",
            "is the unit right? --unit s, ms, us or ns",
        ));
    }
    let times = shown.iter().filter(|&&time| time > 0).count() as u128;
    if whole < times * LEAST_NS && !plan.unit_is_said() {
        return Err(LogError::asks(
            format!(
                "its frames come to {} a second, more than any display shows",
                times * 1_000_000_000 / whole.max(1)
            ),
            "is it the right column and unit? --unit s, ms, us or ns says so for sure",
        ));
    }
    // From here on a frame time of 0 says that the row is no frame.
    let frames = shown.iter().filter(|&&time| time > 0).count();
    let mut pass = Pass::default();
    let mut worker = |nth: usize| -> Vec<u64> {
        let values = std::mem::take(&mut rows.values[nth]);
        // What is not known of a frame is 0.
        let known = |busy: i64| u64::try_from(busy).unwrap_or(0);
        if frames == shown.len() {
            return values.into_iter().map(known).collect();
        }
        let kept = shown.iter().zip(values).filter(|(time, _)| **time > 0);
        kept.map(|(_, busy)| known(busy)).collect()
    };
    let mut nth = 1;
    for (pick, series) in
        [(plan.processor, &mut pass.processor), (plan.graphics, &mut pass.graphics)]
    {
        if pick.is_some() {
            *series = worker(nth);
            nth += 1;
        }
    }
    let marks = marks(rows.marks, &shown);
    pass.shown = match frames == shown.len() {
        true => shown,
        false => shown.into_iter().filter(|&time| time > 0).collect(),
    };
    Ok((pass, faults, marks))
}

/// Returns the frame times of durations, 0 where a row is none.
fn durations(values: Vec<i64>, faults: &mut Faults) -> Vec<u64> {
    let mut time = |value: i64| match value {
        MISSING => {
            faults.missing += 1;
            0
        }
        NOT_A_NUMBER => {
            faults.not_numbers += 1;
            0
        }
        0 => {
            faults.zero += 1;
            0
        }
        value if value < 0 => {
            faults.negative += 1;
            0
        }
        value => value.unsigned_abs(),
    };
    // As long as what it is made of, and in its place.
    values.into_iter().map(&mut time).collect()
}

/// Returns the frame times between moments, 0 where a row ends none.
///
/// Across something unreadable no frame time is taken, nor to or from a moment that is out of order:
/// which of two is wrong cannot be known, so what both bound is left out.
fn moments(rows: &Rows, plan: &Plan, faults: &mut Faults) -> Result<Vec<u64>, LogError> {
    let values = &rows.values[0];
    let counter = counter(values, rows.base, plan.shown.unit.ns());
    let known = values.iter().filter(|&&moment| moment > NOT_A_NUMBER).count();
    if known < LEAST_MOMENTS {
        return Err(few(known));
    }
    let mut shown = vec![0; values.len()];
    let mut below = Below::default();
    // The last moment and its row, and the moment before it.
    let mut last: Option<(i64, usize)> = None;
    let mut second = None;
    for (row, &moment) in values.iter().enumerate() {
        if moment <= NOT_A_NUMBER {
            let fault =
                if moment == MISSING { &mut faults.missing } else { &mut faults.not_numbers };
            *fault += 1;
            (last, second) = (None, None);
            continue;
        }
        if counter.is_none() && below.is_again(moment) {
            return Err(again(row));
        }
        let Some((before, before_row)) = last else {
            last = Some((moment, row));
            continue;
        };
        let step = moment.saturating_sub(before);
        shown[row] = match (step, &counter) {
            (1.., _) => step.unsigned_abs(),
            (0, _) => {
                faults.repeated += 1;
                continue;
            }
            (_, Some(counter)) if step + counter.size <= counter.most_step => {
                faults.wrapped += 1;
                (step + counter.size).unsigned_abs()
            }
            _ => {
                faults.backward += 1;
                if second.is_some_and(|second| moment > second) {
                    shown[before_row] = 0;
                }
                (last, second) = (None, None);
                continue;
            }
        };
        (last, second) = (Some((moment, row)), Some(before));
    }
    Ok(shown)
}

/// Fewer moments than these are no pass.
const LEAST_MOMENTS: usize = 3;
/// So many moments in a row that are earlier than one before them are no disorder: they begin anew.
const AGAIN: usize = 16;

/// How many of the last moments in a row are below the latest of all.
#[derive(Default)]
struct Below {
    latest: Option<i64>,
    count: usize,
}

impl Below {
    /// Takes a moment in; returns whether time has begun anew.
    fn is_again(&mut self, moment: i64) -> bool {
        let earlier = self.latest.is_some_and(|latest| moment < latest);
        self.count = if earlier { self.count + 1 } else { 0 };
        self.latest = self.latest.max(Some(moment));
        self.count >= AGAIN
    }
}

fn few(known: usize) -> LogError {
    let has = match known {
        0 => "no moment".to_owned(),
        1 => "one moment".to_owned(),
        n => format!("{n} moments"),
    };
    LogError::unreadable(
        format!("it has {has}, and frames lie between moments"),
        "is it the right column? If its numbers are frame times: --as durations",
    )
}

fn again(row: usize) -> LogError {
    LogError::unreadable(
        format!("its time begins anew ahead of row {}: it holds two recordings", row + 2 - AGAIN),
        "give each a file of its own",
    )
}

/// A counter that begins anew when it is full.
struct Counter {
    size: i64,
    most_step: i64,
}

/// Returns the counter that the moments come from, if they fill one: all of them lie within it,
/// the steps back are few, and each is a small step over its end.
fn counter(values: &[i64], base: i128, unit_ns: u64) -> Option<Counter> {
    let good = |value: &&i64| **value > NOT_A_NUMBER;
    let most = i128::from(*values.iter().filter(good).max()?) + base;
    let least = i128::from(*values.iter().filter(good).min()?) + base;
    let mut steps: Vec<i64> = values
        .windows(2)
        .filter(|pair| pair.iter().all(|value| good(&value)))
        .map(|pair| pair[1].saturating_sub(pair[0]))
        .filter(|&step| step > 0)
        .collect();
    if steps.is_empty() || least < 0 {
        return None;
    }
    let half = steps.len() / 2;
    let usual = *steps.select_nth_unstable(half).1;
    let size = COUNTER_BITS
        .into_iter()
        .map(|bits| i128::from(1_u64 << bits) * i128::from(unit_ns))
        .find(|&size| most < size)?;
    // A counter that never came near its end did not wrap.
    (most * 10 > size * 9).then_some(())?;
    Some(Counter { size: i64::try_from(size).ok()?, most_step: usual.saturating_mul(MOST_STEP) })
}

/// Returns the marks with the frames that follow them.
fn marks(marks: Vec<(usize, String)>, shown: &[u64]) -> Vec<Mark> {
    let (mut row, mut frame) = (0, 0);
    let place = |(at, name): (usize, String)| {
        let at = at.min(shown.len());
        frame += shown[row..at].iter().filter(|&&time| time > 0).count() as u64;
        row = at;
        Mark { frame, name }
    };
    marks.into_iter().map(place).collect()
}
