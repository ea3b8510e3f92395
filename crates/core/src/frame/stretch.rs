//! Stretches of a pass that look as if they did not belong to it: loading screens, menus, pauses.
//!
//! They are proposed, never cut: only a person knows what was on the screen.

use super::sums::{median, median_by_time};
use crate::record::Stretch;
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
    if frames.is_empty() {
        return Vec::new();
    }
    let usual = median_by_time(frames);
    let mut runs: Vec<(Looks, Range<usize>)> = Vec::new();
    let within = (usual / FAST, usual * SLOW);
    for (slice, least, most) in slices(frames) {
        // What is all as usual has a median that is.
        if least as f64 >= within.0 && most as f64 <= within.1 && most < HALT {
            continue;
        }
        let own = median(&mut frames[slice.clone()].to_vec());
        let looks = match own / usual {
            ratio if ratio > SLOW || most >= HALT => Looks::Loading,
            ratio if ratio * FAST < 1.0 => Looks::Idle,
            _ => continue,
        };
        match runs.last_mut() {
            Some((last, run)) if *last == looks && run.end == slice.start => run.end = slice.end,
            _ => runs.push((looks, slice)),
        }
    }
    let runs = runs.into_iter().map(|(looks, run)| (looks, fitted(looks, run, frames, usual)));
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
    let mut found: Vec<Proposal> = runs.map(proposal).collect();
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

/// Returns the slices that a pass is looked at in, each with its shortest and its longest frame; a frame as long as a
/// slice has one of its own.
fn slices(frames: &[u64]) -> impl Iterator<Item = (Range<usize>, u64, u64)> {
    let mut first = 0;
    std::iter::from_fn(move || {
        let begin = first;
        let (mut length, mut least, mut most) = (0, u64::MAX, 0);
        while let Some(&frame) = frames.get(first) {
            first += 1;
            length += frame;
            (least, most) = (least.min(frame), most.max(frame));
            if length >= SLICE || frames.get(first).is_none_or(|&next| next >= SLICE) {
                break;
            }
        }
        (first > begin).then_some((begin..first, least, most))
    })
}

/// Returns a run of slices from the first to the last frame that looks as it does.
fn fitted(looks: Looks, run: Range<usize>, frames: &[u64], usual: f64) -> Range<usize> {
    let alike = |place: usize| match looks {
        Looks::Loading => frames[place] as f64 > usual * SLOW,
        Looks::Idle => frames[place] as f64 * FAST < usual,
    };
    let Range { mut start, mut end } = run;
    while start > 0 && alike(start - 1) {
        start -= 1;
    }
    while start + 1 < end && !alike(start) {
        start += 1;
    }
    while end < frames.len() && alike(end) {
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
}
