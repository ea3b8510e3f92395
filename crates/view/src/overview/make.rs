//! From an analysis to its overview.

use super::{Columns, Line, Overview, Stand};
use crate::sheet::in_study_order;
use crate::words::lap_of;
use honest_lap_core::analysis::{Across, Analysis, Over};
use honest_lap_core::judge::{Against, Group, HeldConstant, Row, WorkloadView};
use honest_lap_core::record::{Settings, Study, TIME};
use std::collections::{BTreeSet, HashSet};

/// Returns the overview of what was compared.
pub fn overview(study: &Study, analysis: &Analysis<'_>) -> Overview {
    let views = in_study_order(study, &analysis.views);
    let groups =
        || views.iter().flat_map(|view| view.groups.iter().map(move |group| (*view, group)));
    let of_rigs = groups().any(|(_, group)| matches!(group.held, HeldConstant::Variant(_)));
    match of_rigs && analysis.question.across != Across::Variants {
        true => of_rigs_side_by_side(study, analysis, groups()),
        false => of_variants_side_by_side(analysis, groups()),
    }
}

fn of_rigs_side_by_side<'a>(
    study: &Study,
    analysis: &Analysis<'_>,
    groups: impl Iterator<Item = (&'a WorkloadView, &'a Group)> + Clone,
) -> Overview {
    let groups = groups.filter(|(_, group)| matches!(group.held, HeldConstant::Variant(_)));
    let mut rigs: Vec<&str> = Vec::new();
    for row in groups.clone().flat_map(|(_, group)| &group.rows) {
        if !rigs.contains(&row.rig.as_str()) {
            rigs.push(&row.rig);
        }
    }
    let is_base = |rig: &str| {
        let mut rows = groups.clone().flat_map(|(_, group)| &group.rows);
        rows.any(|row| row.rig == rig && row.against == Against::Baseline)
    };
    let place = |rig: &str| study.rigs.iter().position(|known| known.name == rig);
    rigs.sort_by_key(|rig| (!is_base(rig), place(rig).unwrap_or(usize::MAX), rig.to_owned()));
    let doubted = Doubted::of(analysis);
    let line = |(view, group): (&WorkloadView, &Group)| {
        let settings = match &group.held {
            HeldConstant::Variant(settings) => settings.clone(),
            HeldConstant::Rigs => Settings::default(),
        };
        let cell = |rig: &&str| {
            let row = group.rows.iter().find(|row| row.rig == **rig)?;
            Stand::of_row(row, &view.measure, doubted.has(view, row))
        };
        Line {
            name: lap_of(&name_of(view), &settings),
            workload: view.workload.clone(),
            cells: rigs.iter().map(cell).collect(),
            best: best(group.rows.iter().map(|row| (row, row.rig.as_str()))),
        }
    };
    let lines = groups.clone().map(line).collect();
    let columns = rigs.iter().map(|rig| (*rig).to_owned()).collect();
    Overview { across: Columns::Rigs, index: index(analysis, &rigs), columns, lines }
}

/// Returns the index over everything as a line, where it was asked for and there is one.
fn index(analysis: &Analysis<'_>, rigs: &[&str]) -> Option<Line> {
    let over_all = |index: &&honest_lap_core::analysis::Index| index.over == Over::Everything;
    let found = &analysis.indexes.iter().find(over_all)?.found;
    // One entry is its own line below.
    if found.entered.len() < 2 || found.rows.len() < 2 {
        return None;
    }
    let cell = |rig: &&str| {
        let row = found.rows.iter().find(|row| row.rig == **rig)?;
        Some(match &row.against {
            Some(difference) => Stand::of_difference(difference),
            None => Stand {
                ratio: None,
                shown: "1".to_owned(),
                sign: super::Sign::Baseline,
                refused: None,
                doubted: false,
            },
        })
    };
    let of = found.entered.len();
    let name =
        match found.missing.is_empty() && found.without_ratio.is_empty() && found.capped.is_empty()
        {
            true => format!("index of all {of}"),
            false => format!("index of {of} that all have"),
        };
    let cells = rigs.iter().map(cell).collect();
    Some(Line { name, workload: String::new(), cells, best: None })
}

fn of_variants_side_by_side<'a>(
    analysis: &Analysis<'_>,
    groups: impl Iterator<Item = (&'a WorkloadView, &'a Group)> + Clone,
) -> Overview {
    let groups = groups.filter(|(_, group)| matches!(group.held, HeldConstant::Rigs));
    let rows = || groups.clone().flat_map(|(_, group)| &group.rows);
    let rigs: BTreeSet<&str> = rows().map(|row| row.rig.as_str()).collect();
    let bases: HashSet<&Settings> =
        rows().filter(|row| row.against == Against::Baseline).map(|row| &row.settings).collect();
    let all: HashSet<&Settings> = rows().map(|row| &row.settings).collect();
    let mut variants: Vec<&Settings> = all.into_iter().collect();
    variants.sort_by_key(|settings| (!bases.contains(settings), settings.to_string()));
    let doubted = Doubted::of(analysis);
    let mut lines = Vec::new();
    for (view, group) in groups.clone() {
        for own in group.rows.chunk_by(|a, b| a.rig == b.rig) {
            let rig = own[0].rig.as_str();
            let cell = |settings: &&Settings| {
                let row = own.iter().find(|row| row.settings == **settings)?;
                Stand::of_row(row, &view.measure, doubted.has(view, row))
            };
            let of = name_of(view);
            let names: Vec<String> = own.iter().map(|row| row.settings.to_string()).collect();
            lines.push(Line {
                name: if rigs.len() > 1 { format!("{of}, {rig}") } else { of },
                workload: view.workload.clone(),
                cells: variants.iter().map(cell).collect(),
                best: best(own.iter().zip(names.iter().map(String::as_str))),
            });
        }
    }
    let columns = variants.iter().map(ToString::to_string).collect();
    Overview { across: Columns::Variants, columns, index: None, lines }
}

/// Returns who has the first rank alone.
fn best<'a>(rows: impl Iterator<Item = (&'a Row, &'a str)>) -> Option<String> {
    let first = |row: &Row| row.places.is_some_and(|places| (places.best, places.worst) == (1, 1));
    rows.filter(|(row, _)| first(row)).map(|(_, name)| name.to_owned()).next()
}

fn name_of(view: &WorkloadView) -> String {
    match view.measure.name == TIME {
        true => view.workload.clone(),
        false => format!("{} · {}", view.workload, view.measure.name),
    }
}

/// The cells that a doubt about laps concerns: workload, rig and variant.
struct Doubted<'a>(HashSet<(&'a str, &'a str, &'a Settings)>);

impl<'a> Doubted<'a> {
    fn of(analysis: &'a Analysis<'_>) -> Self {
        let cells = analysis.findings.iter().flat_map(|finding| {
            let of = finding.workload.as_str();
            finding.cells.iter().map(move |cell| (of, cell.rig.as_str(), &cell.settings))
        });
        Self(cells.collect())
    }

    fn has(&self, view: &WorkloadView, row: &Row) -> bool {
        self.0.contains(&(view.workload.as_str(), row.rig.as_str(), &row.settings))
    }
}
