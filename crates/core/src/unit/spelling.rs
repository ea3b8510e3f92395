//! Units that the tool knows: how each is spelled, what it measures, and how large it is. Every reader and
//! writer of units asks here.

/// What a unit measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Dimension {
    /// Time, in seconds.
    Time,
    /// Size, in bytes.
    Size,
    /// Power, in watts.
    Power,
    /// Energy, in joules.
    Energy,
    /// Frequency, in hertz.
    Frequency,
    /// A rate of frames, in frames a second.
    FrameRate,
    /// A share, in per cent.
    Share,
}

impl Dimension {
    /// How many of the smallest unit that is known are in one of the unit values are kept in.
    fn fine(self) -> u64 {
        match self {
            Self::Time => 1_000_000_000,
            Self::Power => 1_000,
            Self::Size | Self::Energy | Self::Frequency | Self::FrameRate | Self::Share => 1,
        }
    }
}

/// A unit: its symbol, what it measures, and its scale.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Unit {
    /// As it is written.
    pub symbol: &'static str,
    /// What it measures.
    pub dimension: Dimension,
    /// How large it is: in nanoseconds, bytes, milliwatts, joules, hertz, frames a second, per cent.
    pub scale: u64,
    /// Other words for it.
    words: &'static [&'static str],
    /// Words for it only where nothing but its dimension can stand: `m` may be a minute there, and elsewhere a metre.
    within: &'static [&'static str],
}

const fn unit(
    symbol: &'static str,
    dimension: Dimension,
    scale: u64,
    words: &'static [&'static str],
) -> Unit {
    Unit { symbol, dimension, scale, words, within: &[] }
}

const MINUTE: u64 = 60_000_000_000;
const HOUR: u64 = 60 * MINUTE;

/// Every unit that is known; of each dimension from small to large.
const ALL: [Unit; 29] = [
    unit("ns", Dimension::Time, 1, &["nsec", "nsecs", "nanos", "nanosecond", "nanoseconds"]),
    // The micro sign and the Greek letter are two characters.
    unit(
        "µs",
        Dimension::Time,
        1_000,
        &["μs", "us", "usec", "usecs", "micros", "microsecond", "microseconds"],
    ),
    unit(
        "ms",
        Dimension::Time,
        1_000_000,
        &["msec", "msecs", "millis", "millisecond", "milliseconds"],
    ),
    unit("s", Dimension::Time, 1_000_000_000, &["sec", "secs", "second", "seconds"]),
    Unit { within: &["m"], ..unit("min", Dimension::Time, MINUTE, &["mins", "minute", "minutes"]) },
    unit("h", Dimension::Time, HOUR, &["hour", "hours"]),
    Unit { within: &["d"], ..unit("day", Dimension::Time, 24 * HOUR, &["days"]) },
    unit("B", Dimension::Size, 1, &[]),
    unit("kB", Dimension::Size, 1_000, &["KB"]),
    unit("KiB", Dimension::Size, 1 << 10, &[]),
    unit("MB", Dimension::Size, 1_000_000, &[]),
    unit("MiB", Dimension::Size, 1 << 20, &[]),
    unit("GB", Dimension::Size, 1_000_000_000, &[]),
    unit("GiB", Dimension::Size, 1 << 30, &[]),
    unit("TB", Dimension::Size, 1_000_000_000_000, &[]),
    unit("TiB", Dimension::Size, 1 << 40, &[]),
    unit("mW", Dimension::Power, 1, &[]),
    unit("W", Dimension::Power, 1_000, &["watt", "watts"]),
    unit("kW", Dimension::Power, 1_000_000, &[]),
    unit("J", Dimension::Energy, 1, &["joule", "joules"]),
    unit("kJ", Dimension::Energy, 1_000, &[]),
    unit("Wh", Dimension::Energy, 3_600, &[]),
    unit("kWh", Dimension::Energy, 3_600_000, &[]),
    unit("Hz", Dimension::Frequency, 1, &[]),
    unit("kHz", Dimension::Frequency, 1_000, &[]),
    unit("MHz", Dimension::Frequency, 1_000_000, &[]),
    unit("GHz", Dimension::Frequency, 1_000_000_000, &[]),
    unit("fps", Dimension::FrameRate, 1, &[]),
    unit("%", Dimension::Share, 1, &[]),
];

/// SI prefixes ahead of units of work, which are the user's own, and what they multiply by.
pub(crate) const PREFIXES: [(&str, f64); 7] =
    [("", 1.0), ("k", 1e3), ("K", 1e3), ("M", 1e6), ("G", 1e9), ("T", 1e12), ("P", 1e15)];

impl Unit {
    /// Returns the unit that `word` spells in a text where anything may stand.
    pub fn of(word: &str) -> Option<Self> {
        ALL.into_iter().find(|unit| unit.symbol == word || unit.words.contains(&word))
    }

    /// Returns the unit of `dimension` that `word` spells where nothing else can stand.
    pub fn of_dimension(word: &str, dimension: Dimension) -> Option<Self> {
        let within = || ALL.into_iter().find(|unit| unit.within.contains(&word));
        Self::of(word).or_else(within).filter(|unit| unit.dimension == dimension)
    }

    /// Returns how many of the unit that values of its dimension are kept in (seconds, bytes, watts …) it is.
    pub fn in_kept(self) -> f64 {
        self.scale as f64 / self.dimension.fine() as f64
    }

    /// Returns how many of `other` it is, where both measure the same.
    pub fn in_units_of(self, other: Self) -> Option<f64> {
        (self.dimension == other.dimension).then(|| self.scale as f64 / other.scale as f64)
    }
}

/// Returns how many seconds one of `unit` is, if it is a unit of time.
pub fn seconds_in(unit: &str) -> Option<f64> {
    Unit::of(unit).filter(|unit| unit.dimension == Dimension::Time).map(Unit::in_kept)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_word_spells_one_unit() {
        let mut words: Vec<&str> = ALL
            .iter()
            .flat_map(|unit| unit.words.iter().chain(unit.within).chain([&unit.symbol]).copied())
            .collect();
        let all = words.len();
        words.sort_unstable();
        words.dedup();
        assert_eq!(words.len(), all);
    }

    #[test]
    fn units_of_one_dimension_are_told_in_each_other() {
        let of = |word| Unit::of(word).unwrap();
        assert_eq!(of("kW").in_units_of(of("mW")), Some(1e6));
        assert_eq!(of("minutes").in_units_of(of("s")), Some(60.0));
        assert_eq!(of("kWh").in_units_of(of("kW")), None);
        assert_eq!(
            [of("mW").in_kept(), of("ns").in_kept(), of("KiB").in_kept()],
            [1e-3, 1e-9, 1024.0]
        );
        assert_eq!(seconds_in("µs"), Some(1e-6));
        assert_eq!(seconds_in("GB"), None);
    }

    #[test]
    fn what_may_be_something_else_is_a_unit_only_where_nothing_else_can_stand() {
        assert_eq!(Unit::of("m"), None);
        assert_eq!(Unit::of_dimension("m", Dimension::Time), Unit::of("min"));
        assert_eq!(Unit::of_dimension("MB", Dimension::Time), None);
    }

    #[test]
    fn units_of_a_dimension_go_from_small_to_large() {
        for unit in ALL {
            let alike = ALL.iter().filter(|other| other.dimension == unit.dimension);
            assert!(alike.map(|other| other.scale).is_sorted(), "{unit:?}");
        }
    }
}
