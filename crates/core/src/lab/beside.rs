//! What stands beside a cell's figures: the measures that are asked for, and what limited its laps.

use super::facts::threads_of;
use super::limit::limit;
use super::limited::{Limit, Limited};
use super::power_by::PowerBy;
use super::records::Lab;
use super::series::{LapSeries, Run};
use crate::record::{Measure, Settings};
use crate::unit::Nanos;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};

/// The column of mean power, told by whatever tells it of most rigs.
pub const WATTS: &str = "watts";
/// The column of a lap's energy, likewise.
pub const JOULES: &str = "joules";

/// A measure beside the one that is compared, over the counted laps of a cell.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ColumnMean {
    /// As it was asked for.
    pub asked: String,
    /// The measure.
    pub measure: Measure,
    /// The arithmetic mean of the laps; `None` where none of them has it.
    pub mean: Option<f64>,
    /// How many laps have it.
    pub laps: usize,
}

/// What limited the laps of a cell.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct CellLimited {
    /// What most of them were limited by, as the one of median length among those shows it.
    #[serde(flatten)]
    pub limited: Limited,
    /// How many were.
    pub laps: usize,
    /// Of how many laps.
    pub of: usize,
}

/// What stands beside the figures of a cell.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct CellBeside {
    /// The measures that are asked for.
    pub columns: Vec<ColumnMean>,
    /// What limited its laps, where one thing limited most.
    pub limited: Option<CellLimited>,
}

/// The same of all cells, by workload, rig and variant.
pub type AllBeside = BTreeMap<(String, String, Settings), CellBeside>;

/// Returns what stands beside the figures of every cell of `lab`, with the measures of `columns`.
pub(crate) fn beside(lab: &Lab, columns: &[String]) -> AllBeside {
    let power = match columns.iter().any(|name| [WATTS, JOULES].contains(&name.as_str())) {
        true => PowerBy::known(lab),
        false => PowerBy::default(),
    };
    let asked: Vec<(&str, &str)> = columns
        .iter()
        .map(|asked| match asked.as_str() {
            WATTS => (WATTS, power.mean.as_str()),
            JOULES => (JOULES, power.energy.as_str()),
            own => (own, own),
        })
        .collect();
    let names: Vec<String> = asked.iter().map(|(_, name)| (*name).to_owned()).collect();
    let measures = if names.is_empty() { Vec::new() } else { lab.measures() };
    let of_name = |name: &str| measures.iter().find(|measure| measure.name == name).cloned();
    let threads = threads_of(&lab.sessions);
    let laps = lab.laps_with(&names);
    let mut cells: HashMap<(&str, &str, &Settings), Vec<&LapSeries>> = HashMap::new();
    for series in laps.series() {
        if lab.forms.get(&series.workload) == Some(&series.task) && series.counts() {
            cells.entry(series.cell()).or_default().push(series);
        }
    }
    let column = |all: &[&LapSeries], (asked, name): &(&str, &str)| {
        let values: Vec<f64> = all.iter().flat_map(|series| series.values(name)).collect();
        let mean = values.iter().sum::<f64>() / values.len() as f64;
        Some(ColumnMean {
            asked: (*asked).to_owned(),
            measure: of_name(name)?,
            mean: Some(mean).filter(|_| !values.is_empty()),
            laps: values.len(),
        })
    };
    let limited_laps = |series: &&LapSeries| -> Vec<(Nanos, Limited)> {
        let threads = threads.get(&series.session).copied();
        let mut all = Vec::new();
        for run in series.runs().filter(Run::counts) {
            run.each_known(|lap, facts| {
                let limited = limit(facts, lap.wall, threads);
                all.extend(facts.lasted(lap.wall).zip(limited));
            });
        }
        all
    };
    let all = cells.into_iter().map(|((workload, rig, settings), all)| {
        let limited = all.iter().flat_map(limited_laps).collect();
        let columns = asked.iter().filter_map(|asked| column(&all, asked)).collect();
        let counted = all.iter().flat_map(|series| series.runs()).filter(Run::counts);
        let laps = counted.map(|run| run.len()).sum();
        let key = (workload.to_owned(), rig.to_owned(), settings.clone());
        (key, CellBeside { columns, limited: most_limited(limited, laps) })
    });
    all.collect()
}

/// Returns what most of `of` laps were limited by, of those that have a limit with their time; `None` where most were not
/// by one thing.
pub fn most_limited(laps: Vec<(Nanos, Limited)>, of: usize) -> Option<CellLimited> {
    let mut by: BTreeMap<Limit, Vec<(Nanos, Limited)>> = BTreeMap::new();
    for (wall, limited) in laps {
        by.entry(limited.by).or_default().push((wall, limited));
    }
    let mut most = by.into_values().find(|laps| 2 * laps.len() > of)?;
    most.sort_by_key(|(wall, _)| *wall);
    let laps = most.len();
    let (_, limited) = most.swap_remove((laps - 1) / 2);
    Some(CellLimited { limited, laps, of })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::{KnownLap, LapFacts, Records};
    use crate::record::{
        LapHead, LapName, Launch, RigFound, SessionAbout, SessionRecord, Study, Task, TaskForm,
        Template,
    };
    use std::sync::Arc;

    /// Returns a lab of laps of 10 s on two threads, of which each used its own seconds of processor time.
    fn lab(used_s: &[u64]) -> Lab {
        let wall = Nanos::from_seconds(10);
        let name = |at: usize| LapName::parse(&format!("heron-1.{}", at + 1)).unwrap();
        let lap = |(at, used): (usize, &u64)| {
            let processor_time = Some(Nanos::from_seconds(*used));
            KnownLap {
                head: LapHead::done(name(at), "still", Settings::default(), wall),
                facts: Arc::new(LapFacts { processor_time, ..LapFacts::default() }),
            }
        };
        let found = RigFound { threads: Some(2), ..RigFound::default() };
        let session = SessionRecord {
            name: name(0).session,
            started: "2026-03-14T20:00:00Z".into(),
            seed: 1,
            tool: String::new(),
            found,
            versions: Vec::new(),
            about: SessionAbout::default(),
        };
        let form = TaskForm {
            id: 1,
            workload: "still".into(),
            task: Task::of(Launch::Direct(vec![Template::parse("render").unwrap()])),
            last_driven: Some("2026-03-14".into()),
        };
        let records = Records {
            tasks: vec![form],
            laps: used_s.iter().enumerate().map(lap).collect(),
            sessions: vec![(session, None)],
        };
        Lab::of(Study::default(), records)
    }

    fn only(lab: &Lab, columns: &[&str]) -> CellBeside {
        let columns: Vec<String> = columns.iter().map(|name| (*name).to_owned()).collect();
        beside(lab, &columns).into_values().next().unwrap()
    }

    #[test]
    fn a_cell_is_limited_by_what_most_of_its_laps_are() {
        let limited = |used: &[u64]| only(&lab(used), &[]).limited.map(|l| (l.limited.by, l.laps));
        assert_eq!(limited(&[10, 10, 20]), Some((Limit::OneThread, 2)));
        assert_eq!(limited(&[10, 20]), None, "half of them are not most");
        assert_eq!(limited(&[0, 0, 0]), Some((Limit::Waiting, 3)));
    }

    #[test]
    fn a_column_is_the_mean_of_the_laps_and_what_nobody_has_is_no_column() {
        let found = only(&lab(&[10, 12, 20]), &["own threads", "watts"]);
        let seen: Vec<_> = found.columns.iter().map(|c| (c.asked.as_str(), c.laps)).collect();
        assert_eq!(seen, [("own threads", 3)]);
        assert!((found.columns[0].mean.unwrap() - 1.4).abs() < 1e-12);
    }
}
