//! What a difference supports, in one of a handful of words.

use crate::estimate::Estimate;
use crate::stat::StatError;
use serde::Serialize;

/// What a comparison of time supports about a cell, held against its baseline.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "verdict", content = "detail", rename_all = "kebab-case")]
pub enum Verdict {
    /// The 95 % interval lies on the faster side.
    Faster,
    /// The 95 % interval lies on the slower side.
    Slower,
    /// Faster, and the 90 % interval lies inside the margin.
    FasterWithin(f64),
    /// Slower, and the 90 % interval lies inside the margin.
    SlowerWithin(f64),
    /// No difference shown, and the 90 % interval lies inside the margin.
    SameWithin(f64),
    /// Neither a difference nor sameness is shown.
    TooClose,
    /// Nothing can be said.
    Refused(Refusal),
}

/// Why nothing can be said.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Refusal {
    /// No lap counts, of this cell or of any it could be held against.
    NoLaps,
    /// Every try failed.
    Failed,
    /// No lap was run.
    NeverRun,
    /// The rig cannot do it, by its study.
    Unsupported,
    /// Both did other work, or did it otherwise.
    NotComparable,
    /// One side has too few laps: this many.
    FewLaps(usize),
    /// A value has no logarithm, so no ratio exists.
    NoRatio,
}

/// Laps on each side below which there is no verdict.
pub const LEAST_LAPS: usize = 3;

/// An interval's half-widths on the log scale, and the verdict they give.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Judged {
    /// Half-width of the interval that is shown.
    pub half_95: f64,
    /// The verdict.
    pub verdict: Verdict,
}

/// Returns the verdict on a time ratio `b / a`, about b.
///
/// ```text
/// 95 % interval excludes 1 → faster or slower    90 % interval inside ±ln(1 + margin) → same
/// both → faster, but within the margin             neither → too close to call
/// ```
/// * The chances of error are those of the two-sided interval that is shown and of that which the verdict is read off; the
///   other interval follows the latter.
/// * Source: two one-sided tests, Schuirmann (1987), <https://doi.org/10.1007/BF01068419>.
pub(super) fn judge(
    ratio: &Estimate,
    margin: f64,
    (shown, alpha): (f64, f64),
) -> Result<Judged, StatError> {
    let half_95 = ratio.half_width(1.0 - shown)?;
    let half = if alpha == shown { half_95 } else { ratio.half_width(1.0 - alpha)? };
    let half_90 = ratio.half_width(1.0 - 2.0 * alpha)?;
    let differs = ratio.log.abs() > half;
    let same = ratio.log.abs() + half_90 < margin.ln_1p();
    let verdict = match (differs, same, ratio.log < 0.0) {
        (true, false, true) => Verdict::Faster,
        (true, false, false) => Verdict::Slower,
        (true, true, true) => Verdict::FasterWithin(margin),
        (true, true, false) => Verdict::SlowerWithin(margin),
        (false, true, _) => Verdict::SameWithin(margin),
        (false, false, _) => Verdict::TooClose,
    };
    Ok(Judged { half_95, verdict })
}

/// Returns the verdict on an estimated time ratio `b / a`, about b, at a chance of error of `alpha`.
///
/// * Errors: as of [`Estimate::half_width`].
pub fn verdict(ratio: &Estimate, margin: f64, alpha: f64) -> Result<Verdict, StatError> {
    judge(ratio, margin, (alpha, alpha)).map(|judged| judged.verdict)
}

impl Verdict {
    /// Returns whether it says which is ahead.
    pub fn names_a_winner(self) -> bool {
        matches!(self, Self::Faster | Self::Slower | Self::FasterWithin(_) | Self::SlowerWithin(_))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn verdict(log: f64, se: f64, margin: f64) -> Verdict {
        // 1e4 degrees of freedom: half-widths are 1.96·se and 1.645·se.
        let ratio = Estimate { log, variance: se * se, degrees: 1e4 };
        super::verdict(&ratio, margin, 0.05).unwrap()
    }

    #[test]
    fn six_words_for_six_places() {
        assert_eq!(verdict(-0.10, 0.01, 0.02), Verdict::Faster);
        assert_eq!(verdict(0.10, 0.01, 0.02), Verdict::Slower);
        assert_eq!(verdict(-0.01, 0.001, 0.02), Verdict::FasterWithin(0.02));
        assert_eq!(verdict(0.01, 0.001, 0.02), Verdict::SlowerWithin(0.02));
        assert_eq!(verdict(0.001, 0.001, 0.02), Verdict::SameWithin(0.02));
        assert_eq!(verdict(0.01, 0.02, 0.02), Verdict::TooClose);
    }
}
