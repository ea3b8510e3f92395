//! A workload's rate over a numeric setting, held against paper peaks.

use crate::sheets::share_of;
use crate::sheets::words::listed;
use honest_lap_core::judge::{Row, WorkloadView};
use honest_lap_core::study::Study;
use honest_lap_core::variant::Settings;
use honest_lap_core::work::Work;
use honest_lap_draw::chart::{SweepCurve, SweepFigure, Swept};
use honest_lap_draw::percent;
use std::collections::BTreeMap;

/// Returns the rate of the time of `view` over `setting`; `None` where fewer than two of its values are numbers.
pub fn sweep(
    setting: &str,
    view: &WorkloadView,
    work: &Work,
    study: &Study,
) -> Option<SweepFigure> {
    let mut curves: BTreeMap<String, SweepCurve> = BTreeMap::new();
    let mut best: BTreeMap<String, (f64, String)> = BTreeMap::new();
    // A row stands in the groups of both ways to look, and is one figure.
    let rows = view.groups.iter().flat_map(|group| &group.rows);
    let rows: BTreeMap<(&str, &Settings), &Row> =
        rows.map(|row| ((row.rig.as_str(), &row.settings), row)).collect();
    for row in rows.into_values() {
        let settings = &row.settings;
        let at: Option<f64> = settings.get(setting).and_then(|value| value.trim().parse().ok());
        let (Some(at), Some(amount), Some(cell)) = (at, work.of(settings), &row.cell) else {
            continue;
        };
        let name = named(row, setting);
        let rate = |seconds: f64| amount.value / seconds;
        // The shorter end of a time is the higher end of its rate.
        let ends = cell.interval().ok().map(|ends| (rate(ends.high), rate(ends.low)));
        let new = SweepCurve { name: name.clone(), points: Vec::new(), peak: None };
        let curve = curves.entry(name.clone()).or_insert(new);
        let typical = rate(cell.typical());
        curve.points.push(Swept { at, rate: typical, ends });
        if let Some((share, _)) = share_of(view, row, Some(work), study) {
            // The peak in the unit of the work.
            curve.peak = Some(typical / share);
            let known = best.entry(name).or_insert((share, String::new()));
            if share >= known.0 {
                let value = settings.get(setting).unwrap_or_default();
                *known = (share, format!("{setting}={value}"));
            }
        }
    }
    let curves: Vec<SweepCurve> = curves
        .into_values()
        .map(|mut curve| {
            curve.points.sort_by(|a, b| a.at.total_cmp(&b.at));
            curve
        })
        .filter(|curve| curve.points.len() > 1)
        .collect();
    if curves.is_empty() {
        return None;
    }
    let said = best.iter().map(|(name, (share, with))| {
        format!("{name} reaches {} of its paper peak with {with}", percent(*share))
    });
    Some(SweepFigure {
        title: format!("{}: the rate over {setting}", view.workload),
        finding: listed(&said.collect::<Vec<_>>()),
        setting: setting.to_owned(),
        unit: format!("{}/s", work.unit()),
        curves,
    })
}

/// Returns what a curve is called: its rig, and the settings that it holds still.
fn named(row: &Row, setting: &str) -> String {
    let others = row.settings.iter().filter(|(key, _)| *key != setting);
    let words: Vec<String> = others.map(|(key, value)| format!(" {key}={value}")).collect();
    format!("{}{}", row.rig, words.concat())
}
