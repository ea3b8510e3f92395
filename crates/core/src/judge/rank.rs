//! Places: who is ahead of whom, of any number, as ranges that the laps support.

use crate::stat::{StatError, holm, logs, mean, standard_deviation, t_upper_tail, welch};

/// The places that one may have, counted from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Places {
    /// The best.
    pub best: usize,
    /// The worst.
    pub worst: usize,
}

/// One of those that are ranked.
#[derive(Clone, Debug, PartialEq)]
pub struct Contender {
    /// Its values, of which less is better.
    pub values: Vec<f64>,
    /// The variance of its mean log beyond what its values show: the luck of its only day, reading by
    /// hand.
    pub luck: f64,
}

/// A ranking of several.
#[derive(Clone, Debug, PartialEq)]
pub struct Ranking {
    /// The places of each, in the order in which they were given.
    pub places: Vec<Places>,
    /// What was found of each pair (0, 1), (0, 2), …, (1, 2), ….
    pub pairs: Vec<RankedPair>,
}

/// How sure it is that two are not the same: p of 'they are'.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct RankedPair {
    /// By Welch's t.
    pub welch: f64,
    /// By the t with the spread of all.
    pub pooled: f64,
    /// By the larger of both, adjusted for the number of pairs.
    pub adjusted: f64,
}

/// Returns the places of several; the chance of any false order among them is `alpha`.
///
/// ```text
/// t = |ȳA − ȳB| / √(se² + luck A + luck B)        y = ln value
/// p of a pair = max(p by Welch's se and df, p by the s² of all pooled)        Holm over all pairs
/// best = 1 + number surely ahead        worst = k − number surely behind
/// ```
/// The pooled t alone is wrong where spreads differ; Welch's alone has few degrees of freedom. The
/// larger of both is never too sure.
///
/// * Shape: `k ≥ 2` contenders with at least 2 positive values each. O(k²).
/// * Units: all share theirs.
/// * Errors: [`StatError::TooFew`], [`StatError::NotPositive`].
/// * Source: Welch (1947), <https://doi.org/10.1093/biomet/34.1-2.28>; Holm (1979),
///   <https://www.jstor.org/stable/4615733>.
pub fn ranking(all: &[Contender], alpha: f64) -> Result<Ranking, StatError> {
    let mut squares = 0.0;
    let mut freedom = 0.0;
    let mut means = Vec::new();
    for contender in all {
        let logs = logs(&contender.values)?;
        let of = (logs.len() - 1) as f64;
        squares += of * standard_deviation(&logs)?.powi(2);
        freedom += of;
        means.push(mean(&logs)?);
    }
    let pooled = squares / freedom;
    let mut pairs = Vec::new();
    for (a, first) in all.iter().enumerate() {
        for (b, second) in all.iter().enumerate().skip(a + 1) {
            let luck = first.luck + second.luck;
            let apart = (means[b] - means[a]).abs();
            let p = |squared: f64, df: f64| match apart > 0.0 {
                true => t_upper_tail(apart / (squared + luck).sqrt(), df).map(|tail| 2.0 * tail),
                false => Ok(1.0),
            };
            let own = welch(&first.values, &second.values)?;
            let (n, m) = (first.values.len() as f64, second.values.len() as f64);
            pairs.push(RankedPair {
                welch: p(own.se.powi(2), own.df)?,
                pooled: p(pooled * (1.0 / n + 1.0 / m), freedom)?,
                adjusted: 1.0,
            });
        }
    }
    let larger: Vec<f64> = pairs.iter().map(|pair| pair.welch.max(pair.pooled)).collect();
    for (pair, adjusted) in pairs.iter_mut().zip(holm(&larger)) {
        pair.adjusted = adjusted;
    }
    let mut places = vec![Places { best: 1, worst: all.len() }; all.len()];
    let mut pair = 0;
    for a in 0..all.len() {
        for b in a + 1..all.len() {
            if pairs[pair].adjusted < alpha {
                let (ahead, behind) = if means[a] < means[b] { (a, b) } else { (b, a) };
                places[behind].best += 1;
                places[ahead].worst -= 1;
            }
            pair += 1;
        }
    }
    Ok(Ranking { places, pairs })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(values: &[f64], luck: f64) -> Contender {
        Contender { values: values.to_vec(), luck }
    }

    #[test]
    fn those_that_cannot_be_told_apart_share_their_places() {
        let about = |typical: f64| of(&[0.99, 1.0, 1.01, 1.005].map(|share| share * typical), 0.0);
        let all = [about(10.0), about(10.02), about(14.0), about(30.0)];
        let found = ranking(&all, 0.05).unwrap();
        let places: Vec<(usize, usize)> = found.places.iter().map(|p| (p.best, p.worst)).collect();
        assert_eq!(places, [(1, 2), (1, 2), (3, 3), (4, 4)]);
        assert_eq!(found.pairs.len(), 6);
    }

    #[test]
    fn alike_to_the_last_digit_are_of_one_place_and_single_laps_have_none() {
        let found = ranking(&[of(&[5.0; 3], 0.0), of(&[5.0; 3], 0.0)], 0.05).unwrap();
        assert_eq!(found.places, [Places { best: 1, worst: 2 }; 2]);
        assert!(ranking(&[of(&[5.0], 0.0), of(&[6.0, 6.1], 0.0)], 0.05).is_err());
    }

    #[test]
    fn the_luck_of_a_day_keeps_neighbours_together() {
        let near = |luck| [of(&[10.0, 10.01, 9.99], luck), of(&[10.2, 10.21, 10.19], luck)];
        assert_eq!(ranking(&near(0.0), 0.05).unwrap().places[1].best, 2);
        assert_eq!(ranking(&near(0.015f64.powi(2)), 0.05).unwrap().places[1].best, 1);
    }
}
