//! A workload's rate over a numeric setting, held against paper peaks.

use crate::chart::{SweepCurve, SweepFigure, Swept};
use crate::sheet::of_peak_words;
use crate::words::listed;
use honest_lap_core::judge::{Row, WorkloadView};
use honest_lap_core::record::{Settings, Work};
use std::collections::BTreeMap;

/// Returns the rate of the time of `view` over `setting`; `None` where fewer than two of its values are numbers.
pub fn sweep(setting: &str, view: &WorkloadView, work: &Work) -> Option<SweepFigure> {
    let mut curves: BTreeMap<String, SweepCurve> = BTreeMap::new();
    let mut best: BTreeMap<String, (f64, String)> = BTreeMap::new();
    // A row stands in the groups of both ways to look, and is one figure.
    let rows = view.groups.iter().flat_map(|group| &group.rows);
    let rows: BTreeMap<(&str, &Settings), &Row> =
        rows.map(|row| ((row.rig.as_str(), &row.settings), row)).collect();
    for row in rows.into_values() {
        let settings = &row.settings;
        let at: Option<f64> = settings.get(setting).and_then(|value| value.trim().parse().ok());
        let (Some(at), Some(rate)) = (at, &row.rate) else { continue };
        let name = named(row, setting);
        let ends = rate.interval.map(|ends| (ends.low, ends.high));
        let new = SweepCurve { name: name.clone(), points: Vec::new(), peak: None };
        let curve = curves.entry(name.clone()).or_insert(new);
        let typical = rate.a_second.value;
        curve.points.push(Swept { at, rate: typical, ends });
        if let Some(share) = rate.of_peak.as_ref().map(|of| of.share) {
            // The peak in the unit of the work.
            curve.peak = Some(typical / share);
            let known = best.entry(name).or_insert((share, String::new()));
            if share >= known.0 {
                let value = settings.get(setting).unwrap_or_default();
                *known = (share, format!("{setting}={value}"));
            }
        }
    }
    let (scale, power) = scale(curves.values());
    let curves: Vec<SweepCurve> = curves
        .into_values()
        .map(|mut curve| {
            curve.points.sort_by(|a, b| a.at.total_cmp(&b.at));
            for point in &mut curve.points {
                point.rate /= scale;
                point.ends = point.ends.map(|(low, high)| (low / scale, high / scale));
            }
            curve.peak = curve.peak.map(|peak| peak / scale);
            curve
        })
        .filter(|curve| curve.points.len() > 1)
        .collect();
    if curves.is_empty() {
        return None;
    }
    let said = curves.iter().filter_map(|curve| match best.get(&curve.name) {
        Some((share, with)) => {
            let share = of_peak_words(*share);
            Some(format!("{} reaches {share} of its paper peak with {with}", curve.name))
        }
        None => {
            let most = curve.points.iter().max_by(|a, b| a.rate.total_cmp(&b.rate))?;
            Some(format!("{} does most with {setting}={}", curve.name, most.at))
        }
    });
    Some(SweepFigure {
        title: format!("{}: the rate over {setting}", view.workload),
        finding: listed(&said.collect::<Vec<_>>()),
        setting: setting.to_owned(),
        unit: format!("{power}{}/s", work.unit()),
        curves,
    })
}

/// Returns the power of a thousand in which the largest of the rates and peaks are short, and its words.
fn scale<'a>(curves: impl Iterator<Item = &'a SweepCurve>) -> (f64, &'static str) {
    const POWERS: [(f64, &str); 4] =
        [(1e15, "10¹⁵ "), (1e12, "10¹² "), (1e9, "10⁹ "), (1e6, "10⁶ ")];
    let most = curves
        .flat_map(|curve| curve.points.iter().map(|point| point.rate).chain(curve.peak))
        .fold(0.0, f64::max);
    POWERS.into_iter().find(|(power, _)| most >= *power).unwrap_or((1.0, ""))
}

/// Returns what a curve is called: its rig, and the settings that it holds still.
fn named(row: &Row, setting: &str) -> String {
    let others = row.settings.iter().filter(|(key, _)| *key != setting);
    let words: Vec<String> = others.map(|(key, value)| format!(" {key}={value}")).collect();
    format!("{}{}", row.rig, words.concat())
}
