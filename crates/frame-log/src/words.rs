//! What the words of a heading say of a column.

use honest_lap_core::unit::{Dimension, Unit};

/// What the numbers of a column are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum As {
    /// How long each frame took.
    Durations,
    /// When each frame was shown.
    Moments,
}

/// A unit of time.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TimeUnit {
    /// Seconds.
    Seconds,
    /// Milliseconds.
    Milliseconds,
    /// Microseconds.
    Microseconds,
    /// Nanoseconds.
    Nanoseconds,
}

impl TimeUnit {
    /// Every unit, the longest first.
    pub const ALL: [Self; 4] =
        [Self::Seconds, Self::Milliseconds, Self::Microseconds, Self::Nanoseconds];

    /// Returns how many nanoseconds it is.
    pub fn ns(self) -> u64 {
        match self {
            Self::Seconds => 1_000_000_000,
            Self::Milliseconds => 1_000_000,
            Self::Microseconds => 1_000,
            Self::Nanoseconds => 1,
        }
    }

    /// Returns its name, in the plural.
    pub fn name(self) -> &'static str {
        match self {
            Self::Seconds => "seconds",
            Self::Milliseconds => "milliseconds",
            Self::Microseconds => "microseconds",
            Self::Nanoseconds => "nanoseconds",
        }
    }

    /// Returns its symbol.
    pub fn symbol(self) -> &'static str {
        match self {
            Self::Seconds => "s",
            Self::Milliseconds => "ms",
            Self::Microseconds => "µs",
            Self::Nanoseconds => "ns",
        }
    }

    /// Returns the unit that `word` names, in any case.
    pub fn from_word(word: &str) -> Option<Self> {
        let known = Unit::of(&word.to_lowercase())?;
        let is = |unit: &Self| known.dimension == Dimension::Time && known.scale == unit.ns();
        Self::ALL.into_iter().find(is)
    }
}

/// Whose busy time a column is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Worker {
    Processor,
    Graphics,
}

/// What a heading says.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Said {
    /// A unit of time.
    pub(crate) unit: Option<TimeUnit>,
    /// How plainly it speaks of frames that were shown; 0 where it does not.
    pub(crate) shown: u8,
    /// Whose busy time it is.
    pub(crate) worker: Option<Worker>,
    /// Whether it is something else: a rate, a load, a number of something.
    pub(crate) other: bool,
    /// What it says its values are, where it says so.
    pub(crate) reading: Option<As>,
    /// Whether it is a column of marks.
    pub(crate) mark: bool,
}

/// Returns what `heading` says.
pub(crate) fn said(heading: &str) -> Said {
    let words = words(heading);
    let has = |list: &[&str]| words.iter().any(|word| list.contains(&word.as_str()));
    let unit = words.iter().rev().find_map(|word| TimeUnit::from_word(word));
    let worker = match (has(&["cpu", "processor"]), has(&["gpu", "graphics", "card"])) {
        (true, false) => Some(Worker::Processor),
        (false, true) => Some(Worker::Graphics),
        _ => None,
    };
    let shown = match () {
        () if has(&["display", "displayed", "shown", "screen"]) => 4,
        () if has(&["present", "presents", "presented", "swap"]) => 3,
        () if has(&["frame", "frames", "frametime", "frametimes", "ft"]) => 2,
        () if has(&[
            "time",
            "times",
            "timestamp",
            "stamp",
            "moment",
            "elapsed",
            "interval",
            "delta",
            "dt",
            "duration",
            "start",
        ]) =>
        {
            1
        }
        () => 0,
    };
    let other = has(&[
        "fps",
        "hz",
        "rate",
        "load",
        "usage",
        "use",
        "util",
        "temp",
        "temperature",
        "power",
        "watt",
        "watts",
        "clock",
        "mhz",
        "ghz",
        "percent",
        "latency",
        "lag",
        "wait",
        "idle",
        "width",
        "height",
        "dropped",
        "memory",
        "mb",
        "gb",
        "bytes",
        "count",
        "index",
        "number",
        "id",
        "pid",
        "level",
        "voltage",
        "fan",
        "rpm",
        "draws",
        "triangles",
    ]);
    let moments =
        has(&["timestamp", "stamp", "moment", "moments", "elapsed", "start", "ticks", "clock"]);
    let frame_time = has(&["frame", "frames"]) && (unit.is_some() || has(&["time", "times"]));
    let durations = frame_time
        || has(&[
            "frametime",
            "frametimes",
            "ft",
            "interval",
            "delta",
            "dt",
            "duration",
            "durations",
        ]);
    let reading = match (moments, durations) {
        (true, false) => Some(As::Moments),
        (false, true) => Some(As::Durations),
        _ => None,
    };
    Said {
        reading,
        unit,
        shown,
        worker,
        other,
        mark: has(&["mark", "marks", "event", "label", "note", "scene", "section"]),
    }
}

/// Returns the words of a heading in lower case: `FrameTime_ms` has three, `frame (ms)` two.
pub(crate) fn words(heading: &str) -> Vec<String> {
    let mut words = vec![String::new()];
    let mut before = ' ';
    for c in heading.chars() {
        let begins = c.is_uppercase() && before.is_lowercase();
        if begins || !c.is_alphanumeric() {
            words.push(String::new());
        }
        if c.is_alphanumeric() {
            words.last_mut().expect("there is always one").extend(c.to_lowercase());
        }
        before = c;
    }
    words.retain(|word| !word.is_empty());
    words
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_are_read_word_by_word() {
        assert_eq!(words("FrameTime_ms"), ["frame", "time", "ms"]);
        assert_eq!(said("frame (ms)").unit, Some(TimeUnit::Milliseconds));
        assert_eq!(said("Frame time [µs]").unit, Some(TimeUnit::Microseconds));
        assert_eq!(said("gpu busy ns").worker, Some(Worker::Graphics));
        assert_eq!(said("processor_work").worker, Some(Worker::Processor));
        assert!(said("fps").other && said("GPU load").other && !said("frame_ms").other);
        assert!(said("display interval").shown > said("frame time").shown);
        assert_eq!(said("x"), Said::default());
        assert!(said("Scene").mark);
    }
}
