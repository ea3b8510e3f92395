//! Energy and power of laps, from what was seen while they ran: measures like any other.
//!
//! What is measured inside a machine, by an outside meter, and from a battery are different
//! quantities: each meter has names of its own, and what a battery gave is left out, since it is not
//! known what it was spent on.

use super::facts::LapFacts;
use crate::record::{Better, Measure, Reading};
use crate::unit::{Dimension, Nanos, Unit};
use std::collections::BTreeSet;

/// Energy of a lap, by the machine's own sensors.
pub const ENERGY: &str = "energy";
/// Mean power over a lap.
pub const POWER: &str = "mean power";
/// The most power at any moment that was looked at.
pub const PEAK_POWER: &str = "peak power";

pub(crate) const JOULES: &str = "J";
pub(crate) const WATTS: &str = "W";

/// Returns the measures of energy and power that any of `facts` has.
pub(crate) fn energy_measures<'a>(facts: impl IntoIterator<Item = &'a LapFacts>) -> Vec<Measure> {
    let second = Nanos::from_seconds(1);
    let known = facts.into_iter().flat_map(|facts| energy_readings(facts, second));
    known.map(|reading| reading.measure()).collect::<BTreeSet<Measure>>().into_iter().collect()
}

/// Returns what is known of a lap that took `wall`.
///
/// ```text
/// energy = counted by the machine, or mean power · time
/// ```
/// Where only parts of a lap count, it is of these: mean power at the looks that fell into them · their time. Where too few
/// did, nothing is known.
pub(crate) fn energy_readings(facts: &LapFacts, wall: Nanos) -> Vec<Reading> {
    let sampled = &facts.conditions.sampled;
    let mut all = Vec::new();
    let mut add = |name: String, unit: &str, value: f64| {
        all.push(Reading {
            name,
            unit: unit.to_owned(),
            better: Better::Less,
            value: Some(value).filter(|value| *value > 0.0),
            step: None,
            seen: String::new(),
            reports_time: false,
        });
    };
    let counted = sampled.counted.as_deref();
    let (power_w, meters, seconds) = match counted {
        Some(counted) => (counted.power_w, &counted.meters, counted.seconds),
        None => (sampled.power_w, &sampled.meters, wall.seconds()),
    };
    let energy_j = sampled.energy_j.filter(|_| counted.is_none());
    if sampled.on_mains != Some(false)
        && let Some(power) = power_w
    {
        add(ENERGY.into(), JOULES, energy_j.unwrap_or(power.mean * seconds));
        add(POWER.into(), WATTS, power.mean);
        add(PEAK_POWER.into(), WATTS, power.most);
    }
    for meter in meters {
        let unit = Unit::of(&meter.unit).filter(|unit| unit.dimension == Dimension::Power);
        let Some(watts) = unit.map(Unit::in_kept) else { continue };
        let (mean, most) = (meter.course.mean * watts, meter.course.most * watts);
        add(format!("{} {ENERGY}", meter.name), JOULES, mean * seconds);
        add(format!("{} {POWER}", meter.name), WATTS, mean);
        add(format!("{} {PEAK_POWER}", meter.name), WATTS, most);
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{CountedPower, MeterSum, QuantitySummary};
    use std::sync::Arc;

    fn facts(power: f64, on_mains: Option<bool>) -> Arc<LapFacts> {
        let mut facts = LapFacts::default();
        let course =
            QuantitySummary { mean: power, most: power * 1.5, ..QuantitySummary::default() };
        facts.conditions.sampled.power_w = Some(course);
        facts.conditions.sampled.on_mains = on_mains;
        let course = QuantitySummary { mean: power * 2.0, ..course };
        let meter = MeterSum { name: "wall".into(), unit: "W".into(), course };
        facts.conditions.sampled.meters = vec![meter];
        Arc::new(facts)
    }

    #[test]
    fn power_over_time_is_energy_and_each_meter_is_its_own() {
        let known = facts(50.0, Some(true));
        let all = energy_readings(&known, Nanos::from_seconds(20));
        let value = |name: &str| all.iter().find(|reading| reading.name == name)?.value;
        assert_eq!(
            [value(ENERGY), value(POWER), value(PEAK_POWER)],
            [1000.0, 50.0, 75.0].map(Some)
        );
        assert_eq!(value("wall energy"), Some(2000.0));
        let names: Vec<String> = energy_measures([&*known]).into_iter().map(|m| m.name).collect();
        assert!(names.contains(&"wall mean power".to_owned()) && names.len() == 6, "{names:?}");
    }

    #[test]
    fn a_meter_in_kilowatts_is_a_meter_of_power_and_one_in_degrees_is_not() {
        let mean_power = |unit: &str| {
            let mut facts = facts(50.0, Some(true));
            Arc::make_mut(&mut facts).conditions.sampled.meters[0].unit = unit.into();
            let all = energy_readings(&facts, Nanos::from_seconds(1));
            all.into_iter().find(|reading| reading.name == "wall mean power").and_then(|r| r.value)
        };
        assert_eq!([mean_power("W"), mean_power("kW")], [Some(100.0), Some(100_000.0)]);
        assert_eq!([mean_power("mW"), mean_power("°C")], [Some(0.1), None]);
    }

    #[test]
    fn what_came_from_a_battery_is_not_told_as_the_machines_own() {
        let all = energy_measures([&*facts(50.0, Some(false))]);
        assert!(all.iter().all(|measure| measure.name.starts_with("wall")), "{all:?}");
    }

    #[test]
    fn of_a_lap_of_which_parts_count_it_is_theirs() {
        let mut known = facts(50.0, Some(true));
        let sampled = &mut Arc::make_mut(&mut known).conditions.sampled;
        sampled.energy_j = Some(1_000.0);
        let course = QuantitySummary { mean: 80.0, most: 90.0, ..QuantitySummary::default() };
        let counted =
            CountedPower { seconds: 3.0, looks: 6, power_w: Some(course), meters: vec![] };
        sampled.counted = Some(Box::new(counted));
        let value = |name: &str| {
            let all = energy_readings(&known, Nanos::from_seconds(20));
            all.iter().find(|reading| reading.name == name).and_then(|reading| reading.value)
        };
        assert_eq!(
            (value(ENERGY), value(POWER), value("wall energy")),
            (Some(240.0), Some(80.0), None)
        );
    }
}
