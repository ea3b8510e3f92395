//! Splits: the lines at which the parts of a lap begin, turned into times.

use super::budget::Budgeted;
use super::text::{Text, Texts, key, lines};
use crate::spool::Line;
use honest_lap_core::record::{Better, Reading, SECONDS, Splits, Stretch};
use honest_lap_core::unit::Nanos;

/// The parts of a lap.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Parts {
    /// A reading for every part.
    pub(crate) readings: Vec<Reading>,
    /// The time of the parts that count; `None` where all of the lap does, or one is not known.
    pub(crate) counted: Option<Nanos>,
    /// When those parts ran, likewise.
    pub(crate) counted_in: Vec<Stretch>,
}

/// Returns the parts of a lap that lasted `wall`.
pub(crate) fn parts(splits: &Splits, texts: &Texts, wall: Nanos) -> Parts {
    let place = key(&splits.source);
    let lines = match texts.get(&place) {
        Some(text @ Text::Spool { .. }) => lines(text),
        // Only what was spooled knows when a line came in.
        Some(Text::File(_)) | None => Err(format!("{place} was not there")),
    };
    let begins: Vec<Result<Nanos, String>> = splits
        .parts
        .iter()
        .map(|part| match (&part.from, &lines) {
            (None, _) => Ok(Nanos(0)),
            (Some(_), Err(why)) => Err(why.clone()),
            // What was printed at the very end may be imported after the end.
            (Some(pattern), Ok(lines)) => moment(pattern, lines, &place).map(|at| at.min(wall)),
        })
        .collect();
    let ends: Vec<_> = begins.iter().skip(1).cloned().chain([Ok(wall)]).collect();
    let times: Vec<Result<Nanos, String>> = begins
        .iter()
        .zip(&ends)
        .map(|(begin, end)| {
            let (begin, end) = (begin.clone()?, end.clone()?);
            let backwards =
                || "it ends before it begins: its lines come in another order".to_owned();
            end.0.checked_sub(begin.0).map(Nanos).ok_or_else(backwards)
        })
        .collect();
    let counts = |name: &String| splits.counts.contains(name);
    let counted = splits
        .parts
        .iter()
        .zip(&times)
        .filter(|(part, _)| counts(&part.part))
        .map(|(_, time)| time.as_ref().ok().copied())
        .try_fold(Nanos(0), |sum, time| Some(sum.plus(time?)));
    let known = begins.iter().zip(&ends).zip(&splits.parts);
    let counted_in = known
        .filter(|(_, part)| counts(&part.part))
        .filter_map(|((from, to), _)| {
            Some(Stretch { from: *from.as_ref().ok()?, to: *to.as_ref().ok()? })
        })
        .collect();
    let readings = splits.parts.iter().zip(times).map(|(part, time)| {
        let value = time.as_ref().ok().map(|time| time.seconds());
        Reading {
            name: part.part.clone(),
            unit: SECONDS.to_owned(),
            better: Better::Less,
            value,
            step: None,
            seen: time.err().unwrap_or_default(),
            reports_time: false,
        }
    });
    let counted = counted.filter(|_| !splits.counts.is_empty());
    Parts { readings: readings.collect(), counted, counted_in }
}

/// Returns when the one line came in that `pattern` matches.
fn moment(pattern: &str, lines: &[Line], place: &str) -> Result<Nanos, String> {
    let budgeted = Budgeted::new(pattern)?;
    let mut matching = lines.iter().filter_map(|line| match budgeted.check() {
        Ok(()) => budgeted.regex().is_match(&line.text).then_some(Ok(line)),
        Err(why) => Some(Err(why)),
    });
    match (matching.next().transpose()?, matching.next().transpose()?) {
        (None, _) => Err(format!("no line of {place} has a match of `{pattern}`")),
        (Some(_), Some(_)) => Err(format!("`{pattern}` matches in {place} twice")),
        (Some(line), None) => Ok(line.at),
    }
}
