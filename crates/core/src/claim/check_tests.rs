//! Sentences against small labs whose truth is known.

use super::*;
use crate::claim::{Names, parse};
use crate::judge::{Assumptions, tables};
use crate::lab::Laps;
use crate::record::{LapHead, LapName};
use crate::stat::SplitMix;
use crate::unit::Nanos;

/// Returns three sessions of five laps of each (rig, workload, milliseconds).
fn lab(cells: &[(&str, &str, f64)], seed: u64) -> Vec<LapHead> {
    let mut noise = SplitMix::new(seed);
    let mut laps = Vec::new();
    for (at, (rig, workload, ms)) in cells.iter().enumerate() {
        for session in 1..=3 {
            let luck = noise.normal() * 0.004;
            for lap in 1..=5 {
                let name = format!("{rig}-{session}.{}", 100 * at + lap);
                let wall = Nanos((ms * 1e6 * (luck + noise.normal() * 0.004).exp()) as u64);
                let name = LapName::parse(&name).unwrap();
                laps.push(LapHead::done(name, workload, Settings::default(), wall));
            }
        }
    }
    laps
}

fn said(text: &str, laps: &[LapHead]) -> Reply {
    let names = |of: fn(&LapHead) -> &str| {
        laps.iter().map(|lap| of(lap).to_owned()).collect::<BTreeSet<String>>().into_iter()
    };
    let known = Names {
        titles: Vec::new(),
        rigs: names(|lap| &lap.name.session.rig).collect(),
        workloads: names(|lap| &lap.workload).collect(),
        measures: vec![Measure::time()],
    };
    let claim = parse(text, &known).unwrap_or_else(|err| panic!("{text}: {err}"));
    let ask = Ask { margin: 0.02, ..Ask::default() };
    let laps = Laps::from(laps);
    let tables = tables(&laps, &ask);
    let assume = Assumptions::of(0.02);
    let weighing = Weighing { assume, ..Weighing::default() };
    check(&claim, &Stand { tables: &tables, ask: &ask, assume, weighing: &weighing }).unwrap()
}

/// heron is 1.25 × as fast as wren in both; plover ties with heron.
fn world() -> Vec<LapHead> {
    let cells = [
        ("heron", "still", 1000.0),
        ("wren", "still", 1250.0),
        ("plover", "still", 1002.0),
        ("heron", "reel", 400.0),
        ("wren", "reel", 500.0),
        ("plover", "reel", 401.0),
    ];
    lab(&cells, 7)
}

#[test]
fn sentences_hold_do_not_or_cannot_be_said() {
    use Answer::{CannotBeSaid, DoesNot, Holds};
    let laps = world();
    for (text, answer) in [
        ("heron is faster than wren on still", Holds),
        ("heron is at least 20% faster than wren on every task", Holds),
        ("heron is at least 30% faster than wren on still", DoesNot),
        ("heron is at least 25% faster than wren on still", CannotBeSaid),
        ("wren is slower than heron overall", Holds),
        ("wren is faster than heron on every task", DoesNot),
        ("heron is 1.24x as fast as wren on still", Holds),
        ("heron is 1.4x as fast as wren on still", DoesNot),
        ("heron takes at least 15% less time than wren on reel", Holds),
        ("heron takes at most 70% of the time of wren on reel", DoesNot),
        ("heron is between 20 and 30% faster than wren on still", Holds),
        ("heron is between 30 and 40% faster than wren on still", DoesNot),
        ("heron takes between 15 and 25% less time than wren on still", Holds),
        ("wren takes between 5 and 10% more time than heron on still", DoesNot),
        ("heron is up to 1.2x as fast as wren", Holds),
        ("heron is up to 1.5x as fast as wren", DoesNot),
        ("wren is up to 15% slower than heron", Holds),
        ("wren is up to 40% slower than heron", DoesNot),
        ("wren takes up to 20% more time than heron", Holds),
        ("wren takes up to 60% more time than heron", DoesNot),
        ("heron takes up to 40% less time than wren", DoesNot),
        ("heron and plover are the same within 4% on every task", Holds),
        ("heron and wren are the same within 4% on every task", DoesNot),
        ("heron and plover are the same within 0.1% on still", CannotBeSaid),
        ("wren is slowest on every task", Holds),
        ("wren is third fastest overall", Holds),
        ("wren is fastest on still", DoesNot),
        ("heron is second fastest on still", CannotBeSaid),
        ("heron takes at most 1.1 s on still", Holds),
        ("time of heron in reel is above 0.5 s", DoesNot),
    ] {
        let found = said(text, &laps);
        assert_eq!(found.answer, answer, "{text}: {found:?}");
    }
}

#[test]
fn the_nearest_sentence_is_true_and_reads_well() {
    let laps = world();
    let near = |text: &str| said(text, &laps).nearest.unwrap();
    assert_eq!(
        near("heron is at least 40% faster than wren on still").split("least").next().unwrap(),
        "heron is at "
    );
    assert!(near("heron is faster than plover on still").contains("are the same within"));
    assert_eq!(
        near("heron is second fastest on still"),
        "heron is first to second fastest on still"
    );
    for text in [
        "heron is at least 40% faster than wren on every task",
        "plover takes at most half the time of wren overall",
        "heron and wren are the same within 1% on reel",
        "plover is fastest on still",
        "wren is second slowest overall",
        "heron takes at most 300 ms on reel",
        "time of heron in reel is above 2 s",
        "wren is 3x faster than heron on still",
    ] {
        let sentence = near(text);
        assert_eq!(said(&sentence, &laps).answer, Answer::Holds, "{text} → {sentence}");
    }
}

#[test]
fn what_is_missing_or_too_little_cannot_be_said() {
    let mut laps = world();
    laps.retain(|lap| !(lap.workload == "reel" && lap.name.session.rig == "wren"));
    for text in ["heron is faster than wren overall", "heron is faster than wren on every task"] {
        let found = said(text, &laps);
        let why = &found.parts.last().unwrap().said;
        assert_eq!(found.answer, Answer::CannotBeSaid);
        assert!(found.nearest.is_none(), "{found:?}");
        let lacks = found.parts.iter().any(
            |part| matches!(&part.said, Said::Nothing(w) if format!("{w:?}").contains("wren")),
        );
        assert!(lacks, "{why:?}");
    }
    let laps = lab(&[("heron", "still", 1000.0), ("wren", "still", 1250.0)], 1);
    let two: Vec<LapHead> = laps
        .into_iter()
        .filter(|lap| lap.name.session.number == 1 && lap.name.number % 100 < 3)
        .collect();
    assert_eq!(said("heron is faster than wren on still", &two).answer, Answer::CannotBeSaid);
    assert_eq!(said("heron takes at most 9 s on still", &two).answer, Answer::CannotBeSaid);
    assert_eq!(said("heron is fastest on still", &two).answer, Answer::CannotBeSaid);
}

#[test]
fn time_saved_that_is_called_speed_is_pointed_at() {
    // 1000 ms against 1667: 1.667 × the speed, 40 % less time.
    let laps = lab(&[("heron", "still", 1000.0), ("wren", "still", 1667.0)], 3);
    let found = said("heron is 40% faster than wren on still", &laps);
    assert_eq!(found.answer, Answer::DoesNot);
    let [Caution::TimeSavedCalledSpeed { share, speed, .. }] = found.cautions[..] else {
        panic!("{:?}", found.cautions)
    };
    assert!(share == 0.4 && (speed - 1.667).abs() < 0.05, "{speed}");
    assert_eq!(said("heron is 67% faster than wren on still", &laps).cautions, []);
}

#[test]
fn of_equal_machines_no_sentence_that_is_false_holds_often() {
    let (mut wrong, mut refuted, mut near) = (0, 0, 0);
    let labs = 300;
    for seed in 0..labs {
        let laps = lab(&[("heron", "still", 1000.0), ("wren", "still", 1000.0)], seed);
        let of = |text: &str| said(text, &laps);
        wrong += u32::from(of("heron is faster than wren on still").answer == Answer::Holds);
        refuted += u32::from(
            of("heron is at least 0% faster than wren on still").answer == Answer::DoesNot,
        );
        let sentence = of("heron is 2x as fast as wren on still").nearest.unwrap();
        near += u32::from(of(&sentence).answer == Answer::Holds);
    }
    // One-sided, so 2.5 % each; four standard errors of that are 3.6 %.
    assert!(wrong <= labs as u32 * 6 / 100, "{wrong}");
    assert!(refuted <= labs as u32 * 6 / 100, "{refuted}");
    assert_eq!(near, labs as u32, "the nearest sentence holds by the same laps");
}
