//! What a comparison says, in words.

use super::common::entry_words;
use super::list::count;
use honest_lap_core::judge::{NoIndex, Refusal, Verdict};
use honest_lap_core::record::Measure;
use honest_lap_core::unit::display_share;

/// The words for the two sides of a difference.
#[derive(Clone, Copy, Debug)]
pub struct Sides {
    better: &'static str,
    worse: &'static str,
}

/// Of several measures together, which are neither faster nor slower.
pub const OF_INDEX: Sides = Sides { better: "ahead", worse: "behind" };
/// Of a gain beside another.
pub const OF_GAIN: Sides = Sides { better: "larger", worse: "smaller" };

impl Sides {
    /// Returns the words that suit `measure`: only a time makes faster or slower.
    fn of(measure: &Measure) -> Self {
        match measure.is_time() {
            true => Self { better: "faster", worse: "slower" },
            false => Self { better: "better", worse: "worse" },
        }
    }
}

/// Returns a verdict on values of `measure`.
pub fn verdict_of(measure: &Measure, verdict: Verdict) -> String {
    verdict_words(verdict, Sides::of(measure))
}

/// Returns a verdict with the words of `sides`.
pub fn verdict_words(verdict: Verdict, sides: Sides) -> String {
    let Sides { better, worse } = sides;
    match verdict {
        Verdict::Faster => better.to_owned(),
        Verdict::Slower => worse.to_owned(),
        Verdict::FasterWithin(margin) => format!("{better}, but within {}", display_share(margin)),
        Verdict::SlowerWithin(margin) => format!("{worse}, but within {}", display_share(margin)),
        Verdict::SameWithin(margin) => format!("same within {}", display_share(margin)),
        Verdict::TooClose => "too close to call".to_owned(),
        Verdict::Refused(why @ (Refusal::NoLaps | Refusal::FewLaps(_))) => {
            format!("no verdict: {}", refusal_words(why))
        }
        Verdict::Refused(why) => refusal_words(why),
    }
}

/// Returns why nothing can be said.
pub fn refusal_words(why: Refusal) -> String {
    match why {
        Refusal::NoLaps => "no lap".to_owned(),
        Refusal::Failed => "failed".to_owned(),
        Refusal::NeverRun => "not run".to_owned(),
        Refusal::Unsupported => "unsupported".to_owned(),
        Refusal::NotComparable => "not comparable".to_owned(),
        Refusal::FewLaps(laps) => count(laps, "lap"),
        Refusal::NoRatio => "zero has no ratio".to_owned(),
    }
}

/// Returns why two rigs have no index.
pub fn no_index_words(why: &NoIndex) -> String {
    match why {
        NoIndex::Missing(missing) => {
            format!("{} is missing on {}", entry_words(&missing.of), missing.rigs.join(", "))
        }
        NoIndex::NothingInCommon { rig, base } => {
            format!("{rig} and {base} have no workload in common")
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::Better;

    #[test]
    fn words_suit_what_they_are_said_of() {
        let score = Measure { name: "score".into(), unit: String::new(), better: Better::More };
        let within = Verdict::FasterWithin(0.025);
        assert_eq!(verdict_of(&Measure::time(), within), "faster, but within 2.5 %");
        assert_eq!(verdict_of(&score, within), "better, but within 2.5 %");
        assert_eq!(verdict_words(Verdict::Slower, OF_INDEX), "behind");
        assert_eq!(verdict_words(Verdict::SameWithin(0.02), OF_GAIN), "same within 2 %");
        let few = Verdict::Refused(Refusal::FewLaps(2));
        assert_eq!(verdict_of(&score, few), "no verdict: 2 laps");
    }
}
