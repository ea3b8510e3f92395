//! Ranks: who is ahead of whom, of any number, as ranges that the laps support.

use crate::estimate::Estimate;
use crate::stat::{StatError, holm};
use serde::Serialize;

/// The ranks that one may have, counted from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct RankRange {
    /// The best.
    pub best: usize,
    /// The worst.
    pub worst: usize,
}

/// Two of those that are ranked, told apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct RankedApart {
    /// The one that is ahead.
    pub ahead: usize,
    /// The one that is behind.
    pub behind: usize,
}

/// Returns which of several are told apart; the chance of any false order among them is `alpha`.
///
/// ```text
/// p of a pair by the t of its estimate        Holm over all pairs        apart where p < alpha
/// ```
/// * Shape: `pairs` holds the estimated log ratio (second / first) of the pairs (0, 1), (0, 2), …, (1, 2), … of
///   `count`; of the values less is better. O(k² log k).
/// * Errors: as of [`Estimate::p`].
/// * Source: Holm (1979), <https://www.jstor.org/stable/4615733>.
/// * Units: none (logs).
pub fn told_apart(
    count: usize,
    pairs: &[Estimate],
    alpha: f64,
) -> Result<Vec<RankedApart>, StatError> {
    let p = pairs.iter().map(Estimate::p).collect::<Result<Vec<f64>, _>>()?;
    let places = (0..count).flat_map(|a| (a + 1..count).map(move |b| (a, b)));
    let all = places.zip(pairs).zip(holm(&p)).filter(|(_, adjusted)| *adjusted < alpha);
    Ok(all
        .map(|(((a, b), ratio), _)| match ratio.log > 0.0 {
            true => RankedApart { ahead: a, behind: b },
            false => RankedApart { ahead: b, behind: a },
        })
        .collect())
}

/// Returns the ranks of `count`, of which these are told apart.
///
/// ```text
/// best = 1 + number surely ahead        worst = k − number surely behind
/// ```
///
/// * Units: none (ranks from 1).
/// * Source: ranks as sets that the data leave possible, as in Goldstein and Spiegelhalter (1996), <https://doi.org/10.2307/2983325>.
pub fn ranks(count: usize, apart: &[RankedApart]) -> Vec<RankRange> {
    let mut places = vec![RankRange { best: 1, worst: count }; count];
    for pair in apart {
        places[pair.behind].best += 1;
        places[pair.ahead].worst -= 1;
    }
    places
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Returns what is estimated of every pair of values that are as sure as `sd`.
    fn pairs(logs: &[f64], sd: f64) -> Vec<Estimate> {
        let mut all = Vec::new();
        for (a, first) in logs.iter().enumerate() {
            let others = logs[a + 1..].iter();
            all.extend(others.map(|second| Estimate {
                log: second - first,
                variance: sd * sd,
                degrees: 6.0,
            }));
        }
        all
    }

    #[test]
    fn those_that_cannot_be_told_apart_share_their_ranks() {
        let pairs = pairs(&[0.0, 0.002, 0.34, 1.1], 0.01);
        let apart = told_apart(4, &pairs, 0.05).unwrap();
        assert_eq!(apart.len(), 5);
        let ranks: Vec<_> = ranks(4, &apart).iter().map(|p| (p.best, p.worst)).collect();
        assert_eq!(ranks, [(1, 2), (1, 2), (3, 3), (4, 4)]);
    }

    #[test]
    fn alike_to_the_last_digit_are_of_one_rank_however_sure_they_are() {
        let apart = told_apart(2, &pairs(&[0.5, 0.5], 0.0), 0.05).unwrap();
        assert_eq!(ranks(2, &apart), [RankRange { best: 1, worst: 2 }; 2]);
    }

    #[test]
    fn the_more_there_are_the_surer_a_pair_must_be() {
        // t = 3 with 6 degrees: p = 0.024, enough of one pair and not of three.
        let two = told_apart(2, &pairs(&[0.0, 0.03], 0.01), 0.05).unwrap();
        assert_eq!(two, [RankedApart { ahead: 0, behind: 1 }]);
        let three = told_apart(3, &pairs(&[0.0, 0.03, 0.015], 0.01), 0.05).unwrap();
        assert_eq!(three, []);
    }
}
