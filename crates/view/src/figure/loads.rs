//! Searches for a load, as the figure wants them.

use crate::chart::{LoadLane, LoadTried, LoadsFigure};
use crate::words::{count, lap_of};
use honest_lap_core::capacity::{SearchLap, Searched, shares};
use honest_lap_core::record::Loads;
use std::collections::BTreeMap;

/// Returns the searches of `workload`, the rigs and variants below one another; `finding` is what they come to.
pub fn loads(workload: &str, finding: String, searches: &[Searched<'_>]) -> LoadsFigure {
    let mut lanes: BTreeMap<String, Vec<&Searched<'_>>> = BTreeMap::new();
    let (mut unit, mut steps) = (String::new(), Vec::new());
    for search in searches {
        let Some((lap, _)) = search.laps.first() else { continue };
        if lap.workload == workload {
            let name = lap_of(&lap.name.session.rig, &lap.settings);
            lanes.entry(name).or_default().push(search);
            unit.clone_from(&search.rule.unit);
            if let Loads::Named(names) = &search.rule.loads {
                steps.clone_from(names);
            }
        }
    }
    let lane = |(name, searches): (String, Vec<&Searched<'_>>)| {
        let rule = searches[0].rule;
        let tried: Vec<SearchLap> =
            searches.iter().flat_map(|search| &search.laps).map(|(_, tried)| *tried).collect();
        let edges = searches.iter().filter(|search| search.whole).filter_map(|search| search.edge);
        let edge = |edge: honest_lap_core::capacity::Edge| {
            let ends = (rule.load(edge.interval.low), rule.load(edge.interval.high));
            (rule.load(edge.at), ends)
        };
        let says = match searches.as_slice() {
            [_] => count(tried.len(), "lap"),
            many => format!("{} in {} searches", count(tried.len(), "lap"), many.len()),
        };
        let share = |share: honest_lap_core::capacity::Share| {
            let of = |laps: u32| f64::from(laps) / f64::from(share.laps());
            let load = rule.load(share.at as f64);
            LoadTried { load, held: of(share.held), broke: of(share.broke) }
        };
        LoadLane {
            name,
            says,
            tried: shares(&tried).into_iter().map(share).collect(),
            edges: edges.map(edge).collect(),
        }
    };
    LoadsFigure {
        title: format!("{workload}: what holds at which load"),
        finding,
        unit: if unit.is_empty() { "steps, from the smallest".to_owned() } else { unit },
        steps,
        lanes: lanes.into_iter().map(lane).collect(),
    }
}
