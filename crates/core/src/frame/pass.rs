//! A pass, and what is kept beside its frames.

use super::{busy, cap, paced, played, sums};
use crate::record::{Against, Cut, Digest, Pass, Played, Reading};

impl Digest {
    /// Returns what `pass` comes to, or `None` where the cut leaves nothing.
    pub fn of(pass: &Pass, cut: &Cut, against: Against) -> Option<Self> {
        let cut_pass;
        let kept = match cut.is_empty() {
            true => pass,
            false => {
                cut_pass = cut.applied(pass);
                &cut_pass
            }
        };
        let sums = sums(&kept.shown)?;
        let median_ns = sums.median * 1e9;
        Some(Self {
            version: Self::VERSION,
            cut: cut.clone(),
            against,
            paced: against.display.map(|display| paced(&kept.shown, median_ns, display)),
            // What lies on both sides of a gap has turns of its own.
            played: against.plays_at.and_then(|rate| {
                let runs = cut.runs(&pass.shown);
                runs.iter().filter_map(|run| played(run, rate)).reduce(Played::plus)
            }),
            cap: cap(&kept.shown, median_ns, against.display),
            busy: busy(&kept.shown, &kept.processor, &kept.graphics),
            sums,
        })
    }

    /// Returns its measures as readings of a lap.
    pub fn readings(&self) -> Vec<Reading> {
        super::measures::readings(self)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Faults, Stretch};
    use crate::unit::Nanos;

    #[test]
    fn a_cut_changes_the_figures_and_may_leave_nothing() {
        let pass = Pass {
            shown: [vec![500_000_000; 4], vec![10_000_000; 100]].concat(),
            ..Pass::default()
        };
        let stretch = |from, to| Stretch { from: Nanos(from), to: Nanos(to) };
        let whole = Digest::of(&pass, &Cut::default(), Against::default()).unwrap();
        assert!((whole.sums.rate - 104.0 / 3.0).abs() < 1e-9);
        let cut = Cut::without(vec![stretch(0, 2_000_000_000)]);
        let digest = Digest::of(&pass, &cut, Against::display(90.0)).unwrap();
        assert_eq!((digest.sums.rate, digest.paced.unwrap().missed), (100.0, 0));
        assert_eq!(
            Digest::of(&pass, &Cut::without(vec![stretch(0, u64::MAX)]), Against::default()),
            None
        );
    }

    #[test]
    fn faults_are_told_by_name_and_number() {
        let faults = Faults { zero: 1, backward: 3, ..Faults::default() };
        assert_eq!(faults.words(), ["1 frame time of zero", "3 moments out of order"]);
    }
}
