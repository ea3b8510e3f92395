//! How far days differ, measure by measure, as the laps show it.

use super::assumption::BetweenByMeasure;
use super::cell::Cell;
use super::table::Table;
use super::view::WorkloadView;
use crate::estimate::{BetweenSessions, Unit};
use crate::record::SessionName;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// What the standard deviation between sessions is known by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum KnownBy {
    /// It is what is assumed where nothing is known.
    Assumed,
    /// The study states it.
    Stated,
    /// Further sessions of rigs measured it, together with what was assumed or stated.
    Measured,
}

/// How far sessions of a rig are taken to differ in a measure.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Between {
    /// The measure.
    pub measure: String,
    /// The standard deviation, of logs.
    pub sd: f64,
    /// Its degrees of freedom.
    pub degrees: f64,
    /// What it is known by.
    pub known_by: KnownBy,
    /// What the study states.
    pub stated: Option<f64>,
    /// How many degrees of freedom further sessions have.
    pub further: f64,
}

/// Returns how far sessions are taken to differ in each measure of `views`.
pub fn between_sessions(views: &[WorkloadView]) -> Vec<Between> {
    let mut all: Vec<Between> = Vec::new();
    for view in views {
        let mut rows = view.groups.iter().flat_map(|group| &group.rows);
        let Some(cell) = rows.find_map(|row| row.cell.as_ref()) else { continue };
        if all.iter().any(|known| known.measure == view.measure.name) {
            continue;
        }
        let between = cell.between();
        all.push(Between {
            measure: view.measure.name.clone(),
            sd: between.sd(),
            degrees: between.degrees(),
            known_by: match () {
                () if between.measured_degrees() > 0.0 => KnownBy::Measured,
                () if between.stated().is_some() => KnownBy::Stated,
                () => KnownBy::Assumed,
            },
            stated: between.stated(),
            further: between.measured_degrees(),
        });
    }
    all
}

/// A rig's workloads, and the sessions that any of them had.
type Days<'a> = (Vec<Unit>, BTreeSet<&'a SessionName>);

/// Returns the between-session variance that `tables` show, measure by measure.
///
/// The variants of a workload share its days, so they are averaged first; the workloads of a rig may share them, so a
/// day adds its degree of freedom once.
pub fn between_by_measure(tables: &[Table<'_>]) -> BetweenByMeasure {
    let mut rigs: BTreeMap<(&str, &str), Days<'_>> = BTreeMap::new();
    let mut known = BetweenByMeasure::new();
    for table in tables {
        known.entry(table.measure.name.clone()).or_default();
        let mut rows: BTreeMap<&str, Vec<&Cell>> = BTreeMap::new();
        for (rig, cell) in table.rows.iter().filter_map(|row| Some((&row.rig, row.cell.as_ref()?)))
        {
            if cell.sessions() > 1 {
                rows.entry(rig).or_default().push(cell);
            }
        }
        for (rig, cells) in rows {
            let (units, days) = rigs.entry((&table.measure.name, rig)).or_default();
            units.push(unit(&cells));
            days.extend(cells.iter().flat_map(|cell| cell.named_logs()).map(|(name, ..)| name));
        }
    }
    let mut pooled: BTreeMap<&str, Vec<Unit>> = BTreeMap::new();
    for ((measure, _), (units, days)) in &rigs {
        pooled.entry(measure).or_default().push(Unit::of_rig(units, days.len()));
    }
    for (measure, units) in pooled {
        known.insert(measure.to_owned(), BetweenSessions::of(units));
    }
    known
}

/// Returns what the days of one rig and workload show, by the cells of its variants.
fn unit(cells: &[&Cell]) -> Unit {
    // Of each session: the sum of the variants' deviations, of their noise, and their number.
    let mut days: BTreeMap<&SessionName, (f64, f64, f64)> = BTreeMap::new();
    for cell in cells {
        let mean = cell.mean_log();
        for (session, log, noise) in cell.named_logs() {
            let day = days.entry(session).or_default();
            *day = (day.0 + log - mean, day.1 + noise, day.2 + 1.0);
        }
    }
    let deviations: Vec<f64> = days.values().map(|(sum, _, of)| sum / of).collect();
    let noise: f64 = days.values().map(|(_, noise, of)| noise / (of * of)).sum();
    Unit::of(&deviations, noise / deviations.len().max(1) as f64)
}

#[cfg(test)]
mod tests {
    use super::super::ask::Ask;
    use super::super::tabulate::tables;
    use super::*;
    use crate::record::{LapHead, LapName, Settings};
    use crate::unit::Nanos;

    fn lap(session: &str, number: u32, variant: u32, ms: f64) -> LapHead {
        let name = LapName::parse(&format!("{session}.{number}")).unwrap();
        let settings = Settings::new(vec![("threads".into(), variant.to_string())]);
        LapHead::done(name, "still", settings, Nanos((ms * 1e6) as u64))
    }

    fn between(laps: &[LapHead]) -> BetweenSessions {
        let ask = Ask { margin: 0.02, ..Ask::default() };
        between_by_measure(&tables(&laps.into(), &ask))["time"]
    }

    #[test]
    fn eight_variants_of_three_days_are_three_days() {
        let of = |variants: u32| {
            let mut laps = Vec::new();
            for (session, day) in [("heron-1", 1.0), ("heron-2", 1.02), ("heron-3", 0.98)] {
                for variant in 1..=variants {
                    laps.push(lap(session, variant, variant, 1000.0 * day * f64::from(variant)));
                }
            }
            between(&laps)
        };
        assert_eq!(of(1).measured_degrees(), 2.0);
        assert_eq!(of(8).measured_degrees(), 2.0);
        assert!((of(1).variance() - of(8).variance()).abs() < 1e-9);
    }

    #[test]
    fn one_session_a_rig_measures_nothing() {
        let laps = [lap("heron-1", 1, 1, 1000.0), lap("wren-1", 1, 1, 1010.0)];
        assert!(between(&laps).is_assumed());
    }
}
