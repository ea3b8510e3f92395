//! Comparisons on small, literal logbooks.

use super::*;
use crate::judge::testing::{ask, difference, laps};
use crate::judge::{Ground, Refusal, Verdict};
use crate::record::{LapHead, Outcome};

#[test]
fn rigs_are_sorted_best_first_and_held_against_the_baseline() {
    let all = [
        laps("wren-1", "1", 0, &[2000, 2010, 1990]),
        laps("heron-1", "1", 0, &[1000, 1010, 990]),
        laps("plover-1", "1", 0, &[1500, 1510, 1490]),
    ]
    .concat();
    let asked = Ask { rig_order: vec!["plover".into()], ..ask() };
    let views = compare(&all, &asked);
    let group = &views[0].groups[0];
    let rigs: Vec<&str> = group.rows.iter().map(|row| row.rig.as_str()).collect();
    assert_eq!(rigs, ["heron", "plover", "wren"]);
    assert_eq!(group.rows[1].against, Against::Baseline);
    assert_eq!(difference(&group.rows[0]).verdict, Verdict::Faster);
    assert_eq!(difference(&group.rows[2]).verdict, Verdict::Slower);
    assert!((difference(&group.rows[0]).speed.unwrap() - 1.5).abs() < 0.01);
    let cell = group.rows[0].cell.as_ref().unwrap();
    assert!(cell.between().is_assumed());
}

#[test]
fn a_baseline_without_laps_passes_the_role_on() {
    let mut all =
        [laps("wren-1", "1", 0, &[2000, 2010, 1990]), laps("heron-1", "1", 0, &[1000])].concat();
    all[3].outcome = Outcome::Signal;
    let views = compare(&all, &Ask { rig_order: vec!["heron".into()], ..ask() });
    let rows = &views[0].groups[0].rows;
    assert_eq!((rows[0].rig.as_str(), &rows[0].against), ("wren", &Against::Baseline));
    assert_eq!(difference(&rows[1]).verdict, Verdict::Refused(Refusal::Failed));
    assert_eq!(rows[1].counts.not_done[&Outcome::Signal], 1);
}

#[test]
fn variants_of_one_rig_are_paired_round_by_round() {
    // Both drift by 20 %; b is 10 % quicker in every round.
    let a = laps("heron-1", "1", 0, &[1000, 1050, 1100, 1200]);
    let b = laps("heron-1", "2", 4, &[900, 945, 990, 1080]);
    let views = compare([a, b].concat(), &ask());
    assert_eq!(views[0].groups.len(), 1, "one rig: nothing to hold across rigs");
    let group = &views[0].groups[0];
    assert_eq!(group.held, HeldConstant::Rigs);
    let said = difference(&group.rows[0]);
    assert_eq!((said.ground, said.verdict), (Ground::Pairs(4), Verdict::Faster));
}

#[test]
fn a_failed_lap_takes_its_partner_out_of_the_pairs() {
    let a = laps("heron-1", "1", 0, &[1000, 1001, 1002, 1003]);
    let mut b = laps("heron-1", "2", 4, &[900, 901, 902, 903]);
    b[2].outcome = Outcome::ExitCode;
    let views = compare([a, b].concat(), &ask());
    assert_eq!(difference(&views[0].groups[0].rows[0]).ground, Ground::Pairs(3));
}

#[test]
fn laps_of_another_definition_are_left_out_and_told() {
    let mut all = laps("heron-1", "1", 0, &[5000, 5000, 5000]);
    all.iter_mut().for_each(|lap| lap.task = 1);
    let mut newer = laps("heron-2", "1", 0, &[1000, 1001, 1002]);
    newer.iter_mut().for_each(|lap| lap.task = 2);
    all.extend(newer);
    let views = compare(&all, &ask());
    let row = &views[0].groups[0].rows[0];
    assert_eq!(row.against, Against::Alone);
    assert_eq!((row.counts.counted, row.counts.other_task, row.counts.sessions), (3, 3, 1));
    assert!((row.cell.as_ref().unwrap().typical() - 1.001).abs() < 1e-6);
    let older = Ask { tasks: [("still".to_owned(), 1)].into(), ..ask() };
    let views = compare(&all, &older);
    assert!((views[0].groups[0].rows[0].cell.as_ref().unwrap().typical() - 5.0).abs() < 1e-9);
}

#[test]
fn a_study_with_three_sessions_measures_how_far_its_days_differ() {
    let all: Vec<LapHead> =
        [("heron-1", 1000), ("heron-2", 1020), ("heron-3", 980), ("wren-1", 1300)]
            .iter()
            .flat_map(|&(session, ms)| laps(session, "1", 0, &[ms, ms + 1, ms + 2]))
            .collect();
    let views = compare(&all, &ask());
    let between = views[0].groups[0].rows[1].cell.as_ref().unwrap().between();
    // 2 % on two degrees beside the assumed 1.5 % on four: √((4·2.25e-4 + 2·4e-4)/6) = 1.683 %.
    assert!((between.sd() - 0.01683).abs() < 1e-4, "{between:?}");
    assert_eq!(between.measured_degrees(), 2.0);
}

#[test]
fn nothing_run_is_nothing_compared() {
    assert!(compare(Laps::default(), &ask()).is_empty());
}

#[test]
fn neighbours_that_are_not_told_apart_are_joined() {
    let rig = |name: &str, typical: u64| {
        let session = |day: u64| {
            let ms = typical + day;
            laps(&format!("{name}-{}", day + 1), "1", 0, &[ms, ms + 1, ms + 2])
        };
        (0..3).flat_map(session).collect::<Vec<LapHead>>()
    };
    // Days of a rig differ by a thousandth: 1000 and 1001 are one, 1200 is alone, 1400 and 1401 are one.
    let all = [("a", 1000), ("b", 1001), ("c", 1200), ("d", 1400), ("e", 1401)];
    let all: Vec<LapHead> = all.iter().flat_map(|(name, ms)| rig(name, *ms)).collect();
    let views = compare(&all, &ask());
    assert_eq!(views[0].groups[0].ties, [(0, 1), (3, 4)]);
}
