//! Which load is tried next: pure, so that a search that was interrupted goes on where it stood.

use super::edge::edge;
use super::{SearchLap, shares};

/// What a search is over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Search {
    /// How many loads there are, smallest first.
    pub steps: usize,
    /// Where it begins: where the last one ended.
    pub start: Option<usize>,
    /// The most laps that it takes.
    pub most: usize,
}

/// Laps on each side that must agree before an edge is taken for a sharp one. Of an edge three steps soft, four
/// and four that agree come once in a hundred searches.
const AGREE: u32 = 4;

/// How many steps an edge may lie in, and be sharp.
const SHARP: f64 = 8.0;

/// Returns the load to try next, by its place; `None` once the edge is known, or every lap was run.
///
/// First a bracket: from the start by doubling steps, or by halving all of it, until a load holds and the
/// next one does not. Then laps on both sides of that edge. Where they agree, it is sharp; where they do
/// not, laps go to both sides of where half would hold, until all are run.
pub fn next_load(search: &Search, tried: &[SearchLap]) -> Option<usize> {
    let last = search.steps.checked_sub(1)?;
    if tried.len() >= search.most {
        return None;
    }
    let held = tried.iter().filter(|lap| lap.held()).map(|lap| lap.at).max();
    let failed = tried.iter().filter(|lap| !lap.held()).map(|lap| lap.at).min();
    match (held, failed) {
        (None, None) => Some(search.start.map_or(last / 2, |start| start.min(last))),
        (Some(held), Some(failed)) if held >= failed => Some(around(tried, last)),
        (held, failed) => bracket(search, tried, (held, failed), last),
    }
}

/// Narrows what lies between the largest load that held and the smallest that did not.
fn bracket(
    search: &Search,
    tried: &[SearchLap],
    (held, failed): (Option<usize>, Option<usize>),
    last: usize,
) -> Option<usize> {
    let doubled = 1usize << tried.len().min(30).saturating_sub(1);
    match (held, failed) {
        (Some(held), None) if held == last => confirm(tried, &[last]),
        (None, Some(0)) => confirm(tried, &[0]),
        (Some(held), None) => Some(match search.start {
            Some(_) => (held + doubled).min(last),
            None => held + (last - held).div_ceil(2),
        }),
        (None, Some(failed)) => Some(match search.start {
            Some(_) => failed.saturating_sub(doubled),
            None => failed / 2,
        }),
        (Some(held), Some(failed)) if failed - held > 1 => Some(held + (failed - held) / 2),
        (Some(held), Some(failed)) => {
            confirm(tried, &[held, failed]).or_else(|| spread(tried, last))
        }
        (None, None) => None,
    }
}

/// Returns which of `sides` has had the fewest laps, until all have had enough.
fn confirm(tried: &[SearchLap], sides: &[usize]) -> Option<usize> {
    let counts = shares(tried);
    let laps =
        |at: usize| counts.iter().find(|share| share.at == at).map_or(0, |share| share.laps());
    let side = sides.iter().copied().min_by_key(|&at| laps(at))?;
    (laps(side) < AGREE).then_some(side)
}

/// Returns an end of what the laps leave possible, where that is wide yet: laps side by side cannot tell a sharp edge
/// from one so soft that they agreed by luck, and laps apart can.
fn spread(tried: &[SearchLap], last: usize) -> Option<usize> {
    let interval = edge(tried, last + 1)?.interval;
    if interval.high - interval.low <= SHARP {
        return None;
    }
    let end = if tried.len().is_multiple_of(2) { interval.low } else { interval.high };
    Some((end.round().max(0.0) as usize).min(last))
}

/// Returns a load beside where half would hold: below and above in turn.
fn around(tried: &[SearchLap], last: usize) -> usize {
    let Some(edge) = edge(tried, last + 1) else { return last / 2 };
    let side = if tried.len().is_multiple_of(2) { -edge.softness } else { edge.softness };
    // A soft edge is met at its flanks; a sharp one at the two loads beside it.
    let at = edge.at + side.signum() * side.abs().clamp(0.5, 0.25 * last as f64 + 0.5);
    (at.round().max(0.0) as usize).min(last)
}

#[cfg(test)]
mod tests {
    use super::super::Edge;
    use super::*;
    use crate::record::LoadOutcome;
    use crate::stat::SplitMix;

    /// Searches whose laps hold with chance `holds`; returns the laps.
    fn searched(search: &Search, mut holds: impl FnMut(usize) -> bool) -> Vec<SearchLap> {
        let mut tried = Vec::new();
        while let Some(at) = next_load(search, &tried) {
            let came = if holds(at) { LoadOutcome::Held } else { LoadOutcome::Broke };
            tried.push(SearchLap { at, came });
        }
        tried
    }

    const ALL: Search = Search { steps: 512, start: None, most: 36 };

    #[test]
    fn a_sharp_edge_takes_eighteen_laps_at_most_wherever_it_is() {
        for sharp in 1..511 {
            let tried = searched(&ALL, |at| at < sharp);
            let Edge { at, interval, .. } = edge(&tried, 512).unwrap();
            assert!(tried.len() <= 18, "{sharp}: {}", tried.len());
            assert!(at > sharp as f64 - 1.0 && at < sharp as f64, "{sharp}: {at}");
            assert!(interval.low < at && at < interval.high, "{sharp}: {interval:?}");
            assert!(interval.high - interval.low <= SHARP, "{sharp}: {interval:?}");
        }
    }

    #[test]
    fn the_interval_holds_an_edge_as_often_as_it_says_however_soft_it_is() {
        const LABS: u32 = 60;
        // Softness as a share of where the edge is, and where the search starts as a share of it.
        for (softness, start) in [(0.0, None), (0.03, None), (0.06, None), (0.1, Some(1.15))] {
            let mut random = SplitMix::new(20);
            let (mut held, mut laps, mut widths) = (0, Vec::new(), 0.0);
            for _ in 0..LABS {
                let hidden = 20.0 + 440.0 * random.unit();
                let soft = (softness * hidden).max(1e-3);
                let chance = |at: usize| 1.0 / (1.0 + ((at as f64 - hidden) / soft).exp());
                let start = start.map(|times| ((times * hidden) as usize).min(511));
                let tried = searched(&Search { start, ..ALL }, |at| random.unit() < chance(at));
                let interval = edge(&tried, 512).unwrap().interval;
                held += u32::from(interval.low <= hidden && hidden <= interval.high);
                widths += (interval.high - interval.low) / hidden;
                laps.push(tried.len());
            }
            laps.sort_unstable();
            let (held, width) = (f64::from(held) / f64::from(LABS), widths / f64::from(LABS));
            let median = laps[laps.len() / 2];
            println!("{softness}, {start:?}: held {held}, width {width:.3}, median {median} laps");
            // Two standard errors below the 93 % that are promised.
            assert!(held >= 0.93 - 2.0 * (0.93 * 0.07 / f64::from(LABS)).sqrt(), "{held}");
            assert!(softness > 0.0 || median <= 16);
        }
    }

    #[test]
    fn where_the_last_search_ended_the_next_begins() {
        let near = Search { start: Some(200), ..ALL };
        let tried = searched(&near, |at| at < 204);
        assert_eq!(tried[0].at, 200);
        assert!(tried.len() <= 14, "{}", tried.len());
    }

    #[test]
    fn ends_and_few_named_steps_are_confirmed_and_it_ends() {
        let three = Search { steps: 3, start: None, most: 36 };
        assert!(searched(&three, |_| true).iter().filter(|lap| lap.at == 2).count() >= 4);
        assert!(searched(&three, |_| false).iter().filter(|lap| lap.at == 0).count() >= 4);
        assert_eq!(searched(&Search { steps: 1, ..three }, |_| true).len(), 4);
        assert_eq!(next_load(&Search { steps: 0, ..three }, &[]), None);
        let most = searched(&Search { most: 5, ..ALL }, |at| at < 9);
        assert_eq!(most.len(), 5, "no more laps than asked for");
    }

    #[test]
    fn a_search_goes_on_where_it_stood() {
        let whole = searched(&ALL, |at| at < 77);
        for stood in 0..whole.len() {
            assert_eq!(next_load(&ALL, &whole[..stood]), Some(whole[stood].at));
        }
    }
}
