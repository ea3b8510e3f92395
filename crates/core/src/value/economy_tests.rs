//! What rigs are worth: work for money, the edge, what is owned, and powers of one kind.

use super::*;
use crate::judge::{Ask, compare};
use crate::record::{LapHead, LapName, Settings};
use crate::unit::Nanos;

/// Three sessions of four laps of each rig, so many milliseconds long.
fn views(rigs: &[(&str, f64)]) -> Vec<WorkloadView> {
    let mut laps = Vec::new();
    for (rig, ms) in rigs {
        for session in 1..=3 {
            for lap in 1..=4 {
                let name = LapName::parse(&format!("{rig}-{session}.{lap}")).unwrap();
                let off = 1.0 + 0.001 * f64::from(lap % 2) + 0.001 * f64::from(session);
                let wall = Nanos((ms * off * 1e6) as u64);
                laps.push(LapHead::done(name, "still", Settings::default(), wall));
            }
        }
    }
    compare(&laps, &Ask { margin: 0.02, ..Ask::default() })
}

fn study(prices: &[(&str, f64, &str)]) -> Study {
    let rig = |(name, price, unit): &(&str, f64, &str)| Rig {
        name: (*name).to_owned(),
        price: Some(Amount { value: *price, unit: (*unit).to_owned() }),
        ..Rig::default()
    };
    Study { rigs: prices.iter().map(rig).collect(), ..Study::default() }
}

fn found(prices: &[(&str, f64, &str)], rigs: &[(&str, f64)]) -> Economy {
    let weighing = Weighing { rig_order: vec!["heron".into()], ..Weighing::default() };
    economy(&study(prices), &views(rigs), &[], (&[], &PowerBy::default()), &weighing)
}

const PRICES: [(&str, f64, &str); 4] = [
    ("heron", 1000.0, "EUR"),
    ("kestrel", 2000.0, "EUR"),
    ("plover", 1000.0, "EUR"),
    ("wren", 800.0, "EUR"),
];
const RIGS: [(&str, f64); 4] =
    [("heron", 1000.0), ("kestrel", 800.0), ("plover", 1500.0), ("wren", 1001.0)];

#[test]
fn work_for_money_and_the_edge() {
    let found = found(&PRICES, &RIGS);
    let row = |rig: &str| found.rows.iter().find(|row| row.rig == rig).unwrap();
    // kestrel: 1.25 × the work at twice the price.
    let Ranged { value: ratio, interval } = row("kestrel").per_price.unwrap();
    assert!((ratio - 0.625).abs() < 1e-3 && interval.low < ratio && ratio < interval.high);
    assert_eq!(row("heron").standing, Standing::Beaten("wren".into()));
    assert_eq!(row("plover").standing, Standing::Beaten("heron".into()));
    assert_eq!(
        (&row("wren").standing, &row("kestrel").standing),
        (&Standing::Edge, &Standing::Edge)
    );
    assert_eq!(found.rows[0].rig, "wren", "most work for its price");
    let step = &found.steps[0];
    assert_eq!(
        (step.from.as_str(), step.to.as_str(), step.costs.value),
        ("wren", "kestrel", 1200.0)
    );
    assert!((step.brings.speed.unwrap() - 1.25).abs() < 0.01);
}

#[test]
fn what_one_owns_costs_nothing_and_what_is_not_measured_has_to_reach_something() {
    let mut study = study(&PRICES);
    study.rigs[3].owned = true;
    study.rigs.push(Rig {
        name: "osprey".into(),
        price: Some(Amount { value: 1500.0, unit: "EUR".into() }),
        ..Rig::default()
    });
    let weighing = Weighing { rig_order: vec!["heron".into()], ..Weighing::default() };
    let power = (&[][..], &PowerBy::default());
    let found = economy(&study, &views(&RIGS), &[], power, &weighing);
    let wren = found.rows.iter().find(|row| row.rig == "wren").unwrap();
    assert_eq!((wren.owned, &wren.price, wren.per_price), (true, &None, None));
    assert_eq!(wren.standing, Standing::Edge);
    let step = &found.steps[0];
    assert_eq!((step.costs.value, step.dearer_by), (2000.0, None));
    assert!((step.more_work.unwrap() - 0.25).abs() < 0.01);
    // As much work for its price as heron: 1.5×; more than wren, which does 1.0× and costs less, not to be beaten.
    let osprey = &found.unmeasured[0];
    assert_eq!((osprey.rig.as_str(), osprey.like.as_deref()), ("osprey", Some("heron")));
    assert!((osprey.to_match.unwrap() - 1.5).abs() < 1e-9, "{osprey:?}");
    let (most, of) = osprey.to_stand.clone().unwrap();
    assert!((most - 1.0).abs() < 0.01 && ["heron", "wren"].contains(&of.as_str()), "{osprey:?}");
}

#[test]
fn prices_in_two_currencies_are_not_held_against_each_other() {
    let mut prices = PRICES;
    prices[1].2 = "USD";
    let found = found(&prices, &RIGS);
    assert!(found.units_differ && found.steps.is_empty());
    assert!(found.rows.iter().all(|row| row.per_price.is_none()));
}

#[test]
fn stated_power_is_not_held_against_measured_power() {
    let mut study = study(&PRICES);
    study.rigs[0].power.mean = Some(100.0);
    study.rigs[1].power.mean = Some(100.0);
    let weighing = Weighing { rig_order: vec!["heron".into()], ..Weighing::default() };
    let work = views(&RIGS);
    let per_watt = |power: &[WorkloadView]| {
        let found = economy(&study, &work, &[], (power, &PowerBy::default()), &weighing);
        let row = found.rows.into_iter().find(|row| row.rig == "kestrel").unwrap();
        row.per_watt.map(|ratio| ratio.value)
    };
    assert!((per_watt(&[]).unwrap() - 1.25).abs() < 0.01);
    let mut power = views(&[("kestrel", 50_000.0)]);
    power[0].measure.name = PowerBy::default().mean;
    assert_eq!(per_watt(&power), None);
}
