//! Laps of a search: what came of each load, and whether the loads are in order.

use crate::record::LoadOutcome;

/// A lap of a search.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SearchLap {
    /// The load's place among the steps, from 0.
    pub at: usize,
    /// What came of it.
    pub came: LoadOutcome,
}

impl SearchLap {
    /// Returns whether it held; what is strained does not.
    pub fn held(self) -> bool {
        self.came == LoadOutcome::Held
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
    /// Returns how many laps were run at the load.
    pub fn laps(self) -> u32 {
        self.held + self.strained + self.broke
    }
}

/// Returns how often each load that was tried held, smallest first.
pub fn shares(tried: &[SearchLap]) -> Vec<Share> {
    let mut places: Vec<usize> = tried.iter().map(|lap| lap.at).collect();
    places.sort_unstable();
    places.dedup();
    let of = |at: usize| {
        let count =
            |came| tried.iter().filter(|lap| lap.at == at && lap.came == came).count() as u32;
        let (held, strained, broke) =
            (count(LoadOutcome::Held), count(LoadOutcome::Strained), count(LoadOutcome::Broke));
        Share { at, held, strained, broke }
    };
    places.into_iter().map(of).collect()
}

#[cfg(test)]
pub(super) mod tests {
    use super::*;

    pub(in super::super) fn tried(laps: &[(usize, bool)]) -> Vec<SearchLap> {
        let came = |held: bool| if held { LoadOutcome::Held } else { LoadOutcome::Broke };
        laps.iter().map(|&(at, held)| SearchLap { at, came: came(held) }).collect()
    }

    #[test]
    fn loads_are_counted_by_what_came_of_them() {
        let mut laps = tried(&[(4, true), (4, false), (2, true)]);
        laps.push(SearchLap { at: 4, came: LoadOutcome::Strained });
        let two = Share { at: 2, held: 1, strained: 0, broke: 0 };
        let four = Share { at: 4, held: 1, strained: 1, broke: 1 };
        assert_eq!(shares(&laps), [two, four]);
        assert_eq!(four.laps(), 3);
        assert!(
            [LoadOutcome::Held, LoadOutcome::Strained, LoadOutcome::Broke]
                .iter()
                .all(|came| LoadOutcome::from_word(came.word()) == Some(*came))
        );
    }
}
