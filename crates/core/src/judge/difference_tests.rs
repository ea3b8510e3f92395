//! One comparison: laps, sessions, pairs, and what is lent where they are few.

use super::*;
use crate::estimate::Unit;

fn one(laps: &[f64]) -> Cell {
    Cell::from_sessions(vec![laps.to_vec()]).unwrap()
}

#[test]
fn one_lap_gives_a_bare_ratio_and_says_what_would_help() {
    let said = across_rigs(&one(&[2.0]), &one(&[1.0]), &Assumptions::default());
    assert_eq!(said.speed, Some(2.0));
    assert_eq!(said.time_saved(), Some(0.5));
    assert_eq!(said.interval, None);
    assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(1)));
    assert_eq!(said.needed, Some(Needed::LapsUpTo(3)));
}

#[test]
fn single_laps_are_judged_by_what_other_laps_lend_and_say_so() {
    let lent = LapSpread::of([Unit { squares: 8e-4, degrees: 8.0 }], None);
    let single = |time: f64| one(&[time]).with_assumed(lent);
    let said = |time: f64| across_rigs(&single(2.0), &single(time), &Assumptions::default());
    // 1 % and 1.5 % on both sides: ±4.2 % with 15 degrees.
    assert_eq!((said(1.8).verdict, said(1.8).ground), (Verdict::Faster, Ground::AssumedSpread));
    assert_eq!(said(1.96).verdict, Verdict::TooClose);
    assert_eq!(said(1.96).needed, Some(Needed::LapsUpTo(3)));
    // Two laps that differ by more than the others do are no better than before.
    let wild = one(&[1.0, 1.2]).with_assumed(lent);
    let said = across_rigs(&single(2.0), &wild, &Assumptions::default());
    assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(2)));
}

#[test]
fn two_days_of_a_lap_each_are_assumed_too_and_three_stand_for_themselves() {
    let lent = LapSpread::of([Unit { squares: 8e-4, degrees: 8.0 }], None);
    let days = |times: &[f64]| {
        let sessions = times.iter().map(|&time| vec![time]).collect();
        Cell::from_sessions(sessions).unwrap().with_assumed(lent)
    };
    let said = |a: &[f64], b: &[f64]| across_rigs(&days(a), &days(b), &Assumptions::default());
    let two = said(&[2.0, 2.01], &[1.6, 1.61]);
    assert_eq!((two.verdict, two.ground), (Verdict::Faster, Ground::AssumedSpread));
    assert!(days(&[2.0, 2.01]).is_assumed() && !days(&[2.0, 2.01, 1.99]).is_assumed());
    let three = said(&[2.0, 2.01, 1.99], &[1.6, 1.61, 1.59]);
    assert_eq!((three.verdict, three.ground), (Verdict::Faster, Ground::Sessions(3)));
    let mixed = said(&[2.0, 2.01, 1.99], &[1.6]);
    assert_eq!(mixed.ground, Ground::AssumedSpread);
}

#[test]
fn a_pair_by_itself_is_judged_by_what_other_laps_lend() {
    let lent = LapSpread::of([], Some(0.01));
    let between = BetweenSessions::default();
    let said = within_session(
        &[vec![(2.0, 1.8)]],
        Allowances::default(),
        &between,
        lent,
        &Assumptions::default(),
    );
    assert_eq!((said.verdict, said.ground), (Verdict::Faster, Ground::AssumedSpread));
}

#[test]
fn two_laps_give_an_interval_and_no_verdict() {
    let said = across_rigs(&one(&[2.0, 2.02]), &one(&[1.0, 1.01, 1.02]), &Assumptions::default());
    assert!(said.interval.is_some());
    assert_eq!(said.verdict, Verdict::Refused(Refusal::FewLaps(2)));
}

#[test]
fn one_session_each_is_widened_and_sent_for_more_sessions() {
    let a = one(&[100.0, 101.2, 99.6, 100.4, 100.9]);
    let b = one(&[102.3, 103.1, 101.9, 102.8, 102.2]);
    let said = across_rigs(&a, &b, &Assumptions::default());
    assert_eq!((said.verdict, said.ground), (Verdict::TooClose, Ground::ThisSessionOnly));
    assert_eq!(said.needed, Some(Needed::SessionsUpTo(3)));
    // Where a lab's days have differed by nothing, over forty of them, it is a winner.
    let still = BetweenSessions::of([Unit { squares: 0.0, degrees: 40.0 }]);
    let (a, b) = (a.with_between(still), b.with_between(still));
    assert_eq!(across_rigs(&a, &b, &Assumptions::default()).verdict, Verdict::Slower);
}

#[test]
fn pairs_shrug_off_a_drift() {
    let pairs: Vec<(f64, f64)> =
        (0..6).map(|i| (100.0 + f64::from(i) * 3.0, (100.0 + f64::from(i) * 3.0) * 0.9)).collect();
    let said = within_session(
        std::slice::from_ref(&pairs),
        Allowances::default(),
        &BetweenSessions::default(),
        None,
        &Assumptions::default(),
    );
    assert_eq!((said.verdict, said.ground), (Verdict::Faster, Ground::Pairs(6)));
    assert!((said.speed.unwrap() - 1.0 / 0.9).abs() < 1e-9);
    assert!(
        within_session(
            &[pairs[..2].to_vec()],
            Allowances::default(),
            &BetweenSessions::default(),
            None,
            &Assumptions::default()
        )
        .speed
        .is_some()
    );
    assert_eq!(
        within_session(
            &[],
            Allowances::default(),
            &BetweenSessions::default(),
            None,
            &Assumptions::default()
        )
        .verdict,
        Verdict::Refused(Refusal::NoLaps)
    );
}

#[test]
fn an_open_pairing_says_how_many_laps_would_settle_it() {
    let pairs = vec![(100.0, 104.0), (103.0, 99.0), (98.0, 101.0), (102.0, 100.0)];
    let said = |between: &BetweenSessions| {
        let sessions = std::slice::from_ref(&pairs);
        within_session(sessions, Allowances::default(), between, None, &Assumptions::default())
    };
    let known = BetweenSessions::default().with_stated(Some(0.004));
    assert_eq!(said(&known).verdict, Verdict::TooClose);
    let Some(Needed::Laps(need)) = said(&known).needed else { panic!("{known:?}") };
    assert!(4 < need.plain && need.plain < need.assured, "{need:?}");
    // What a variant is assumed to have of its own on a day is told by more days only.
    let needed = said(&BetweenSessions::default()).needed;
    assert_eq!(needed, Some(Needed::SessionsUpTo(ENOUGH_SESSIONS)));
}
