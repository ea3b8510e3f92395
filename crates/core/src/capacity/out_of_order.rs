//! Loads out of order: one that failed below one that held, where luck does not explain it.

use super::edge::{Edge, edge};
use super::search_lap::{SearchLap, Share, shares};

/// Returns a load that failed and a larger one that held, where luck does not explain it: by the lowest edge that
/// the laps at all other loads allow, so many would fail there once in a hundred searches at most.
///
/// Binomial tail, Bonferroni over the loads below the largest that held.
pub fn out_of_order(tried: &[SearchLap], steps: usize) -> Option<(usize, usize)> {
    const SELDOM: f64 = 0.01;
    let largest = tried.iter().filter(|lap| lap.held()).map(|lap| lap.at).max()?;
    let below: Vec<Share> = shares(tried).into_iter().filter(|share| share.at < largest).collect();
    let loads = below.len();
    let seldom = |share: &Share| {
        let others: Vec<SearchLap> =
            tried.iter().filter(|lap| lap.at != share.at).copied().collect();
        let Some(edge) = edge(&others, steps) else { return false };
        let lowest = Edge { at: edge.interval.low, ..edge };
        let fails = 1.0 - lowest.holds(share.at as f64);
        at_least(share.laps() - share.held, share.laps(), fails) < SELDOM / loads as f64
    };
    let found = below.into_iter().filter(|share| share.held < share.laps()).find(seldom)?;
    Some((found.at, largest))
}

/// Returns the chance that `some` or more of `all` come, each with chance `p`.
fn at_least(some: u32, all: u32, p: f64) -> f64 {
    let mut term = (1.0 - p).powi(all as i32);
    let mut below = 0.0;
    for count in 0..some {
        below += term;
        term *= f64::from(all - count) / f64::from(count + 1) * p / (1.0 - p);
    }
    1.0 - below
}

#[cfg(test)]
mod tests {
    use super::super::search_lap::tests::tried;
    use super::*;

    #[test]
    fn the_tail_of_a_coin_thrown_four_times() {
        // 1, 15/16, 11/16, 5/16, 1/16 by counting heads.
        let tail = [0, 1, 2, 3, 4].map(|some| at_least(some, 4, 0.5) * 16.0);
        assert!(tail.iter().zip([16.0, 15.0, 11.0, 5.0, 1.0]).all(|(a, b)| (a - b).abs() < 1e-9));
    }

    #[test]
    fn a_load_that_breaks_below_one_that_holds_is_out_of_order_unless_the_edge_is_near() {
        let plain =
            tried(&[(9, true), (10, true), (11, false), (10, false), (11, true), (12, false)]);
        assert_eq!(out_of_order(&plain, 100), None);
        let sharp = [(59, true), (60, true), (61, false), (62, false)].repeat(4);
        let mut odd = tried(&sharp);
        odd.extend(tried(&[(40, false)]));
        assert_eq!(out_of_order(&odd, 100), Some((40, 60)));
    }
}
