//! The verdicts against labs of known truth: how often they are wrong, at the numbers promised.
//!
//! Every lab is drawn from a seed, so a failure repeats. 'Wrong' is naming a winner between two
//! equal machines; at most 5 % is wanted, and the slack covers the draw itself.

use honest_lap_core::judge::{
    Assumptions, Care, Cell, Contender, Difference, SessionSpread, Settle, Verdict, across_rigs,
    ranking, within_session,
};
use honest_lap_core::random::SplitMix;

const LABS: u32 = 2_000;
/// Four standard errors of a 5 % rate over 2,000 labs: 4·√(0.05·0.95/2000).
const SLACK: f64 = 0.02;

/// Returns a cell of equal machines: lognormal laps around one second, with a luck of the day.
fn cell(random: &mut SplitMix, sessions: usize, laps: usize, cv: f64, tau: f64) -> Cell {
    let mut session = || {
        let luck = random.normal() * tau;
        (0..laps).map(|_| (luck + random.normal() * cv).exp()).collect()
    };
    let sessions = (0..sessions).map(|_| session()).collect();
    Cell::from_sessions(sessions).expect("positive times")
}

fn names_a_winner(difference: &Difference) -> bool {
    matches!(
        difference.verdict,
        Verdict::Faster | Verdict::Slower | Verdict::FasterWithin(_) | Verdict::SlowerWithin(_)
    )
}

/// Returns the share of labs in which `lab` comes true.
fn share(seed: u64, mut lab: impl FnMut(&mut SplitMix) -> bool) -> f64 {
    let mut random = SplitMix::new(seed);
    f64::from((0..LABS).filter(|_| lab(&mut random)).count() as u32) / f64::from(LABS)
}

fn assuming(tau: f64) -> Assumptions {
    Assumptions { session_spread: SessionSpread::Measured(tau), ..Assumptions::default() }
}

#[test]
fn equal_machines_of_one_session_are_rarely_told_apart() {
    for (laps, cv) in [(3, 0.005), (5, 0.02), (10, 0.05)] {
        let wrong = share(1, |random| {
            let (a, b) = (cell(random, 1, laps, cv, 0.0), cell(random, 1, laps, cv, 0.0));
            names_a_winner(&across_rigs(&a, &b, &assuming(0.0)))
        });
        assert!(wrong <= 0.05 + SLACK, "{laps} laps, CV {cv}: {wrong}");
    }
}

#[test]
fn a_days_luck_is_no_winner_where_it_is_allowed_for_and_would_be_where_it_is_not() {
    let labs = |allowed: f64| {
        share(2, |random| {
            let (a, b) = (cell(random, 1, 6, 0.005, 0.015), cell(random, 1, 6, 0.005, 0.015));
            names_a_winner(&across_rigs(&a, &b, &assuming(allowed)))
        })
    };
    assert!(labs(0.015) <= 0.05 + SLACK, "{}", labs(0.015));
    assert!(labs(0.0) > 0.4, "a single sitting taken at its word misleads: {}", labs(0.0));
}

#[test]
fn three_sessions_a_side_are_judged_by_their_own_luck() {
    let wrong = share(3, |random| {
        let (a, b) = (cell(random, 3, 4, 0.01, 0.015), cell(random, 3, 4, 0.01, 0.015));
        names_a_winner(&across_rigs(&a, &b, &Assumptions::default()))
    });
    assert!(wrong <= 0.05 + SLACK, "{wrong}");
}

#[test]
fn pairs_driven_a_b_b_a_do_not_mistake_a_drift_for_a_winner() {
    // Twelve laps in a row that slow down by 5 % from first to last.
    let wrong = share(4, |random| {
        let mut time =
            |place: u32| (0.05 * f64::from(place) / 11.0 + random.normal() * 0.005).exp();
        let pairs: Vec<(f64, f64)> = (0..6)
            .map(|pair| {
                let (first, second) = (time(2 * pair), time(2 * pair + 1));
                if pair % 2 == 0 { (first, second) } else { (second, first) }
            })
            .collect();
        names_a_winner(&within_session(&pairs, Care::default(), &Assumptions::default()))
    });
    assert!(wrong <= 0.05 + SLACK, "{wrong}");
}

#[test]
fn a_difference_at_the_margin_is_rarely_called_the_same() {
    let margin = Assumptions::default().margin;
    let wrong = share(5, |random| {
        let a = cell(random, 1, 10, 0.01, 0.0);
        let b = cell(random, 1, 10, 0.01, 0.0);
        let b: Vec<f64> = b.all().iter().map(|x| x * (1.0 + margin)).collect();
        let b = Cell::from_sessions(vec![b]).expect("positive times");
        let verdict = across_rigs(&a, &b, &assuming(0.0)).verdict;
        matches!(
            verdict,
            Verdict::SameWithin(_) | Verdict::FasterWithin(_) | Verdict::SlowerWithin(_)
        )
    });
    assert!(wrong <= 0.05 + SLACK, "{wrong}");
}

#[test]
fn intervals_hold_the_truth_as_often_as_they_say() {
    for (sessions, laps) in [(1, 3), (1, 8), (4, 3)] {
        let tau = if sessions > 1 { 0.01 } else { 0.0 };
        let held = share(6, |random| {
            let (a, b) =
                (cell(random, sessions, laps, 0.02, tau), cell(random, sessions, laps, 0.02, tau));
            let interval = across_rigs(&a, &b, &assuming(0.0)).interval.expect("several values");
            interval.low <= 1.0 && 1.0 <= interval.high
        });
        assert!((0.93..=0.985).contains(&held), "{sessions} × {laps}: {held}");
    }
}

#[test]
fn a_real_difference_is_found() {
    let found = share(7, |random| {
        let a = cell(random, 1, 6, 0.01, 0.0);
        let b: Vec<f64> = cell(random, 1, 6, 0.01, 0.0).all().iter().map(|x| x * 1.2).collect();
        let b = Cell::from_sessions(vec![b]).expect("positive times");
        across_rigs(&a, &b, &Assumptions::default()).verdict == Verdict::Slower
    });
    assert!(found > 0.99, "20 % at CV 1 %, six laps, one session: {found}");
}

#[test]
fn equal_rigs_are_rarely_ordered_and_unequal_ones_are() {
    for rigs in [2, 4, 8, 12] {
        let contenders = |random: &mut SplitMix, faster: f64| -> Vec<Contender> {
            (0..rigs)
                .map(|rig| {
                    let share = if rig == 0 { faster } else { 1.0 };
                    let values = cell(random, 3, 4, 0.01, 0.015).values();
                    Contender { values: values.iter().map(|x| x / share).collect(), luck: 0.0 }
                })
                .collect()
        };
        let apart = |random: &mut SplitMix, faster| {
            let found = ranking(&contenders(random, faster), 0.05).expect("positive times");
            found.places.iter().any(|places| places.best > 1)
        };
        let wrong = share(9, |random| apart(random, 1.0));
        assert!(wrong <= 0.05 + SLACK, "{rigs} rigs: {wrong}");
        let found = share(10, |random| apart(random, 1.5));
        assert!(found > 0.5, "half as fast again: {rigs} rigs: {found}");
    }
}

#[test]
fn the_laps_that_would_settle_it_do() {
    // Open comparisons of equal machines, driven again with the assured number of laps.
    let (mut open, mut settled) = (0u32, 0u32);
    share(8, |random| {
        let mut pairs = |n: u32| -> Vec<(f64, f64)> {
            (0..n)
                .map(|_| ((random.normal() * 0.02).exp(), (random.normal() * 0.02).exp()))
                .collect()
        };
        let first = within_session(&pairs(4), Care::default(), &Assumptions::default());
        if let (Verdict::TooClose, Some(Settle::Laps(need))) = (first.verdict, first.settle) {
            open += 1;
            assert!(need.plain > 4 && need.assured >= need.plain, "{need:?}");
            let again =
                within_session(&pairs(need.assured), Care::default(), &Assumptions::default());
            settled += u32::from(again.verdict != Verdict::TooClose);
        }
        false
    });
    let share = f64::from(settled) / f64::from(open);
    // Four in five is what the upper bound on the spread promises.
    assert!(open > 1_000 && share > 0.8, "{settled} of {open}");
}
