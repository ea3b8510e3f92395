//! Capacity: the largest load that holds, found by trying loads and never by one lucky lap.
//!
//! Loads are counted from 0 in the order of the workload's steps. Near its edge a program may hold or break
//! by luck, so an edge is where half of the laps would hold, and has an interval.

mod edge;
mod laps;
mod rule;
mod search;

pub use edge::{Edge, edge};
pub use laps::{
    CAPACITY, Searched, as_values, came_of, is_failure, measure, readings, searches, tried,
};
pub use search::{Search, next_load};

use crate::record::Came;

/// A lap of a search.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Tried {
    /// The load's place among the steps, from 0.
    pub at: usize,
    /// What came of it.
    pub came: Came,
}

impl Tried {
    /// Returns whether it held; what is strained does not.
    pub fn held(self) -> bool {
        self.came == Came::Held
    }
}

/// How often a load held.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Share {
    /// The load's place among the steps.
    pub at: usize,
    /// Laps that held.
    pub held: u32,
    /// Laps that worked with breaks.
    pub strained: u32,
    /// Laps that broke.
    pub broke: u32,
}

impl Share {
    /// Returns how many laps were driven at the load.
    pub fn laps(self) -> u32 {
        self.held + self.strained + self.broke
    }
}

/// Returns how often each load that was tried held, smallest first.
pub fn shares(tried: &[Tried]) -> Vec<Share> {
    let mut places: Vec<usize> = tried.iter().map(|lap| lap.at).collect();
    places.sort_unstable();
    places.dedup();
    let of = |at: usize| {
        let count =
            |came| tried.iter().filter(|lap| lap.at == at && lap.came == came).count() as u32;
        let (held, strained, broke) =
            (count(Came::Held), count(Came::Strained), count(Came::Broke));
        Share { at, held, strained, broke }
    };
    places.into_iter().map(of).collect()
}

/// Returns a load that failed and a larger one that held, where luck does not explain it: by the lowest edge that
/// the laps at all other loads allow, so many would fail there once in a hundred searches at most.
///
/// Binomial tail, Bonferroni over the loads below the largest that held.
pub fn out_of_order(tried: &[Tried], steps: usize) -> Option<(usize, usize)> {
    const SELDOM: f64 = 0.01;
    let largest = tried.iter().filter(|lap| lap.held()).map(|lap| lap.at).max()?;
    let below: Vec<Share> = shares(tried).into_iter().filter(|share| share.at < largest).collect();
    let loads = below.len();
    let seldom = |share: &Share| {
        let others: Vec<Tried> = tried.iter().filter(|lap| lap.at != share.at).copied().collect();
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
    use super::*;

    pub(super) fn tried(laps: &[(usize, bool)]) -> Vec<Tried> {
        let came = |held: bool| if held { Came::Held } else { Came::Broke };
        laps.iter().map(|&(at, held)| Tried { at, came: came(held) }).collect()
    }

    #[test]
    fn loads_are_counted_by_what_came_of_them() {
        let mut laps = tried(&[(4, true), (4, false), (2, true)]);
        laps.push(Tried { at: 4, came: Came::Strained });
        let two = Share { at: 2, held: 1, strained: 0, broke: 0 };
        let four = Share { at: 4, held: 1, strained: 1, broke: 1 };
        assert_eq!(shares(&laps), [two, four]);
        assert_eq!(four.laps(), 3);
        assert!(
            [Came::Held, Came::Strained, Came::Broke]
                .iter()
                .all(|came| Came::from_word(came.word()) == Some(*came))
        );
    }

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
