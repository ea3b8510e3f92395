//! What the laps say to a claim, in words.

use super::common::lap_of;
use super::verdict::{no_index_words, refusal_words};
use honest_lap_core::claim::{Caution, Unsaid};
use honest_lap_core::judge::{LEAST_LAPS, Refusal};

/// Returns why nothing is said of a part of a claim.
pub fn unsaid_words(why: &Unsaid) -> String {
    match why {
        Unsaid::NoLaps(rig) => format!("{rig} has no laps of it"),
        Unsaid::NoneCounts => "no lap of it counts".to_owned(),
        Unsaid::FewLaps(laps) => {
            format!("{}, and {LEAST_LAPS} are needed", refusal_words(Refusal::FewLaps(*laps)))
        }
        Unsaid::TooFewForPlace(rig) => format!("{rig} has too few laps of it for a rank"),
        Unsaid::ComparedNowhere => "it is compared nowhere".to_owned(),
        Unsaid::NoLogarithm => "its values have no logarithm".to_owned(),
        Unsaid::NoIndex(why) => no_index_words(why),
    }
}

/// Returns how the wording of a claim misleads.
pub fn caution_words(caution: &Caution) -> String {
    match caution {
        Caution::NowhereSaid => {
            "nothing is said of where: taken as overall; say `on WORKLOAD` or `on every task`"
                .to_owned()
        }
        Caution::AverageOfPercentages => {
            "an average of percentages depends on which is held against which: taken as \
             overall, the weighted geometric mean"
                .to_owned()
        }
        Caution::PercentSlower { said, speed } => format!(
            "{said} slower has two meanings: taken as {speed}× the speed, and not as {said} more time"
        ),
        Caution::TimesFaster { times } => format!(
            "{times}× faster is commonly said of {times}× the speed, and was taken as that: say {times}× as fast"
        ),
        Caution::MayStandAnywhere { rig, why } => {
            format!("{rig} may stand anywhere, since {}", no_index_words(why))
        }
        Caution::UpTo { largest, of, typical, among } => format!(
            "`up to` is said of the largest of {among}: {largest:.2}× on {}; the geometric mean of all is {typical:.2}×",
            lap_of(&of.workload, &of.settings)
        ),
        Caution::TimeSavedCalledSpeed { share, measure, speed } => format!(
            "{:.0} % is the share of {measure} saved; as speed that is {speed:.2}×",
            share * 100.0
        ),
    }
}
