//! Cuts: stretches of a pass that are left out of its figures. The series itself stays whole.

use super::pass::Pass;
use crate::record::Stretch;
use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// The stretches that are left out, in order and apart.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Cut(Vec<Stretch>);

impl Cut {
    /// Returns the cut that leaves `stretches` out, in whatever order they come.
    pub fn without(mut stretches: Vec<Stretch>) -> Self {
        stretches.retain(|stretch| stretch.from < stretch.to);
        stretches.sort();
        let mut joined: Vec<Stretch> = Vec::new();
        for stretch in stretches {
            match joined.last_mut() {
                Some(last) if stretch.from <= last.to => last.to = last.to.max(stretch.to),
                _ => joined.push(stretch),
            }
        }
        Self(joined)
    }

    /// Returns the stretches.
    pub fn stretches(&self) -> &[Stretch] {
        &self.0
    }

    /// Returns how much time is left out of a pass.
    pub fn time(&self) -> Nanos {
        Nanos(self.0.iter().map(|stretch| stretch.to.minus(stretch.from).0).sum())
    }

    /// Returns whether nothing is left out.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// Returns whether the frame that begins at `moment` is left out.
    pub fn leaves_out(&self, moment: Nanos) -> bool {
        let next = self.0.partition_point(|stretch| stretch.to <= moment);
        self.0.get(next).is_some_and(|stretch| stretch.from <= moment)
    }

    /// Returns the stretches of frames that are kept, each without a gap.
    pub fn runs<'a>(&self, shown: &'a [u64]) -> Vec<&'a [u64]> {
        let (mut moment, mut from) = (0, None);
        let mut runs = Vec::new();
        for (place, frame) in shown.iter().enumerate() {
            match (self.leaves_out(Nanos(moment)), from) {
                (true, Some(begun)) => {
                    runs.push(&shown[begun..place]);
                    from = None;
                }
                (false, None) => from = Some(place),
                _ => {}
            }
            moment += frame;
        }
        runs.extend(from.map(|begun| &shown[begun..]));
        runs
    }

    /// Returns the pass without what is left out.
    pub fn applied(&self, pass: &Pass) -> Pass {
        let mut moment = 0;
        let mut keep = Vec::with_capacity(pass.shown.len());
        for frame in &pass.shown {
            keep.push(!self.leaves_out(Nanos(moment)));
            moment += frame;
        }
        let kept = |series: &[u64]| -> Vec<u64> {
            series.iter().zip(&keep).filter(|(_, keep)| **keep).map(|(&time, _)| time).collect()
        };
        Pass {
            shown: kept(&pass.shown),
            processor: kept(&pass.processor),
            graphics: kept(&pass.graphics),
            presenting: kept(&pass.presenting),
        }
    }
}

/// As people read it, to the millisecond: `0–4.2 s, 61–70.5 s`.
impl std::fmt::Display for Cut {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let seconds = |time: Nanos| {
            let text = format!("{:.3}", time.seconds());
            text.trim_end_matches('0').trim_end_matches('.').to_owned()
        };
        for (place, stretch) in self.0.iter().enumerate() {
            let comma = if place > 0 { ", " } else { "" };
            write!(f, "{comma}{}–{} s", seconds(stretch.from), seconds(stretch.to))?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    fn stretch(from: u64, to: u64) -> Stretch {
        Stretch { from: Nanos(from * MS), to: Nanos(to * MS) }
    }

    #[test]
    fn a_frame_is_left_out_where_it_begins_in_a_stretch() {
        let pass =
            Pass { shown: vec![10 * MS; 10], graphics: (0..10).collect(), ..Pass::default() };
        let cut = Cut::without(vec![stretch(55, 70), stretch(0, 20)]);
        let kept = cut.applied(&pass);
        assert_eq!(kept.graphics, [2, 3, 4, 5, 7, 8, 9]);
        assert_eq!((kept.shown.len(), kept.processor.len()), (7, 0));
        assert_eq!(cut.to_string(), "0–0.02 s, 0.055–0.07 s");
        assert_eq!(Cut::default().applied(&pass), pass);
        assert_eq!(cut.runs(&[10 * MS; 10]), [&[10 * MS; 4][..], &[10 * MS; 3]]);
        assert_eq!(Cut::default().runs(&pass.shown), [&pass.shown[..]]);
    }

    #[test]
    fn stretches_that_touch_are_one() {
        let cut =
            Cut::without(vec![stretch(10, 20), stretch(5, 10), stretch(15, 18), stretch(3, 3)]);
        assert_eq!(cut.stretches(), [stretch(5, 20)]);
    }
}
