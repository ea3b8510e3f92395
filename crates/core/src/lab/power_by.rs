//! Which measures tell what rigs draw: a meter at the wall, what a person read off one, or the machine's own sensors.

use super::energy::{ENERGY, PEAK_POWER, POWER};
use super::records::Lab;
use super::series::{Lap, LapSeries};
use crate::record::Reading;
use crate::unit::{Dimension, Unit};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// The measures that power and energy are taken from: one kind for all rigs, since unlike ones see unlike parts of a machine.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct PowerBy {
    /// Mean power.
    pub mean: String,
    /// The most power at any moment.
    pub peak: String,
    /// Energy of a lap.
    pub energy: String,
    /// What a value of `mean` has to be multiplied by for watts.
    #[serde(skip)]
    pub in_watts: f64,
    /// Who tells it.
    pub told_by: ToldBy,
}

/// Who tells what a rig draws.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ToldBy {
    /// The machine's own sensors, which seldom see all of it.
    Sensors,
    /// A reading of the study, in watts or joules.
    Reading,
    /// An outside meter.
    Meter,
}

impl Default for PowerBy {
    fn default() -> Self {
        Self::of(POWER.into(), PEAK_POWER.into(), ENERGY.into(), ToldBy::Sensors)
    }
}

impl PowerBy {
    fn of(mean: String, peak: String, energy: String, told_by: ToldBy) -> Self {
        Self { mean, peak, energy, in_watts: 1.0, told_by }
    }

    /// Returns the measures that most rigs have; of those that as many have, an outside meter's before what was read, and
    /// that before the machine's own sensors.
    pub(crate) fn known(lab: &Lab) -> Self {
        let runs = lab.series().iter().flat_map(LapSeries::runs);
        let meters: BTreeSet<&str> = runs.flat_map(|run| run.alike.meters()).collect();
        let metered = |name: &str| {
            let of = |what: &str| format!("{name} {what}");
            Self::of(of(POWER), of(PEAK_POWER), of(ENERGY), ToldBy::Meter)
        };
        let mut all = vec![Self::default()];
        all.extend(read(lab.series()));
        all.extend(meters.into_iter().map(metered));
        let names = |by: &Self| [by.mean.clone(), by.energy.clone()];
        let laps = lab.laps_with(&all.iter().flat_map(names).collect::<Vec<_>>());
        let rigs = |by: &Self| {
            let told = |lap: &Lap<'_>| {
                let of = lap.yields();
                of.value(&by.mean).or_else(|| of.value(&by.energy)).is_some()
            };
            let rigs = laps.iter().filter(told).map(|lap| lap.rig());
            rigs.collect::<BTreeSet<&str>>().len()
        };
        let best = all.into_iter().max_by_key(|by| (rigs(by), by.told_by));
        best.unwrap_or_default()
    }
}

/// Returns what the study itself reads in watts or joules, where it does: the first of each.
fn read(series: &[LapSeries]) -> Option<PowerBy> {
    let mut of: BTreeMap<bool, &Reading> = BTreeMap::new();
    let runs = series.iter().flat_map(LapSeries::runs);
    for reading in runs.flat_map(|run| run.alike.read()) {
        match Unit::of(&reading.unit).map(|unit| unit.dimension) {
            Some(Dimension::Power) => of.entry(true).or_insert(reading),
            Some(Dimension::Energy) => of.entry(false).or_insert(reading),
            _ => continue,
        };
    }
    let name = |is_power: bool| of.get(&is_power).map(|reading| reading.name.clone());
    let (mean, energy) = (name(true), name(false));
    let in_watts = of.get(&true).and_then(|reading| Unit::of(&reading.unit)).map(Unit::in_kept);
    let any = mean.is_some() || energy.is_some();
    let or_none = |name: Option<String>| name.unwrap_or_default();
    any.then(|| PowerBy {
        in_watts: in_watts.unwrap_or(1.0),
        ..PowerBy::of(or_none(mean), String::new(), or_none(energy), ToldBy::Reading)
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::Records;
    use crate::record::{Better, LapHead, LapName, Settings, Study};
    use crate::unit::Nanos;

    #[test]
    fn what_most_rigs_have_is_taken_and_what_is_read_before_what_sensors_see() {
        let lap = |rig: &str, readings: Vec<Reading>| {
            let name = LapName::parse(&format!("{rig}-1.1")).unwrap();
            let done = LapHead::done(name, "still", Settings::default(), Nanos::from_seconds(20));
            LapHead { readings, ..done }
        };
        let wall = |watts: f64| Reading {
            name: "wall".into(),
            unit: "kW".into(),
            better: Better::Less,
            value: Some(watts / 1e3),
            step: Some(0.001),
            seen: String::new(),
            reports_time: false,
        };
        let laps = [lap("heron", vec![wall(90.0)]), lap("wren", Vec::new())];
        let lab = |laps: &[LapHead]| {
            Lab::of(Study::default(), {
                let laps = laps.into();
                Records { laps, ..Records::default() }
            })
        };
        let known = PowerBy::known(&lab(&laps));
        assert_eq!((known.mean.as_str(), known.told_by), ("wall", ToldBy::Reading));
        assert!((known.in_watts - 1_000.0).abs() < 1e-9);
        let none = PowerBy::known(&lab(&laps[1..]));
        assert_eq!(none, PowerBy::default());
    }
}
