//! Measures that may be zero: counts of what went wrong, held against each other by their difference.
//!
//! Runs for under a second on one core of two.

use honest_lap_core::judge::{Against, Ask, Verdict, compare};
use honest_lap_core::record::{Better, LapHead, LapName, Reading, Settings};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::collections::BTreeSet;

const LABS: u64 = 1_000;

/// How events come.
#[derive(Clone, Copy, Debug)]
enum Events {
    /// One by one, at this many a lap.
    Poisson(f64),
    /// In bursts of this many, at this many bursts a lap.
    Bursts(f64, f64),
}

impl Events {
    fn drawn(self, random: &mut SplitMix) -> f64 {
        match self {
            Self::Poisson(rate) => poisson(rate, random),
            Self::Bursts(of, rate) => of * poisson(rate, random),
        }
    }
}

/// Draws a Poisson count by its exponential gaps.
fn poisson(rate: f64, random: &mut SplitMix) -> f64 {
    let (mut count, mut passed) = (-1.0, 0.0);
    while passed < rate {
        passed -= (1.0 - random.unit()).ln();
        count += 1.0;
    }
    count
}

fn laps(rig: &str, sessions: u32, events: Events, random: &mut SplitMix) -> Vec<LapHead> {
    let mut all = Vec::new();
    for session in 1..=sessions {
        for lap in 1..=5 {
            let name = LapName::parse(&format!("{rig}-{session}.{lap}")).expect("a name");
            let mut head = LapHead::done(name, "film", Settings::default(), Nanos(1));
            let value = events.drawn(random);
            head.readings = vec![Reading {
                name: "dropped".into(),
                unit: String::new(),
                better: Better::Less,
                value: Some(value),
                seen: value.to_string(),
                step: None,
                reports_time: false,
            }];
            all.push(head);
        }
    }
    all
}

/// Returns what is said of wren, held against heron.
fn said(sessions: u32, heron: Events, wren: Events, random: &mut SplitMix) -> Verdict {
    let all =
        [laps("heron", sessions, heron, random), laps("wren", sessions, wren, random)].concat();
    let untimed = BTreeSet::from(["film".to_owned()]);
    let views = compare(&all, &Ask { margin: 0.02, untimed, ..Ask::default() });
    let rows = &views[0].groups[0].rows;
    let wren = rows.iter().find(|row| row.rig == "wren").expect("it ran");
    match &wren.against {
        Against::Other(difference) => difference.verdict,
        other => panic!("{other:?}"),
    }
}

#[test]
fn equal_rates_are_rarely_told_apart_however_seldom_or_bunched_events_are() {
    for sessions in [1, 2, 3] {
        for events in [
            Events::Poisson(0.1),
            Events::Poisson(0.5),
            Events::Poisson(2.0),
            Events::Poisson(10.0),
            Events::Bursts(20.0, 0.3),
            Events::Bursts(5.0, 2.0),
        ] {
            let wrong = (0..LABS)
                .filter(|lab| {
                    said(sessions, events, events, &mut SplitMix::new(*lab)).names_a_winner()
                })
                .count() as f64
                / LABS as f64;
            println!("{events:?}, {sessions} sessions: {:.1} % false winners", 100.0 * wrong);
            assert!(wrong <= 0.05 + 2.0 * (0.05 * 0.95 / LABS as f64).sqrt(), "{wrong}");
        }
    }
}

#[test]
fn none_against_many_is_found_and_none_against_none_is_no_winner() {
    let found = |heron, wren| {
        let of = |lab: &u64| said(1, heron, wren, &mut SplitMix::new(*lab)) == Verdict::Slower;
        (0..200).filter(of).count()
    };
    assert_eq!(found(Events::Poisson(0.0), Events::Poisson(150.0)), 200);
    assert!(found(Events::Poisson(0.2), Events::Poisson(8.0)) > 180);
    assert_eq!(found(Events::Poisson(0.0), Events::Poisson(0.0)), 0);
}
