//! Stretches of a pass that look as if they did not belong to it: loading screens, menus, pauses.
//!
//! They are proposed, never cut: only a person knows what was on the screen.

use super::sums::{median, median_by_time};
use crate::record::{Pass, Stretch};
use crate::unit::Nanos;
use std::ops::Range;

/// The pass is looked at in slices of this length.
const SLICE: u64 = 250_000_000;
/// A stretch is this long, at least.
const LEAST: u64 = 1_000_000_000;
/// Frames this many times slower than the pass's median look like loading.
const SLOW: f64 = 3.0;
/// Frames this many times faster look like an idle screen.
const FAST: f64 = 2.0;
/// A single frame of this length does, too.
const HALT: u64 = 1_000_000_000;

/// What a stretch looks like.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Looks {
    /// Far fewer frames than usual, or none: a loading screen, a pause.
    Loading,
    /// Far more frames than usual: a menu, an empty screen.
    Idle,
}

/// A stretch that may not belong to the pass.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Proposal {
    /// Where it is.
    pub stretch: Stretch,
    /// What it looks like.
    pub looks: Looks,
    /// How many frames it holds.
    pub frames: usize,
}

/// Returns the stretches of `frames` that look like loading or idling.
///
/// Slices of a quarter of a second whose median frame time is more than three times the usual one, or less than half of
/// it, are joined where they touch; what lasts a second or more is
/// proposed. More than half of a pass is never proposed as one look: then it is the pass.
///
/// The usual frame time is the median by time: half of the pass's time went into frames that are no longer. By number, a
/// fast menu of a few seconds would be the pass, and the scene behind it loading.
///
/// * Shape: frame times in order. O(n).
/// * Units: nanoseconds.
pub fn proposals(frames: &[u64]) -> Vec<Proposal> {
    look(&Seen { frames, values: frames, usual: median_by_time(frames), by_work: false })
}

/// Returns the stretches of a pass that look like loading or idling, by its frame times and by what the work behind them
/// took: under a cap a menu runs as fast as the scene, and its work is done in far less than half the time.
///
/// * Shape: as [`proposals`]; of busy times, the longer of processor and card, where every frame has one.
pub fn proposals_of(pass: &Pass) -> Vec<Proposal> {
    let mut found = proposals(&pass.shown);
    let at = |of: &[u64], place: usize| of.get(place).copied().unwrap_or(0);
    let work: Vec<u64> = (0..pass.shown.len())
        .map(|place| at(&pass.processor, place).max(at(&pass.graphics, place)))
        .collect();
    if work.is_empty() || work.contains(&0) {
        return found;
    }
    let usual = median(&mut work.to_vec());
    let by_work = look(&Seen { frames: &pass.shown, values: &work, usual, by_work: true });
    let meets = |one: &Stretch, other: &Stretch| one.from < other.to && other.from < one.to;
    let apart = |new: &Proposal| !found.iter().any(|known| meets(&new.stretch, &known.stretch));
    let new: Vec<Proposal> = by_work.into_iter().filter(apart).collect();
    found.extend(new);
    found.sort_by_key(|proposal| proposal.stretch.from);
    found
}

/// A pass as it is looked at: by its frame times, or by the work behind its frames.
struct Seen<'a> {
    /// How long each frame was shown.
    frames: &'a [u64],
    /// What is looked at, frame by frame.
    values: &'a [u64],
    /// What it usually is.
    usual: f64,
    /// Whether it is work, of which much is no loading screen.
    by_work: bool,
}

impl Seen<'_> {
    /// Returns what a slice looks like, if it is not as usual.
    fn looks(&self, slice: &Range<usize>) -> Option<Looks> {
        let values = &self.values[slice.clone()];
        let (least, most) = (*values.iter().min()?, *values.iter().max()?);
        // What is all as usual has a median that is.
        let (low, high) = (self.usual / FAST, self.usual * SLOW);
        if least as f64 >= low && most as f64 <= high && (self.by_work || most < HALT) {
            return None;
        }
        match median(&mut values.to_vec()) / self.usual {
            ratio if !self.by_work && (ratio > SLOW || most >= HALT) => Some(Looks::Loading),
            ratio if ratio * FAST < 1.0 => Some(Looks::Idle),
            _ => None,
        }
    }
}

fn look(seen: &Seen<'_>) -> Vec<Proposal> {
    let frames = seen.frames;
    let mut runs: Vec<(Looks, Range<usize>)> = Vec::new();
    for slice in slices(frames) {
        let Some(looks) = seen.looks(&slice) else { continue };
        match runs.last_mut() {
            Some((last, run)) if *last == looks && run.end == slice.start => run.end = slice.end,
            _ => runs.push((looks, slice)),
        }
    }
    let fitted = |(looks, run)| (looks, fitted(looks, run, seen.values, seen.usual));
    let whole: u64 = frames.iter().sum();
    let (mut place, mut moment) = (0, 0);
    let mut at = |next: usize| {
        // Two runs may meet, and then the later one begins a little earlier.
        let passed: u64 = frames[place.min(next)..place.max(next)].iter().sum();
        moment = if next >= place { moment + passed } else { moment - passed };
        place = next;
        Nanos(moment)
    };
    let proposal = |(looks, run): (Looks, Range<usize>)| {
        let stretch = Stretch { from: at(run.start), to: at(run.end) };
        Proposal { stretch, looks, frames: run.len() }
    };
    let mut found: Vec<Proposal> = runs.into_iter().map(fitted).map(proposal).collect();
    let length = |p: &Proposal| p.stretch.to.minus(p.stretch.from).0;
    found.retain(|proposal| length(proposal) >= LEAST);
    for looks in [Looks::Loading, Looks::Idle] {
        let all = found.iter().filter(|p| p.looks == looks);
        if all.map(length).sum::<u64>() * 2 > whole {
            found.retain(|proposal| proposal.looks != looks);
        }
    }
    found
}

/// Returns the slices that a pass is looked at in; a frame as long as a slice has one of its own.
fn slices(frames: &[u64]) -> impl Iterator<Item = Range<usize>> {
    let mut first = 0;
    std::iter::from_fn(move || {
        let (begin, mut length) = (first, 0);
        while let Some(&frame) = frames.get(first) {
            first += 1;
            length += frame;
            if length >= SLICE || frames.get(first).is_none_or(|&next| next >= SLICE) {
                break;
            }
        }
        (first > begin).then_some(begin..first)
    })
}

/// Returns a run of slices from the first to the last frame that looks as it does.
fn fitted(looks: Looks, run: Range<usize>, values: &[u64], usual: f64) -> Range<usize> {
    let alike = |place: usize| match looks {
        Looks::Loading => values[place] as f64 > usual * SLOW,
        Looks::Idle => values[place] as f64 * FAST < usual,
    };
    let Range { mut start, mut end } = run;
    while start > 0 && alike(start - 1) {
        start -= 1;
    }
    while start + 1 < end && !alike(start) {
        start += 1;
    }
    while end < values.len() && alike(end) {
        end += 1;
    }
    while end > start + 1 && !alike(end - 1) {
        end -= 1;
    }
    start..end
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    #[test]
    fn a_loading_screen_and_a_menu_are_proposed_and_a_dip_is_not() {
        // 2 s of menu at 250 frames a second, 20 s at 60, a load of 3 s in six frames, 20 s at 60.
        let frames =
            [vec![4 * MS; 500], vec![16 * MS; 1_250], vec![500 * MS; 6], vec![16 * MS; 1_250]]
                .concat();
        let found = proposals(&frames);
        assert_eq!(found.len(), 2, "{found:?}");
        assert_eq!((found[0].looks, found[1].looks), (Looks::Idle, Looks::Loading));
        assert_eq!((found[0].stretch.from, found[1].frames), (Nanos(0), 6));
        assert_eq!(found[0].stretch.to, Nanos(2_000 * MS), "to the frame");
        let dip = [vec![16 * MS; 500], vec![40 * MS; 40], vec![16 * MS; 500]].concat();
        assert_eq!(proposals(&dip), []);
    }

    #[test]
    fn a_fast_menu_ahead_of_a_slow_scene_is_proposed_though_it_has_most_of_the_frames() {
        // 10 s of menu at 1,000 frames a second, 60 s at 40.
        let frames = [vec![MS; 10_000], vec![25 * MS; 2_400]].concat();
        let found = proposals(&frames);
        assert_eq!(found.len(), 1, "{found:?}");
        assert_eq!((found[0].looks, found[0].frames), (Looks::Idle, 10_000));
    }

    #[test]
    fn one_long_halt_is_proposed_by_itself() {
        let frames = [vec![16 * MS; 300], vec![2_500 * MS], vec![16 * MS; 300]].concat();
        let found = proposals(&frames);
        assert_eq!((found.len(), found[0].frames), (1, 1));
        assert_eq!(found[0].stretch.from, Nanos(300 * 16 * MS));
    }

    #[test]
    fn a_steady_pass_has_nothing_to_cut() {
        assert_eq!(proposals(&[10 * MS; 5_000]), []);
        assert_eq!(proposals(&[]), []);
        assert_eq!(proposals(&[10 * MS]), []);
    }

    #[test]
    fn under_a_cap_a_menu_shows_in_the_work_behind_the_frames() {
        // 5 s of menu and 30 s of scene, all at 60 frames a second; the menu takes the card 3 ms, the scene about 11.
        let work = |place: u64| if place < 300 { 3 * MS } else { 10 * MS + place % 3 * MS };
        let pass = Pass {
            shown: vec![50 * MS / 3; 2_100],
            graphics: (0..2_100).map(work).collect(),
            processor: vec![2 * MS; 2_100],
            ..Pass::default()
        };
        assert_eq!(proposals(&pass.shown), [], "the frame times say nothing");
        let found = proposals_of(&pass);
        assert_eq!((found.len(), found[0].looks), (1, Looks::Idle), "{found:?}");
        let to = found[0].stretch.to.seconds();
        assert!(found[0].stretch.from == Nanos(0) && (to - 5.0).abs() < 0.02, "{found:?}");
        let steady = Pass { graphics: vec![11 * MS; 2_100], ..pass.clone() };
        assert_eq!(proposals_of(&steady), []);
        let untold = Pass { graphics: Vec::new(), processor: Vec::new(), ..pass };
        assert_eq!(proposals_of(&untold), []);
    }
}
