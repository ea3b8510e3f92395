//! The SI prefix that suits an amount of work, whose unit is the user's own.

use super::spelling::PREFIXES;

/// Units of work that may stand behind a prefix, besides those in capitals (`FLOP`, `B`).
const BASES: [&str; 22] = [
    "op", "ops", "byte", "bytes", "bit", "bits", "pixel", "pixels", "sample", "samples", "step",
    "steps", "path", "paths", "ray", "rays", "tile", "tiles", "node", "nodes", "record", "records",
];
/// Amounts from here on take a prefix, or a larger one.
const LONG: f64 = 100_000.0;
/// Amounts below this lose theirs.
const SHORT: f64 = 0.01;

/// Returns by what amounts in `unit` are divided so that the largest of them is read easily, and the unit that they are in
/// then: (1e6, `MFLOP`) of 2.7e8 FLOP. A unit that may or may not have a prefix is left alone, as `Mesh` is.
pub fn suited(largest: f64, unit: &str) -> (f64, String) {
    let same = (1.0, unit.to_owned());
    let Some((times, base)) = split(unit) else { return same };
    let long = largest >= LONG;
    let short = largest < SHORT && largest > 0.0 && times > 1.0;
    if !long && !short {
        return same;
    }
    let amount = largest * times;
    let fits = PREFIXES.iter().filter(|(prefix, _)| *prefix != "K");
    let best = fits.rev().find(|(_, other)| amount / other >= 1.0).unwrap_or(&PREFIXES[0]);
    (best.1 / times, format!("{}{base}", best.0))
}

/// Returns what a unit is multiplied by, and the unit without that, where that is beyond doubt.
fn split(unit: &str) -> Option<(f64, &str)> {
    let is_base =
        |base: &str| BASES.contains(&base) || (base == base.to_uppercase() && !base.is_empty());
    let with = |(prefix, times): &(&str, f64)| {
        let base = unit.strip_prefix(prefix).filter(|base| !prefix.is_empty() && is_base(base))?;
        Some((*times, base))
    };
    let found = PREFIXES.iter().find_map(with);
    found.or_else(|| is_base(unit).then_some((1.0, unit)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn amounts_are_read_easily_and_words_are_no_prefixes() {
        let of = |largest: f64, unit: &str| {
            let (by, unit) = suited(largest, unit);
            (largest / by, unit)
        };
        assert_eq!(of(268_435_456.0, "FLOP"), (268.435456, "MFLOP".to_owned()));
        assert_eq!(of(1_900_000.0, "MFLOP"), (1.9, "TFLOP".to_owned()));
        let (value, unit) = of(0.002, "GB");
        assert!((value - 2.0).abs() < 1e-9 && unit == "MB", "{value} {unit}");
        assert_eq!(of(272.0, "Mpath"), (272.0, "Mpath".to_owned()));
        assert_eq!(of(272_000.0, "Mpath"), (272.0, "Gpath".to_owned()));
        for unit in ["Mesh", "Tile", "still", "kilogram"] {
            assert_eq!(of(5e6, unit), (5e6, unit.to_owned()), "{unit}");
        }
        assert_eq!(of(5e6, "tile"), (5.0, "Mtile".to_owned()));
        assert_eq!(of(0.002, "FLOP"), (0.002, "FLOP".to_owned()));
    }
}
