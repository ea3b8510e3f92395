//! Indexes over made-up labs.

use super::super::ask::Ask;
use super::super::compare::compare;
use super::super::verdict::Verdict;
use super::*;
use crate::record::{LapHead, LapName, Settings};
use crate::unit::Nanos;

/// Laps of `workload` on `rig`, of `typical` milliseconds, in so many sessions.
fn laps(rig: &str, workload: &str, typical: f64, sessions: u32) -> Vec<LapHead> {
    let mut all = Vec::new();
    for session in 1..=sessions {
        for lap in 1..=4_u32 {
            let number = lap + 4 * workload.len() as u32;
            let name = LapName::parse(&format!("{rig}-{session}.{number}")).unwrap();
            let off = 1.0 + 0.002 * f64::from(lap % 3) + 0.001 * f64::from(session);
            let wall = Nanos((typical * off * 1e6) as u64);
            all.push(LapHead::done(name, workload, Settings::default(), wall));
        }
    }
    all
}

fn of(laps: &[LapHead], weights: &[(&str, f64)]) -> Overall {
    let views = compare(laps, &Ask { margin: 0.02, ..Ask::default() });
    let weights = weights.iter().map(|(name, weight)| ((*name).to_owned(), *weight)).collect();
    let rig_order = vec!["heron".to_owned()];
    overall(&views, &Weighing { weights, rig_order, ..Weighing::default() })
}

fn lab(sessions: u32) -> Vec<LapHead> {
    [
        ("heron", "still", 100.0),
        ("heron", "reel", 400.0),
        ("wren", "still", 50.0),
        ("wren", "reel", 800.0),
    ]
    .into_iter()
    .flat_map(|(rig, workload, typical)| laps(rig, workload, typical, sessions))
    .collect()
}

fn ratio(overall: &Overall, rig: &str) -> f64 {
    let row = overall.rows.iter().find(|row| row.rig == rig).unwrap();
    row.against.as_ref().unwrap().speed.unwrap()
}

#[test]
fn twice_the_speed_and_half_of_it_come_to_nothing_unless_they_weigh_apart() {
    let even = of(&lab(3), &[]);
    assert!((ratio(&even, "wren") - 1.0).abs() < 1e-6);
    assert_eq!(even.rows.len(), 2);
    let moved = even.rows.iter().find_map(|row| row.moved.first().cloned()).unwrap();
    assert!((moved.without.ln().abs() - 2f64.ln()).abs() < 1e-6, "{moved:?}");
    assert!((moved.doubled.ln().abs() - 2f64.ln() / 3.0).abs() < 1e-6, "{moved:?}");
    // (2·ln 2 − ln 2) / 3
    let stills = of(&lab(3), &[("still", 2.0)]);
    assert!((ratio(&stills, "wren") - 2f64.powf(1.0 / 3.0)).abs() < 1e-6);
    let only = of(&lab(3), &[("reel", 0.0)]);
    assert!((ratio(&only, "wren") - 2.0).abs() < 1e-6 && only.rows[0].moved.is_empty());
    assert_eq!(only.rows[0].rig, "wren");
}

#[test]
fn sessions_are_its_values_and_one_day_widens_it() {
    let difference = |sessions| {
        let found = of(&lab(sessions), &[("reel", 0.0)]);
        found.rows[0].against.unwrap()
    };
    let (three, one) = (difference(3), difference(1));
    assert_eq!((three.ground, three.verdict), (Ground::Sessions(3), Verdict::Faster));
    assert_eq!(one.ground, Ground::ThisSessionOnly);
    let width = |d: &Difference| d.interval.map(|i| (i.high / i.low).ln()).unwrap();
    assert!(width(&one) > 2.0 * 2f64.sqrt() * 1.96 * 0.015, "both sides' day is in it");
    assert!(width(&three) < width(&one));
}

#[test]
fn what_one_rig_lacks_is_named_and_left_out_for_all() {
    let mut lab = lab(3);
    lab.extend(laps("heron", "catalogue", 30.0, 3));
    let found = of(&lab, &[]);
    let missing = [Missing {
        of: CellName::of("catalogue", &Settings::default(), "time"),
        rigs: vec!["wren".into()],
    }];
    assert_eq!(found.missing, missing);
    assert_eq!(found.entered.iter().map(|entry| entry.share).collect::<Vec<_>>(), [0.5, 0.5]);
    let alone = of(&laps("heron", "still", 100.0, 3), &[]);
    assert!(alone.rows.is_empty());
}

#[test]
fn temperatures_and_parts_are_no_work_and_single_laps_are_named() {
    let mut laps = lab(3);
    for lap in &mut laps {
        let hot = if lap.name.session.rig == "wren" { 90.0 } else { 45.0 };
        let reading = |name: &str, unit: &str, value| crate::record::Reading {
            name: name.into(),
            unit: unit.into(),
            better: Better::Less,
            value: Some(value),
            step: None,
            seen: String::new(),
            reports_time: false,
        };
        lap.readings = vec![reading("heat", "°C", hot), reading("load", "s", hot)];
    }
    let parts = ["still", "reel"].map(|w| (w.to_owned(), "load".to_owned()));
    let ask = Ask { margin: 0.02, parts: parts.into(), ..Ask::default() };
    let views = compare(&laps, &ask);
    assert_eq!(views.iter().filter(|view| view.is_work).count(), 2);
    let found =
        overall(&views, &Weighing { rig_order: vec!["heron".into()], ..Weighing::default() });
    assert!((ratio(&found, "wren") - 1.0).abs() < 1e-6, "{found:?}");
    let single = |rig: &str| laps.iter().find(|lap| lap.name.session.rig == rig).cloned();
    let single = [single("heron").unwrap(), single("wren").unwrap()];
    let views = compare(&single[..], &ask);
    let why = between(&views, &Weighing::default(), "heron", "wren").unwrap_err();
    let lacks = Missing {
        of: CellName::of("still", &Settings::default(), "time"),
        rigs: vec!["heron".into(), "wren".into()],
    };
    assert_eq!(why, NoIndex::Missing(lacks));
}
