//! What a log tells beside its frames: use of cores and card, temperatures, clocks, power, fans. Kept as what a machine did
//! while the pass was captured, by the means of stretches of rows.

use crate::columns::{Column, Shape, short_name};
use crate::error::LogError;
use crate::number::{Cell, Written, cell};
use crate::rows::{Halt, Job};
use crate::words::words;
use honest_lap_core::record::{Quantity, Trace, Traces};

/// Moments that are kept of a pass, at most.
const MOST_MOMENTS: usize = 720;
/// Columns of this kind that are kept, at most: of each core of a large machine, twice.
const MOST_COLUMNS: usize = 600;
/// Cells are read as whole numbers of billionths.
const BILLION: u64 = 1_000_000_000;
/// Shares above this are in per cent.
const MOST_SHARE: f64 = 1.5;

/// A column that is kept beside the frames.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Beside {
    place: usize,
    quantity: Quantity,
    which: String,
    heading: String,
}

/// What a log has besides its frames.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Other {
    /// What the machine did, over the time of the pass.
    pub traces: Traces,
    /// The columns that this is of, in words: `core0` (core use).
    pub kept: Vec<String>,
    /// The headings of columns that nothing was made of; of what counts frames nothing need be.
    pub not_kept: Vec<String>,
}

/// Returns what a heading says that its numbers are, and of which part.
fn quantity(heading: &str) -> Option<(Quantity, String)> {
    use Quantity as Q;
    let words = words(heading);
    let has = |list: &[&str]| words.iter().any(|word| list.contains(&word.as_str()));
    // `core0` is a word, and so is `0` behind `core`.
    let numbered = |word: &String| {
        let number = word.strip_prefix("core").or_else(|| word.strip_prefix("cpu"))?;
        number.parse::<u32>().ok()
    };
    let behind = words.windows(2).find_map(|pair| {
        matches!(pair[0].as_str(), "core" | "cpu").then(|| pair[1].parse::<u32>().ok()).flatten()
    });
    let core = words.iter().find_map(numbered).or(behind);
    let card = has(&["gpu", "graphics", "card", "vram"]);
    let processor = has(&["cpu", "processor", "core", "cores"]);
    let heat = has(&["temp", "temperature", "temperatures", "celsius"]);
    let clock = has(&["clock", "mhz"]);
    let used = has(&["use", "usage", "load", "util", "utilization", "utilisation", "percent"]);
    let whole = || short_name(heading);
    match () {
        () if heat => Some((Q::Temperature, whole())),
        () if has(&["watt", "watts", "power"]) => Some((Q::Power, whole())),
        () if has(&["fan", "rpm"]) => Some((Q::Fan, whole())),
        () if clock && card => Some((Q::GraphicsClock, whole())),
        () if clock => {
            let core = core.map(|core| core.to_string());
            (processor || core.is_some()).then(|| (Q::CoreClock, core.unwrap_or_else(whole)))
        }
        () if core.is_some() => core.map(|core| (Q::CoreUse, core.to_string())),
        () if card && used && !has(&["memory", "mem", "vram"]) => Some((Q::GraphicsUse, whole())),
        () if processor && used => Some((Q::ProcessorUse, String::new())),
        // A lone name of a part: busy times say so, or are in a unit of time.
        () if words.len() == 1 && card => Some((Q::GraphicsUse, whole())),
        () if words.len() == 1 && processor => Some((Q::ProcessorUse, String::new())),
        () => None,
    }
}

/// Returns which of `columns` are kept beside the frames, and which are not; `read` are the places of those that the pass is
/// made of.
pub(crate) fn sorted(columns: &[Column], read: &[usize]) -> (Vec<Beside>, Vec<String>) {
    let (mut kept, mut not_kept): (Vec<Beside>, Vec<String>) = Default::default();
    let others = columns
        .iter()
        .filter(|column| !read.contains(&column.place) && column.shape != Shape::Index);
    for column in others {
        let Some(heading) = column.heading.as_deref().filter(|heading| !heading.is_empty()) else {
            continue;
        };
        let holds_numbers = column.shape != Shape::Words;
        let found = quantity(heading).filter(|_| holds_numbers && kept.len() < MOST_COLUMNS);
        let twice = |(quantity, which): &(Quantity, String)| {
            kept.iter().any(|known| known.quantity == *quantity && known.which == *which)
        };
        match found.filter(|found| !twice(found)) {
            Some((quantity, which)) => {
                let heading = short_name(heading);
                kept.push(Beside { place: column.place, quantity, which, heading });
            }
            None => not_kept.push(short_name(heading)),
        }
    }
    (kept, not_kept)
}

/// Reads the columns `kept` into what the machine did while `shown` was shown.
pub(crate) fn read(
    job: &Job<'_>,
    (kept, not_kept): (&[Beside], Vec<String>),
    shown: &[u64],
) -> Result<Other, LogError> {
    if kept.is_empty() || shown.is_empty() {
        return Ok(Other { not_kept, ..Other::default() });
    }
    // About as many rows as frames: what is no frame is few.
    let each = shown.len().div_ceil(MOST_MOMENTS).max(1);
    let mut sums = vec![(0.0, 0_u32); kept.len()];
    let mut means: Vec<Vec<Option<f64>>> = vec![Vec::new(); kept.len()];
    let mut rows = 0;
    let written = Written { unit_ns: BILLION, point: job.plan.point };
    let mut close = |sums: &mut Vec<(f64, u32)>| {
        for (mean, sum) in means.iter_mut().zip(sums) {
            mean.push((sum.1 > 0).then(|| sum.0 / f64::from(sum.1)));
            *sum = (0.0, 0);
        }
    };
    let mut take = |bytes: &[u8], length: usize| {
        let mut record = csv::ByteRecord::new();
        let cells = job.cells(&bytes[..length], &mut record);
        if job.is_words(&cells) {
            return Ok(0);
        }
        for (sum, column) in sums.iter_mut().zip(kept) {
            if let Some(Cell::Ns(value)) = cells.get(column.place).map(|text| cell(text, written)) {
                *sum = (sum.0 + value as f64 / BILLION as f64, sum.1 + 1);
            }
        }
        rows += 1;
        if rows % each == 0 {
            close(&mut sums);
        }
        Ok(0)
    };
    job.each(job.head.rows_from, job.text.end, false, &mut take).map_err(Halt::into_error)?;
    let channel = |(column, values): (&Beside, Vec<Option<f64>>)| {
        let values = in_its_unit(column.quantity, values);
        Trace {
            quantity: column.quantity,
            which: column.which.clone(),
            unit: String::new(),
            values: values.into_iter().collect(),
        }
    };
    let mut at = 0;
    let mut at_ms: Vec<u64> = shown
        .chunks(each)
        .map(|frames| {
            let begins = at / 1_000_000;
            at += frames.iter().sum::<u64>();
            begins
        })
        .collect();
    at_ms.truncate(means[0].len());
    let moments = at_ms.len();
    means.iter_mut().for_each(|mean| mean.truncate(moments));
    let channels = kept.iter().zip(means).map(channel).collect();
    let told = |column: &Beside| format!("`{}` ({})", column.heading, column.quantity.words().0);
    let traces = Traces { at_ms, channels };
    Ok(Other { traces, kept: kept.iter().map(told).collect(), not_kept })
}

/// Returns values in the unit that the quantity is kept in: shares are written in per cent where any is above one.
fn in_its_unit(quantity: Quantity, values: Vec<Option<f64>>) -> Vec<Option<f64>> {
    let is_share =
        matches!(quantity, Quantity::CoreUse | Quantity::GraphicsUse | Quantity::ProcessorUse);
    let most = values.iter().flatten().copied().fold(0.0, f64::max);
    match is_share && most > MOST_SHARE {
        true => values.into_iter().map(|value| value.map(|value| value / 100.0)).collect(),
        false => values,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_say_what_was_seen_and_of_what() {
        use Quantity as Q;
        let of = quantity;
        let core = |number: &str| Some((Q::CoreUse, number.to_owned()));
        assert_eq!(
            (of("core0"), of("Core 11 Load"), of("cpu3_use")),
            (core("0"), core("11"), core("3"))
        );
        let whole = |quantity, heading: &str| Some((quantity, heading.to_owned()));
        assert_eq!(of("gpu_use"), whole(Q::GraphicsUse, "gpu_use"));
        assert_eq!(of("cpu"), Some((Q::ProcessorUse, String::new())));
        assert_eq!(of("CPU Temperature"), whole(Q::Temperature, "CPU Temperature"));
        assert_eq!(of("gpu power (W)"), whole(Q::Power, "gpu power (W)"));
        assert_eq!(of("core 2 clock MHz"), Some((Q::CoreClock, "2".to_owned())));
        assert_eq!(of("gpu clock"), whole(Q::GraphicsClock, "gpu clock"));
        assert_eq!(of("fan rpm"), whole(Q::Fan, "fan rpm"));
        for nothing in ["fps", "latency", "gpu memory load", "draw calls", "width"] {
            assert_eq!(of(nothing), None, "{nothing}");
        }
    }

    #[test]
    fn shares_in_per_cent_become_shares() {
        let values = vec![Some(35.0), None, Some(80.0)];
        let of = |quantity| in_its_unit(quantity, values.clone());
        assert_eq!(of(Quantity::CoreUse), [Some(0.35), None, Some(0.8)]);
        assert_eq!(of(Quantity::Temperature), values);
        assert_eq!(in_its_unit(Quantity::CoreUse, vec![Some(0.9)]), [Some(0.9)]);
    }
}
