//! Small labs that were once judged wrongly, each for a reason of its own, asked as the tool asks.
//!
//! Runs for about a second on one core of two.

use honest_lap_core::analysis::{Analysis, Question, Way, analyse};
use honest_lap_core::judge::{Against, Difference, HeldConstant, Row, Verdict};
use honest_lap_core::lab::{KnownLap, Lab, LapFacts, Records};
use honest_lap_core::record::{
    Better, LapHead, LapName, PublishedClaim, QuantitySummary, Reading, Settings, Study,
};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::sync::Arc;

fn lap(rig: &str, session: u32, number: u32, workload: &str, log: f64) -> LapHead {
    let name = LapName::parse(&format!("{rig}-{session}.{number}")).expect("a name");
    LapHead::done(name, workload, Settings::default(), Nanos((60e9 * log.exp()) as u64))
}

fn reading(name: &str, value: f64) -> Reading {
    Reading {
        name: name.into(),
        unit: "marks".into(),
        better: Better::More,
        value: Some(value),
        step: None,
        seen: value.to_string(),
        reports_time: false,
    }
}

/// Five laps in each of so many sessions of a rig, `log` slower than the others.
fn laps(rig: &str, sessions: u32, log: f64, random: &mut SplitMix) -> Vec<LapHead> {
    let mut all = Vec::new();
    for session in 1..=sessions {
        let day = 0.005 * random.normal();
        for number in 1..=5 {
            all.push(lap(rig, session, number, "still", log + day + 0.003 * random.normal()));
        }
    }
    all
}

fn lab(laps: Vec<LapHead>) -> Lab {
    let study = Study { margin: 0.02, baseline: Some("heron".into()), ..Study::default() };
    let laps = laps.into_iter().map(KnownLap::from).collect();
    Lab::of(study, Records { laps, ..Records::default() })
}

fn asked<'l>(lab: &'l Lab, question: &Question) -> Analysis<'l> {
    analyse(lab, question).expect("it can be asked")
}

/// Returns the row of `rig` where rigs are held against each other by `measure`.
fn row<'a>(analysis: &'a Analysis<'_>, measure: &str, rig: &str) -> &'a Row {
    let views = analysis.views.iter().filter(|view| view.measure.name == measure);
    let groups = views.flat_map(|view| &view.groups);
    let rows = groups.filter(|group| matches!(group.held, HeldConstant::Variant(_)));
    rows.flat_map(|group| &group.rows).find(|row| row.rig == rig).expect("it is there")
}

fn difference(row: &Row) -> Difference {
    let Against::Other(difference) = row.against else { panic!("{:?}", row.against) };
    difference
}

#[test]
fn a_measure_that_jumps_from_day_to_day_leaves_the_verdict_on_another_as_it_is() {
    let mut random = SplitMix::new(5);
    let plain = [laps("heron", 3, 0.0, &mut random), laps("wren", 3, 0.02, &mut random)].concat();
    let mut noisy = plain.clone();
    for lap in &mut noisy {
        let day = f64::from(lap.name.session.number) * 300.0;
        lap.readings.push(reading("draws", 500.0 + day + 20.0 * random.unit()));
    }
    let (alone, beside) = (lab(plain), lab(noisy));
    let question = Question::default();
    let verdict = |lab: &Lab| difference(row(&asked(lab, &question), "time", "wren"));
    assert_eq!(verdict(&alone).verdict, Verdict::Slower);
    assert_eq!(verdict(&alone), verdict(&beside));
}

#[test]
fn equal_scores_are_no_winner_however_many_there_are_of_each() {
    let scored = |rig: &str, sessions: u32, each: u32| {
        let of = move |session| (1..=each).map(move |number| (session, number));
        let all = (1..=sessions).flat_map(of);
        let one = |(session, number)| {
            let mut lap = lap(rig, session, number, "show", 0.0);
            lap.wall = None;
            lap.readings = vec![reading("score", 812.0)];
            lap
        };
        all.map(one).collect::<Vec<LapHead>>()
    };
    for (sessions, each) in [(1, (9, 30)), (3, (3, 10))] {
        let lab =
            lab([scored("heron", sessions, each.0), scored("wren", sessions, each.1)].concat());
        let found = difference(row(&asked(&lab, &Question::default()), "score", "wren"));
        let verdict = found.verdict;
        assert!(
            matches!(verdict, Verdict::SameWithin(_) | Verdict::TooClose),
            "{sessions} sessions: {verdict:?}"
        );
        assert_eq!(found.speed, Some(1.0));
    }
}

/// Answers `says` by these laps.
fn answer(lab: &Lab, says: &str) -> honest_lap_core::claim::Reply {
    let claims = vec![PublishedClaim { says: says.into(), who: None }];
    let found = asked(lab, &Question { claims, ..Question::default() });
    found.answered.into_iter().next().expect("it was asked").found
}

#[test]
fn no_sentence_of_a_winner_holds_where_the_verdict_is_the_same_and_places_agree_with_verdicts() {
    use honest_lap_core::claim::Answer;
    let mut random = SplitMix::new(11);
    let mut verdicts = [0; 3];
    for at in 0..300_u32 {
        let apart = 0.03 * f64::from(at % 30) / 30.0;
        let all = [laps("heron", 3, 0.0, &mut random), laps("wren", 3, apart, &mut random)];
        let lab = lab(all.concat());
        let found = asked(&lab, &Question::default());
        let (heron, wren) = (row(&found, "time", "heron"), row(&found, "time", "wren"));
        let verdict = difference(wren).verdict;
        let holds = answer(&lab, "heron is faster than wren on still").answer == Answer::Holds;
        let (first, second) = (heron.places.expect("a place"), wren.places.expect("a place"));
        let ahead = first.worst < second.best;
        match verdict {
            Verdict::Slower | Verdict::SlowerWithin(_) => verdicts[0] += 1,
            Verdict::SameWithin(_) => verdicts[1] += 1,
            _ => verdicts[2] += 1,
        }
        let slower = matches!(verdict, Verdict::Slower | Verdict::SlowerWithin(_));
        assert_eq!(ahead, slower, "{at}: {verdict:?} beside {first:?} and {second:?}");
        assert_eq!(holds, slower, "{at}: {verdict:?}");
    }
    assert!(verdicts.iter().all(|&count| count > 20), "each of them came up: {verdicts:?}");
}

#[test]
fn a_sentence_about_every_task_is_about_every_reading_of_a_suite() {
    use honest_lap_core::claim::Answer;
    let mut random = SplitMix::new(3);
    let mut of = |rig: &str, log: f64, draw: f64| {
        let mut laps = laps(rig, 3, log, &mut random);
        for lap in &mut laps {
            lap.readings = vec![reading("draw", draw * (1.0 + 0.002 * random.normal()))];
        }
        laps
    };
    let says = "heron is faster than wren on every task";
    let mixed = lab([of("heron", 0.0, 400.0), of("wren", 0.2, 500.0)].concat());
    assert_eq!(answer(&mixed, says).answer, Answer::DoesNot, "faster by time, and not by draw");
    let both = lab([of("heron", 0.0, 520.0), of("wren", 0.2, 400.0)].concat());
    assert_eq!(answer(&both, says).answer, Answer::Holds);
}

#[test]
fn the_sentence_nearest_to_one_about_rigs_that_tie_exactly_is_found() {
    let tie = |rig: &str| {
        (1..=3)
            .flat_map(move |s| (1..=5).map(move |n| (s, n)))
            .map(|(session, number)| lap(rig, session, number, "still", 0.0))
            .collect::<Vec<_>>()
    };
    let lab = lab([tie("heron"), tie("wren")].concat());
    for says in [
        "heron is faster than wren on still",
        "heron is 2x as fast as wren on still",
        "heron is at least 20% faster than wren overall",
    ] {
        let near = answer(&lab, says)
            .nearest
            .unwrap_or_else(|| panic!("{says}: {:?}", answer(&lab, says)));
        let holds = honest_lap_core::claim::Answer::Holds;
        assert_eq!(answer(&lab, &near).answer, holds, "{says} → {near}");
    }
    // Of two that tie, either may be first: there is nothing nearer to say.
    assert_eq!(answer(&lab, "heron is fastest on still").nearest, None);
}

#[test]
fn what_a_rig_lacks_is_told_once_and_mean_power_counts_a_workload_once() {
    let mut random = SplitMix::new(8);
    let mut all = Vec::new();
    for rig in ["heron", "wren"] {
        for threads in ["4", "8", "16"] {
            let offset = threads.parse::<u32>().expect("a number") * 10;
            for mut lap in laps(rig, 3, 0.0, &mut random) {
                lap.name.number += offset;
                lap.settings = Settings::new(vec![("threads".into(), threads.into())]);
                all.push(lap);
            }
        }
        for mut lap in laps(rig, 3, 0.0, &mut random) {
            lap.workload = "reel".into();
            lap.name.number += 300;
            all.push(lap);
        }
        if rig == "heron" {
            for mut lap in laps(rig, 3, 0.0, &mut random) {
                lap.workload = "film".into();
                lap.name.number += 400;
                all.push(lap);
            }
        }
    }
    let watts = |lap: &LapHead| if lap.workload == "still" { 40.0 } else { 100.0 };
    let with_power = |head: LapHead| {
        let mut facts = LapFacts::default();
        let mean = watts(&head);
        let course = QuantitySummary { mean, most: mean, ..QuantitySummary::default() };
        facts.conditions.sampled.power_w = Some(course);
        facts.conditions.sampled.on_mains = Some(true);
        KnownLap { head, facts: Arc::new(facts) }
    };
    let laps = all.into_iter().map(with_power).collect();
    let records = Records { laps, ..Records::default() };
    let study = Study { margin: 0.02, baseline: Some("heron".into()), ..Study::default() };
    let lab = Lab::of(study, records);
    let question = Question { worth: Some(Way::default()), ..Question::default() };
    let worth = asked(&lab, &question).worth.expect("it was asked");
    assert_eq!(worth.missing.len(), 1, "{:?}", worth.missing);
    let wren = worth.found.rows.iter().find(|row| row.rig == "wren").expect("it is there");
    // Three variants at 40 W, and a workload at 100 W.
    assert_eq!(wren.power.mean.map(f64::round), Some(70.0));
}
