//! Sizes of files and memory: `100 kB`, `2.5 GB`, `64 MiB`.

use super::UnitError;
use super::decimal::{Decimal, split_number};
use super::spelling::{Dimension, Unit};

const REMEDY: &str =
    "write a size with its unit: B, kB, MB, GB, TB (thousands) or KiB, MiB, GiB, TiB (1,024s)";

/// Returns the number of bytes that `text` states.
///
/// * Units: `B`, `kB`, `MB`, `GB`, `TB` in powers of 1,000; `KiB` to `TiB` in powers of 1,024.
/// * Errors: no unit, an unknown unit (`Mb` could be bits), or 2^64 bytes or more.
/// * Source: IEC 80000-13 for the binary prefixes.
pub fn parse_size(text: &str) -> Result<u64, UnitError> {
    let (number, unit) = split_number(text);
    let bad = |why: &str| UnitError::new(format!("`{text}` is not a size: {why}"), REMEDY);
    let value = Decimal::parse(number).ok_or_else(|| bad("it has no number in front"))?;
    if unit.is_empty() {
        return Err(bad("it has no unit"));
    }
    let unit = Unit::of_dimension(unit, Dimension::Size)
        .ok_or_else(|| bad(&format!("`{unit}` is not a unit of size")))?;
    value.times(unit.scale).ok_or_else(|| bad("it is too large to keep"))
}

/// Returns `bytes` to three figures in thousands: `1.42 MB`, `512 B`.
pub fn display_size(bytes: u64) -> String {
    let mut value = bytes as f64;
    let mut unit = "B";
    for next in ["kB", "MB", "GB", "TB"] {
        // 999.5 would already print as 1000 with no digits behind the point.
        if value < 999.5 {
            break;
        }
        value /= 1_000.0;
        unit = next;
    }
    let digits = match value {
        _ if unit == "B" => 0,
        v if v < 9.995 => 2,
        v if v < 99.95 => 1,
        _ => 0,
    };
    format!("{value:.digits$} {unit}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn reads_both_families() {
        for (text, bytes) in
            [("100 kB", 100_000), ("2.5 GB", 2_500_000_000), ("64MiB", 67_108_864), ("0 B", 0)]
        {
            assert_eq!(parse_size(text), Ok(bytes), "{text}");
        }
        for text in ["100", "1 Mb", "kB", "-1 kB", "1 mb", "99999999999 TB"] {
            assert!(parse_size(text).is_err(), "{text}");
        }
    }

    #[test]
    fn shows_three_figures() {
        let said =
            [0, 512, 1_000, 1_424_000, 99_960_000, 999_600_000, 3_221_225_472].map(display_size);
        assert_eq!(said, ["0 B", "512 B", "1.00 kB", "1.42 MB", "100 MB", "1.00 GB", "3.22 GB"]);
    }

    proptest! {
        #[test]
        fn never_panics(text in "\\PC{0,24}") {
            let _ = parse_size(&text);
        }
    }
}
