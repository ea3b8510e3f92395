//! What a study of a table would have: its columns as workloads, its rows as rigs.

use super::cell::{Said, looks_like_value, said};
use super::form::{Form, readings};
use super::grid::{Grid, Place};
use super::heading::{Spellings, is_beside};
use super::name::name_for;
use super::read::is_sum;
use super::sheet::NewRig;
use crate::record::{Better, Measure, Study};
use crate::unit::{Dimension, Unit};

/// A workload that a table has results of.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Drafted {
    /// Its column's heading.
    pub heading: String,
    /// Its name.
    pub name: String,
    /// What is read of it: nothing but its time, or a measure.
    pub reads: Option<Measure>,
}

/// A study of a table.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Draft {
    /// Its columns of values.
    pub workloads: Vec<Drafted>,
    /// Its rows.
    pub rigs: Vec<NewRig>,
}

/// Units and words of which less is better.
const LESS: [&str; 14] = [
    "W",
    "J",
    "Wh",
    "kWh",
    "ms",
    "°C",
    "time",
    "latency",
    "power",
    "energy",
    "temperature",
    "noise",
    "dropped",
    "memory",
];

/// Returns the study of a table with a rig a row and a workload a column; `None` where it is none.
pub fn draft(grid: &Grid) -> Option<Draft> {
    let headings = (0..grid.rows()).find(|row| {
        let words = grid.said(*row).filter(|(_, text)| !looks_like_value(text)).count();
        words >= 2 && values_below(grid, *row)
    })?;
    let rows = || headings + 1..grid.rows();
    let columns: Vec<usize> = grid.said(headings).map(|(place, _)| place.column).collect();
    let mut draft = Draft::default();
    for column in &columns {
        let cells = rows().map(|row| grid.cell(Place { row, column: *column }));
        let cells: Vec<&str> = cells.filter(|text| is_result(text)).collect();
        let values = cells.iter().filter(|text| looks_like_value(text)).count();
        let heading = grid.cell(Place { row: headings, column: *column });
        let beside = *column == columns[0] || is_beside(heading);
        if beside || cells.is_empty() || 2 * values < cells.len() {
            continue;
        }
        let drafted = drafted(heading, cells.iter().any(|text| text.contains(':')));
        draft.workloads.extend(
            drafted.filter(|one| !draft.workloads.iter().any(|other| other.name == one.name)),
        );
    }
    for row in rows() {
        let title = grid.cell(Place { row, column: columns[0] });
        let name = name_for(title)
            .filter(|name| !is_sum(title) && !draft.rigs.iter().any(|rig| rig.name == *name));
        draft.rigs.extend(name.map(|name| NewRig { name, title: title.to_owned() }));
    }
    (!draft.workloads.is_empty()).then_some(draft)
}

/// Returns the workloads that a table has results of and `study` has not, by the headings that it does not know.
pub fn new_workloads(grid: &Grid, study: &Study, called: &[(String, String)]) -> Vec<Drafted> {
    let spellings = Spellings::of(study, called);
    let is_new = |one: &Drafted| {
        spellings.column(&one.heading).is_none() && study.workload(&one.name).is_none()
    };
    let drafted = draft(grid).unwrap_or_default().workloads;
    drafted.into_iter().filter(is_new).collect()
}

/// Returns whether a row below has values.
fn values_below(grid: &Grid, row: usize) -> bool {
    (row + 1..grid.rows()).any(|row| grid.said(row).any(|(_, text)| looks_like_value(text)))
}

/// Returns whether a cell is about a result: a value, or that there is none.
fn is_result(text: &str) -> bool {
    !matches!(said(text, &Measure::time(), None), Ok(Said::Nothing | Said::Failed(_)))
}

fn drafted(heading: &str, clocks: bool) -> Option<Drafted> {
    let ways = readings(heading, &[]);
    let (words, form) = ways.iter().find(|way| way.1.is_some()).or_else(|| ways.first())?;
    // A unit that nobody knows is the study's own: `Suite [points]`.
    let own = heading.rsplit_once(['[', '(']).filter(|_| form.is_none());
    let own =
        own.and_then(|(name, within)| Some((name.trim(), within.strip_suffix([']', ')'])?.trim())));
    let (name, unit) = match (form, own) {
        (Some(Form::Unit(unit)), _) => (*words, unit.clone()),
        (Some(_), _) => (*words, String::new()),
        (None, Some((name, unit))) if !name.is_empty() => (name, unit.to_owned()),
        (None, _) => (*words, String::new()),
    };
    let is_time = Unit::of(&unit).is_some_and(|unit| unit.dimension == Dimension::Time);
    let is_clock = clocks || matches!(form, Some(form) if !matches!(form, Form::Unit(_)));
    let small = heading.to_lowercase();
    let less =
        LESS.iter().any(|word| *word == unit || small.split(' ').any(|other| other == *word));
    let better = if less { Better::Less } else { Better::More };
    let reads =
        (!is_time && !is_clock).then(|| Measure { name: "result".to_owned(), unit, better });
    Some(Drafted { heading: heading.to_owned(), name: name_for(name)?, reads })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_of_values_are_workloads_and_rows_are_rigs() {
        let text = "Results of the spring\n\nCard;Driver;Scene 1 (m:ss);Export, secs;Suite [points];Power [W];Comments\n\
                    Osprey Mk II;551.2;7:52;90.5;8120;95;loud\nHeron;551;8:01;OOM;8000;n/a;\nAverage;;7:56;90.5;8060;95;";
        let rows = text.lines().map(|line| line.split(';').map(str::to_owned).collect());
        let draft = draft(&Grid::new(rows.collect())).unwrap();
        let reads =
            |unit: &str, better| Some(Measure { name: "result".into(), unit: unit.into(), better });
        let all: Vec<(&str, Option<Measure>)> =
            draft.workloads.iter().map(|one| (one.name.as_str(), one.reads.clone())).collect();
        assert_eq!(
            all,
            [
                ("scene-1", None),
                ("export", None),
                ("suite", reads("points", Better::More)),
                ("power", reads("W", Better::Less)),
            ]
        );
        let rigs: Vec<&str> = draft.rigs.iter().map(|rig| rig.name.as_str()).collect();
        assert_eq!(rigs, ["osprey-mk-ii", "heron"]);
    }

    #[test]
    fn columns_that_a_study_does_not_know_are_new_workloads() {
        let text = "rig;still (m:ss);Scene 2 [s];comment\nheron;5:41;90;loud\nwren;5:50;91;";
        let rows = text.lines().map(|line| line.split(';').map(str::to_owned).collect());
        let grid = Grid::new(rows.collect());
        let new = |called: &[(String, String)]| {
            let new = new_workloads(&grid, &crate::entry::example::study(), called);
            new.into_iter().map(|one| one.name).collect::<Vec<_>>()
        };
        assert_eq!(new(&[]), ["scene-2"]);
        assert!(new(&[("Scene 2 [s]".into(), "still".into())]).is_empty());
    }

    #[test]
    fn what_has_no_values_below_headings_is_no_table() {
        let grid = |rows: &[&[&str]]| {
            Grid::new(
                rows.iter().map(|row| row.iter().map(|&cell| cell.to_owned()).collect()).collect(),
            )
        };
        assert_eq!(draft(&grid(&[])), None);
        assert_eq!(draft(&grid(&[&["card", "notes"], &["heron", "loud"]])), None);
        assert_eq!(draft(&grid(&[&["1", "2"], &["3", "4"]])), None);
    }
}
