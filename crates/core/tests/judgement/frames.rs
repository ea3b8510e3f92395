//! Properties of the measures of a pass, whatever its frames.
//!
//! Runs for about 1 s on one core of two.

use honest_lap_core::frame::{Cutting, Edge, envelope, hitches, paced, proposals, sums, tail};
use honest_lap_core::record::{Against, Cut, Digest, Display, Pass, Stretch};
use honest_lap_core::unit::Nanos;
use proptest::prelude::*;

fn frames() -> impl Strategy<Value = Vec<u64>> {
    // From a tenth of a millisecond to three seconds, most of them as frames are.
    let frame = prop_oneof![9 => 1_000_000_u64..60_000_000, 1 => 100_000_u64..3_000_000_000];
    prop::collection::vec(frame, 1..400)
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() <= 1e-9 * a.abs().max(b.abs())
}

proptest! {
    #[test]
    fn sums_of_another_order_differ_only_in_what_is_about_order(frames in frames()) {
        let (found, mut other) = (sums(&frames).unwrap(), frames.clone());
        other.reverse();
        let reversed = sums(&other).unwrap();
        prop_assert_eq!(&reversed.change, &found.change);
        other.sort_unstable();
        let sorted = sums(&other).unwrap();
        prop_assert_eq!((sorted.median, sorted.p95, sorted.worst), (found.median, found.p95, found.worst));
        prop_assert!(near(sorted.rate, found.rate));
        prop_assert!(sorted.change <= found.change.map(|change| change * (1.0 + 1e-12)));
    }

    #[test]
    fn twice_as_long_is_half_the_rate(frames in frames()) {
        let double: Vec<u64> = frames.iter().map(|frame| frame * 2).collect();
        let (one, two) = (sums(&frames).unwrap(), sums(&double).unwrap());
        prop_assert!(near(one.rate, two.rate * 2.0) && near(one.median * 2.0, two.median));
        prop_assert!(one.cv.zip(two.cv).is_none_or(|(a, b)| (a - b).abs() < 1e-9));
        // What is at least 8 ms longer stays so when all is twice as long.
        prop_assert!(hitches(&double).len() >= hitches(&frames).len());
    }

    #[test]
    fn measures_keep_to_their_bounds(frames in frames(), hz in 20.0..300.0) {
        let found = sums(&frames).unwrap();
        prop_assert!(found.median <= found.worst && found.p95.is_none_or(|p| p <= found.worst));
        prop_assert!(found.rate * found.worst >= 1.0 - 1e-9);
        let paced = paced(&frames, found.median * 1e9, Display { hz });
        prop_assert!((0.0..=1.0).contains(&paced.over) && (0.0..=1.0).contains(&paced.on_time));
        prop_assert_eq!(paced.missed == 0, paced.on_time == 1.0);
        for hitch in hitches(&frames) {
            prop_assert!(hitch.lost >= 8_000_000 && hitch.lost < frames[hitch.frame]);
        }
    }

    #[test]
    fn a_cut_leaves_out_what_it_says_and_nothing_else(
        frames in frames(), from in 0_u64..4_000_000_000, length in 0_u64..4_000_000_000,
    ) {
        let pass = Pass { shown: frames.clone(), graphics: frames.clone(), ..Pass::default() };
        let cut = Cut::without(vec![Stretch { from: Nanos(from), to: Nanos(from + length) }]);
        let kept = cut.applied(&pass);
        prop_assert_eq!(&kept.shown, &kept.graphics);
        let mut moment = 0;
        let mut inside = 0;
        for frame in &frames {
            inside += usize::from((from..from + length).contains(&moment));
            moment += frame;
        }
        prop_assert_eq!(kept.shown.len() + inside, frames.len());
        let digest = Digest::of(&pass, &cut, Against::default());
        prop_assert_eq!(digest.map(|digest| digest.sums), sums(&kept.shown));
    }

    #[test]
    fn an_envelope_and_a_tail_keep_the_extremes(frames in frames(), columns in 1_usize..300) {
        let most = *frames.iter().max().unwrap() as f64 / 1e9;
        let least = *frames.iter().min().unwrap() as f64 / 1e9;
        let found = envelope(&frames, columns);
        prop_assert_eq!(found.len(), columns);
        let known = || found.iter().flatten();
        prop_assert_eq!(known().map(|column| column.most).fold(0.0, f64::max), most);
        prop_assert_eq!(known().map(|column| column.least).fold(f64::INFINITY, f64::min), least);
        prop_assert!(known().all(|column| column.least <= column.mean && column.mean <= column.most));
        let curve = tail(&frames, 100);
        prop_assert_eq!((curve[0].time, curve.last().unwrap().time), (least, most));
        prop_assert!(curve.windows(2).all(|pair| pair[0].share > pair[1].share && pair[0].time <= pair[1].time));
    }

    #[test]
    fn what_is_proposed_lies_within_the_pass_and_can_be_cut(frames in frames()) {
        let whole: u64 = frames.iter().sum();
        let found = proposals(&frames);
        for proposal in &found {
            let stretch = proposal.stretch;
            prop_assert!(stretch.from < stretch.to && stretch.to.0 <= whole && proposal.frames > 0);
            let without = vec![(Edge::Time(stretch.from), Edge::Time(stretch.to))];
            let cut = Cutting { without, ..Cutting::default() }.of(&frames, &[]).unwrap();
            let pass = Pass { shown: frames.clone(), ..Pass::default() };
            prop_assert_eq!(cut.applied(&pass).shown.len() + proposal.frames, frames.len());
        }
    }
}

#[test]
fn a_million_frames_draw_with_every_peak() {
    let mut frames = vec![8_000_000_u64; 1_000_000];
    (0..100).for_each(|peak| frames[peak * 9_973] = 90_000_000);
    let columns = envelope(&frames, 560);
    let peaks = columns.iter().flatten().filter(|column| column.most > 0.08).count();
    assert!(peaks >= 100, "{peaks}: no two of them lie in one column");
}
