//! Variants of one rig that were run in turn: they share the session, and differ by what a variant has of its own.

use super::{BetweenSessions, ENOUGH_SESSIONS, Estimate, LapSpread};
use crate::stat::{LapsNeeded, StatError, chi_squared_quantile, mean, standard_deviation};

/// Returns the mean log ratio of pairs that were run in turn, session by session.
///
/// ```text
/// d = ln(b/a) in a round        one mean d̄ₛ a session        estimate = mean of d̄ₛ
/// K ≥ 3: s²(d̄)/K with K − 1 degrees
/// K = 1: σ²/n + 2·I²        K = 2: (ν·(σ²/n + 2·I²) + s²(d̄)) / (ν + 1) / 2        I = τ̂/4 with the degrees of τ̂
/// ```
/// where σ² is the variance of d within sessions, τ̂² the between-session variance and ν the degrees of the part in brackets, no more
/// than those of τ̂. An I that was not there cannot be told from laps of one or two sessions: it is assumed.
///
/// * Shape: a series of differences for each session, empty ones left out. O(n). Where there are too few, σ² is held
///   together with twice the `lent` variance of a lap.
/// * Units: none (logs).
/// * Errors: [`StatError::TooFew`] with a single difference in all.
/// * Source: moderated variance, Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>; degrees by Satterthwaite (1946).
pub fn in_turn(
    sessions: &[Vec<f64>],
    between: &BetweenSessions,
    lent: Option<LapSpread>,
) -> Result<Estimate, StatError> {
    let sessions: Vec<&[f64]> =
        sessions.iter().map(Vec::as_slice).filter(|session| !session.is_empty()).collect();
    let means = sessions.iter().map(|session| mean(session)).collect::<Result<Vec<f64>, _>>()?;
    let log = mean(&means)?;
    if means.len() >= ENOUGH_SESSIONS {
        let variance = standard_deviation(&means)?.powi(2) / means.len() as f64;
        return Ok(Estimate { log, variance, degrees: (means.len() - 1) as f64 });
    }
    // A difference of two laps has twice the variance of one.
    let lent = lent.map_or((0.0, 0.0), |known| (2.0 * known.variance(), known.degrees()));
    let (mut squares, mut degrees) = (lent.0 * lent.1, lent.1);
    for session in sessions.iter().filter(|session| session.len() > 1) {
        let own = (session.len() - 1) as f64;
        squares += own * standard_deviation(session)?.powi(2);
        degrees += own;
    }
    if degrees < 1.0 {
        return Err(StatError::TooFew { needed: 2, found: sessions.len() });
    }
    // One over the number of differences, on average over the sessions.
    let share: f64 =
        sessions.iter().map(|session| 1.0 / session.len() as f64).sum::<f64>() / means.len() as f64;
    let laps = (squares / degrees * share, degrees);
    let interaction = (2.0 * between.interaction(), between.degrees());
    let expected = Estimate::of_parts(log, [laps, interaction]);
    if means.len() == 1 {
        return Ok(expected);
    }
    let known = expected.degrees.min(between.degrees());
    let own = standard_deviation(&means)?.powi(2);
    let variance = (known * expected.variance + own) / (known + 1.0) / 2.0;
    Ok(Estimate { log, variance, degrees: known + 1.0 })
}

/// Beyond this many pairs, more of them are not a practical answer.
const MOST_PAIRS: u32 = 10_000;

/// The share of cases in which the assured number is enough.
const ASSURANCE: f64 = 0.8;

/// Returns how many pairs in one session make their ratio as sharp as wanted; `None` where no number does.
///
/// ```text
/// smallest n with the half-width of [`in_turn`] for K = 1, reading included, ≤ target
/// assured: s replaced by s·√(df / χ²(0.2; df)), its 80 % upper bound
/// ```
/// * Units: none; `sd` is the standard deviation of a pair's log ratio with `df` degrees of freedom; `target` is a
///   half-width on logs; `reading` the standard uncertainty of reading both.
/// * Errors: [`StatError::OutOfRange`] for an `sd` or `df` outside its range.
/// * Source: Browne (1995), <https://doi.org/10.1002/sim.4780141709>, for the bound on s.
pub fn pairs_needed(
    sd: f64,
    df: f64,
    target: f64,
    reading: f64,
    between: &BetweenSessions,
) -> Result<Option<LapsNeeded>, StatError> {
    let upper = sd * (df / chi_squared_quantile(1.0 - ASSURANCE, df)?).sqrt();
    let (plain, assured) =
        (smallest(sd, target, reading, between)?, smallest(upper, target, reading, between)?);
    Ok(plain.zip(assured).map(|(plain, assured)| LapsNeeded { plain, assured }))
}

fn smallest(
    sd: f64,
    target: f64,
    reading: f64,
    between: &BetweenSessions,
) -> Result<Option<u32>, StatError> {
    let enough = |n: u32| -> Result<bool, StatError> {
        let laps = (sd * sd / f64::from(n), f64::from(n - 1));
        let interaction = (2.0 * between.interaction(), between.degrees());
        let ratio = Estimate::of_parts(0.0, [laps, interaction]).widened(reading.powi(2));
        Ok(ratio.half_width(0.95)? <= target)
    };
    if !enough(MOST_PAIRS)? {
        return Ok(None);
    }
    let (mut few, mut many) = (1, MOST_PAIRS);
    while many - few > 1 {
        let middle = few.midpoint(many);
        if enough(middle)? { many = middle } else { few = middle }
    }
    Ok(Some(many))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::estimate::Unit;

    #[test]
    fn three_sessions_are_one_value_each() {
        let sessions = [vec![0.01, 0.03], vec![0.03], vec![], vec![0.04]];
        let found = in_turn(&sessions, &BetweenSessions::default(), None).unwrap();
        // Means 0.02, 0.03, 0.04: mean 0.03, s = 0.01.
        assert!((found.log - 0.03).abs() < 1e-12);
        assert!((found.variance - 1e-4 / 3.0).abs() < 1e-12);
        assert_eq!(found.degrees, 2.0);
    }

    #[test]
    fn one_session_is_never_surer_than_what_a_variant_may_have_of_its_own() {
        // A quarter of 1.5 % on both sides: 2·(0.375 %)².
        let none = BetweenSessions::default();
        let found = in_turn(&[vec![0.01; 400]], &none, None).unwrap();
        assert!((found.variance - 2.812_5e-5).abs() < 1e-12);
        let spread = in_turn(&[vec![0.0, 0.02]], &none, None).unwrap();
        // s² = 2e-4, n = 2: 1e-4 + 2.8125e-5.
        assert!((spread.variance - 1.281_25e-4).abs() < 1e-12);
        assert!(in_turn(&[vec![0.01]], &none, None).is_err());
        // A pair by itself, of laps that are known to differ by 1 %: 2·(1 %)² and 2.8125e-5.
        let known = LapSpread::of([Unit { squares: 8e-4, degrees: 8.0 }], None);
        let lent = in_turn(&[vec![0.01]], &none, known).unwrap();
        assert!((lent.variance - 2.281_25e-4).abs() < 1e-12);
        // Where days have differed by less, so is what a variant has of its own.
        let quiet = none.with_stated(Some(0.004));
        assert!((in_turn(&[vec![0.01; 400]], &quiet, None).unwrap().variance - 2e-6).abs() < 1e-12);
    }

    #[test]
    fn a_second_session_narrows_it_and_one_that_disagrees_widens_it() {
        let session = |off: f64| vec![off, off + 0.002, off - 0.002, off + 0.001, off - 0.001];
        let half = |sessions: &[Vec<f64>]| {
            in_turn(sessions, &BetweenSessions::default(), None).unwrap().half_width(0.95).unwrap()
        };
        let one = half(&[session(0.01)]);
        let two = half(&[session(0.01), session(0.011)]);
        let apart = half(&[session(0.01), session(0.05)]);
        assert!(two < one && one < apart, "{two} {one} {apart}");
    }

    #[test]
    fn as_many_pairs_as_are_needed_make_it_sharp_enough() {
        let target = 0.02;
        let needed = |sd, reading| {
            pairs_needed(sd, 5.0, target, reading, &BetweenSessions::default()).unwrap()
        };
        let need = needed(0.02, 0.0).unwrap();
        assert!(need.plain < need.assured, "{need:?}");
        let half = |n: u32| {
            // Alternating ±0.02 around nothing: as near to a standard deviation of 0.02 as n allows.
            let session: Vec<f64> = (0..n).map(|i| 0.02 * (f64::from(i % 2) * 2.0 - 1.0)).collect();
            in_turn(&[session], &BetweenSessions::default(), None)
                .unwrap()
                .half_width(0.95)
                .unwrap()
        };
        assert!(half(need.plain + 2) < target && half(need.plain - 4) > target, "{need:?}");
        // What is read to the second cannot be made sharp by more laps.
        assert_eq!(needed(0.02, 0.01), None);
        assert!(needed(0.02, 0.004).unwrap().plain > need.plain);
    }
}
