//! A paper peak: what a rig could do at most, by a document and not by a lap.

use crate::record::Settings;
use crate::unit::{Amount, PREFIXES, UnitError, parse_amount};
use serde::Serialize;

/// What a rig could do at most.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Peak {
    /// The work in a second.
    pub a_second: Amount,
    /// Where the figure comes from.
    pub from: String,
    /// The setting and its value that it is of; of every variant where there is none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub of: Option<(String, String)>,
}

impl Peak {
    /// Returns whether it is of a variant with these settings.
    fn is_of(&self, settings: &Settings) -> bool {
        self.of.as_ref().is_none_or(|(name, value)| settings.get(name) == Some(value))
    }
}

/// Returns the work in a second that `text` states, such as `1.9 TFLOP/s`.
///
/// * Errors: [`UnitError`] of anything else, with how it is written.
pub fn parse_rate(text: &str) -> Result<Amount, UnitError> {
    let remedy = "write a number above 0 and work a second, such as \"1.9 TFLOP/s\" or \"51 GB/s\"";
    let wrong = || UnitError::new(format!("`{text}` is no work a second"), remedy);
    let work = text.trim().strip_suffix("/s").ok_or_else(wrong)?;
    parse_amount(work).map_err(|_| wrong())
}

/// Returns how many of the unit `to` are in one of the unit `from`, where they differ by SI prefixes only.
fn converts(from: &str, to: &str) -> Option<f64> {
    if from == to {
        return Some(1.0);
    }
    let split = |unit: &str| -> Vec<(String, f64)> {
        let of =
            |(prefix, times): (&str, f64)| Some((unit.strip_prefix(prefix)?.to_owned(), times));
        PREFIXES.into_iter().filter_map(of).filter(|(base, _)| !base.is_empty()).collect()
    };
    let tos = split(to);
    let pairs = split(from).into_iter().filter_map(|(base, times)| {
        let (_, other) = tos.iter().find(|(known, _)| *known == base)?;
        Some((base.len(), times / other))
    });
    // Of two ways to read a unit, the one that takes less of it for a prefix.
    pairs.max_by_key(|(length, _)| *length).map(|(_, factor)| factor)
}

/// Returns the share of a peak that `rate` is, in the unit `unit` a second, and that peak.
///
/// ```text
/// share = measured rate / paper peak        kFLOP, MFLOP, GFLOP … are turned into each other
/// ```
///
/// A peak of the very setting comes ahead of one of all.
///
/// * Units: `rate` in `unit` a second; a share has none.
/// * Source: a definition of this tool.
pub fn share_of_peak<'a>(
    rate: f64,
    unit: &str,
    settings: &Settings,
    peaks: &'a [Peak],
) -> Option<(f64, &'a Peak)> {
    let of = |peak: &'a Peak| {
        let factor = converts(unit, &peak.a_second.unit)?;
        Some((rate * factor / peak.a_second.value, peak))
    };
    let fits = |peak: &&Peak| peak.is_of(settings);
    let own = peaks.iter().filter(|peak| peak.of.is_some()).filter(fits).find_map(of);
    own.or_else(|| peaks.iter().filter(|peak| peak.of.is_none()).find_map(of))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn peak(text: &str) -> Peak {
        Peak { a_second: parse_rate(text).unwrap(), from: "the leaflet".into(), of: None }
    }

    #[test]
    fn a_rate_is_held_against_the_peak_of_its_own_unit() {
        let peaks = [peak("51 GB/s"), peak("1.9 TFLOP/s")];
        let any = Settings::default();
        let (found, from) = share_of_peak(95.0, "GFLOP", &any, &peaks).unwrap();
        assert!((found - 0.05).abs() < 1e-12, "{found}");
        assert_eq!(from.a_second.unit, "TFLOP");
        assert!((share_of_peak(25_500.0, "MB", &any, &peaks).unwrap().0 - 0.5).abs() < 1e-12);
        assert_eq!(share_of_peak(3.0, "Mpixel", &any, &peaks), None);
        // `Pixel` is no prefix P ahead of `ixel`, and a `Mstep` is a thousand `kstep`.
        assert_eq!(converts("Pixel", "Pixel"), Some(1.0));
        assert_eq!(converts("Mstep", "kstep"), Some(1e3));
        assert_eq!(converts("T", "k"), None);
    }

    #[test]
    fn a_peak_of_a_setting_is_of_the_variants_that_have_it() {
        let of = |value: &str, text: &str| {
            let of = Some(("precision".to_owned(), value.to_owned()));
            Peak { of, ..peak(text) }
        };
        let peaks = [peak("1 TFLOP/s"), of("fp64", "80 GFLOP/s"), of("fp32", "160 GFLOP/s")];
        let share = |value: &str| {
            let settings = Settings::new(vec![("precision".into(), value.into())]);
            share_of_peak(40.0, "GFLOP", &settings, &peaks).unwrap().0
        };
        assert_eq!((share("fp64"), share("fp32"), share("fp16")), (0.5, 0.25, 0.04));
        let only = &peaks[1..2];
        assert_eq!(share_of_peak(40.0, "GFLOP", &Settings::default(), only), None);
    }

    #[test]
    fn a_peak_is_work_a_second() {
        for bad in ["1.9 TFLOP", "TFLOP/s", "0 FLOP/s", "1.9/s", "3 FLOP/min"] {
            assert!(parse_rate(bad).is_err(), "{bad}");
        }
        assert_eq!(parse_rate(" 1.9 TFLOP/s").map(|a| a.to_string()), Ok("1.9 TFLOP".into()));
    }
}
