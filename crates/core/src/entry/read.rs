//! From a table of texts to laps that somebody read off; or everything that is wrong with it, each with its cell.

use super::cell::{Said, Wrong, said};
use super::form::Form;
use super::grid::{Grid, Place};
use super::heading::{Column, Of, Spellings, measures, usual_measure};
use super::name::{Rigs, name_for};
use super::sheet::{Entry, Mistake, NewRig, Sheet, Understood, Wishes};
use crate::record::{Measure, Reading, SECONDS, Settings, Study, TIME, Workload, plain_name};
use crate::unit::{Date, Nanos};

/// Words for a row that is worked out from others.
const SUMS: [&str; 11] = [
    "average",
    "mean",
    "median",
    "total",
    "sum",
    "minimum",
    "maximum",
    "min",
    "max",
    "geomean",
    "geometric-mean",
];

/// Returns whether `title` heads a row that is worked out from others.
pub(super) fn is_sum(title: &str) -> bool {
    let name = plain_name(title);
    SUMS.iter().any(|sum| {
        name.strip_prefix(sum).is_some_and(|rest| rest.is_empty() || rest.starts_with("-of-"))
    })
}

/// Reads a table of any layout that people keep: a lap a row, or a rig a row and a workload a column.
///
/// * Errors: everything that is wrong, each with its cell; several alike in one column are one mistake.
pub fn read_sheet(grid: &Grid, study: &Study, wishes: &Wishes) -> Result<Sheet, Vec<Mistake>> {
    let spellings = Spellings::of(study, &wishes.called);
    let mut reader = Reader {
        grid,
        study,
        wishes,
        rigs: Rigs::of(study, &wishes.recorded),
        spellings,
        sheet: Sheet::default(),
        mistakes: Vec::new(),
    };
    reader.read();
    match reader.mistakes.is_empty() {
        true => Ok(reader.sheet),
        false => Err(reader.mistakes),
    }
}

pub(super) struct Reader<'a> {
    pub(super) grid: &'a Grid,
    pub(super) study: &'a Study,
    pub(super) wishes: &'a Wishes,
    rigs: Rigs,
    pub(super) spellings: Spellings,
    pub(super) sheet: Sheet,
    mistakes: Vec<Mistake>,
}

/// A value of a row, with what it is of.
struct Value {
    place: Place,
    workload: String,
    settings: Settings,
    measure: Measure,
    said: Said,
}

impl Reader<'_> {
    fn read(&mut self) {
        let Some(headings) = self.headings() else {
            let names: Vec<&str> = self.study.workloads.iter().map(|w| w.name.as_str()).collect();
            let remedy = format!(
                "head its columns by workloads ({}), or by `workload` and a measure; or say what they are: --column 'Scene 1=still'",
                names.join(", ")
            );
            return self.wrong(
                Place::default(),
                Wrong::new("no row of the table says what its columns are", remedy),
            );
        };
        let columns = self.columns(headings);
        for row in headings + 1..self.grid.rows() {
            self.row(row, &columns);
        }
        // A rig of which nothing was read is none of the study's yet.
        let Sheet { entries, new_rigs, .. } = &mut self.sheet;
        new_rigs.retain(|rig| entries.iter().any(|entry| entry.rig == rig.name));
        let told = self.sheet.nothing + self.mistakes.len();
        if self.sheet.entries.is_empty() && told == 0 {
            let place = Place { row: headings, column: 0 };
            self.wrong(place, Wrong::new("the table has no values", "put a value below a heading"));
        }
    }

    pub(super) fn wrong(&mut self, place: Place, wrong: Wrong) {
        let alike = |other: &&mut Mistake| {
            other.place.column == place.column && other.remedy == wrong.remedy
        };
        match self.mistakes.iter_mut().find(alike) {
            Some(other) => other.also += 1,
            None => self.mistakes.push(Mistake {
                place,
                problem: wrong.problem,
                remedy: wrong.remedy,
                also: 0,
            }),
        }
    }

    fn row(&mut self, row: usize, columns: &[Option<Column>]) {
        let cell = |wanted: &Column| {
            let column = columns.iter().position(|column| column.as_ref() == Some(wanted))?;
            let place = Place { row, column };
            Some((place, self.grid.cell(place)))
        };
        let (rig, workload, date) =
            (cell(&Column::Rig), cell(&Column::Workload), cell(&Column::Date));
        let values: Vec<(Place, &Of, Option<&Form>, String)> = columns
            .iter()
            .enumerate()
            .filter_map(|(column, what)| {
                let place = Place { row, column };
                let (Some(Column::Value(of, form)), text) = (what, self.grid.cell(place)) else {
                    return None;
                };
                (!text.is_empty()).then(|| (place, of, form.as_ref(), text.to_owned()))
            })
            .collect();
        let Some((first, ..)) = values.first() else { return };
        let first = *first;
        if let Some((_, text)) =
            rig.filter(|(_, text)| is_sum(text) && self.rigs.named(text).is_none())
        {
            self.sheet.sums.push(text.to_owned());
            return;
        }
        let (rig, on, of_row) = (self.rig(rig, first), self.on(date), self.workload(workload));
        let (Some(rig), Some(on), Some(of_row)) = (rig, on, of_row) else { return };
        let mut read = Vec::new();
        for (place, of, form, text) in values {
            match self.value(place, (of, &of_row), form, &text, columns) {
                Ok(Some(value)) => read.push(value),
                Ok(None) => self.sheet.nothing += 1,
                Err((place, wrong)) => self.wrong(place, wrong),
            }
        }
        self.laps(&rig, on, read);
    }

    /// Returns the rig of a row; a new one is noted.
    fn rig(&mut self, cell: Option<(Place, &str)>, first: Place) -> Option<String> {
        let given = self.wishes.rig.clone();
        let (place, text) = match (cell, given) {
            (Some((place, text)), _) if !text.is_empty() => (place, text.to_owned()),
            (_, Some(rig)) => (first, rig),
            (Some((place, _)), None) => {
                self.wrong(
                    place,
                    Wrong::new("no rig is named", "name it in every row, or for all with --rig"),
                );
                return None;
            }
            (None, None) => {
                let wrong = Wrong::new(
                    "no column names the rigs",
                    "head one `rig`, or name one for all with --rig",
                );
                self.wrong(first, wrong);
                return None;
            }
        };
        if let Some(known) = self.rigs.named(&text) {
            return Some(known.to_owned());
        }
        let Some(name) = name_for(&text) else {
            let remedy = "call it by letters and digits, or add it to the study with its title: [rig.osprey] title = \"…\"";
            self.wrong(place, Wrong::new(format!("`{text}` gives a rig no name"), remedy));
            return None;
        };
        if !self.sheet.new_rigs.iter().any(|rig| rig.name == name) {
            self.sheet.new_rigs.push(NewRig { name: name.clone(), title: text });
        }
        Some(name)
    }

    /// Returns the day of a row, if one is said; nothing where it cannot be read.
    #[expect(clippy::option_option, reason = "a day that is not said is no mistake")]
    fn on(&mut self, cell: Option<(Place, &str)>) -> Option<Option<Date>> {
        let Some((place, text)) = cell.filter(|(_, text)| !text.is_empty()) else {
            return Some(self.wishes.on);
        };
        match Date::parse(text) {
            Ok(date) => Some(Some(date)),
            Err(err) => {
                self.wrong(place, Wrong::new(err.problem, err.remedy));
                None
            }
        }
    }

    /// Returns what a row's own cell says that its values are of.
    fn workload(&mut self, cell: Option<(Place, &str)>) -> Option<Of> {
        let (place, text) = match cell {
            Some((place, text)) if !text.is_empty() => (place, text),
            _ => {
                let workload = self.wishes.workload.clone();
                return Some(Of { workload, ..Of::default() });
            }
        };
        let of = self.spellings.workload_in(text);
        if of.is_none() {
            let names: Vec<&str> = self.study.workloads.iter().map(|w| w.name.as_str()).collect();
            let remedy = format!(
                "the study has: {}; or say which it is: --column '{text}={}'",
                names.join(", "),
                names.first().copied().unwrap_or("NAME")
            );
            self.wrong(place, Wrong::new(format!("the study has no workload `{text}`"), remedy));
        }
        of
    }

    /// Reads one cell; nothing where it says that nothing was measured.
    fn value(
        &mut self,
        place: Place,
        (of, of_row): (&Of, &Of),
        form: Option<&Form>,
        text: &str,
        columns: &[Option<Column>],
    ) -> Result<Option<Value>, (Place, Wrong)> {
        let study = self.study;
        let here = |wrong: Wrong| (place, wrong);
        let only = || match study.workloads.as_slice() {
            [only] => Some(&only.name),
            _ => None,
        };
        let name = of.workload.as_ref().or(of_row.workload.as_ref()).or_else(only);
        let workload = name.and_then(|name| study.workload(name)).ok_or_else(|| {
            let names: Vec<&str> = study.workloads.iter().map(|w| w.name.as_str()).collect();
            let (problem, remedy) = match name {
                Some(name) => (
                    format!("the study has no workload `{name}`"),
                    format!("it has: {}", names.join(", ")),
                ),
                None => (
                    "no workload is named".to_owned(),
                    format!(
                        "name one in a column `workload`, or for all; the study has: {}",
                        names.join(", ")
                    ),
                ),
            };
            here(Wrong::new(problem, remedy))
        })?;
        let named = of.measure.as_ref().or(of_row.measure.as_ref());
        let measure = measure(workload, named, self.wishes.measure.as_ref()).map_err(here)?;
        let given = of.settings.iter().chain(&of_row.settings);
        let settings = self.settings(workload, given, place, columns)?;
        let form = form.or(self.wishes.form.as_ref().filter(|_| measure.is_time()));
        let said = said(text, &measure, form).map_err(here)?;
        if let (Said::Value { value, .. }, true) = (&said, measure.is_time()) {
            self.understand(place, text, nanos(*value), form);
        }
        let workload = workload.name.clone();
        Ok((said != Said::Nothing).then_some(Value { place, workload, settings, measure, said }))
    }

    /// Notes how a time was understood that could be meant otherwise: the first of its column.
    fn understand(&mut self, place: Place, text: &str, time: Nanos, form: Option<&Form>) {
        let plain = form.is_none_or(|form| *form == Form::Unit(SECONDS.to_owned()));
        let told = self.sheet.understood.iter().any(|one| one.place.column == place.column);
        if !told && (text.contains(':') || !plain) {
            self.sheet.understood.push(Understood { place, seen: text.to_owned(), time });
        }
    }

    /// Makes laps of a row's values: what is read of one variant is one lap, until a measure is read again.
    fn laps(&mut self, rig: &str, on: Option<Date>, values: Vec<Value>) {
        let begins = self.sheet.entries.len();
        for value in values {
            let Value { place, workload, settings, measure, said } = value;
            let of_row = self.sheet.entries[begins..].iter().position(|entry| {
                entry.workload == workload
                    && entry.settings == settings
                    && entry.failed.is_none()
                    && matches!(said, Said::Value { .. })
                    && !entry.values().any(|(name, _)| name == measure.name)
            });
            let at = of_row.map_or(self.sheet.entries.len(), |at| begins + at);
            if at == self.sheet.entries.len() {
                self.sheet.entries.push(Entry {
                    rig: rig.to_owned(),
                    workload,
                    settings,
                    on,
                    time: None,
                    readings: Vec::new(),
                    failed: None,
                    place,
                });
            }
            let entry = &mut self.sheet.entries[at];
            match said {
                Said::Nothing => {}
                Said::Failed(why) => entry.failed = Some(why),
                Said::Value { value, step } if measure.name == TIME => {
                    entry.time = Some((nanos(value), nanos(step)));
                }
                Said::Value { value, step } => entry.readings.push(Reading {
                    name: measure.name,
                    unit: measure.unit,
                    better: measure.better,
                    value: Some(value),
                    step: Some(step),
                    seen: self.grid.cell(place).to_owned(),
                    reports_time: false,
                }),
            }
        }
    }
}

/// Returns the measure called `name`; where none is named, the one that is usually read, or that is wished of several.
fn measure(
    workload: &Workload,
    name: Option<&String>,
    wished: Option<&String>,
) -> Result<Measure, Wrong> {
    let all = measures(workload);
    let wished = || all.iter().find(|measure| Some(&measure.name) == wished).cloned();
    let known = || all.iter().map(|measure| measure.name.as_str()).collect::<Vec<_>>().join(", ");
    match name {
        Some(name) => all.iter().find(|measure| measure.name == *name).cloned().ok_or_else(|| {
            let problem = format!("`{name}` is nothing that is read of {}", workload.name);
            Wrong::new(problem, format!("{} yields: {}", workload.name, known()))
        }),
        None => usual_measure(workload).or_else(wished).ok_or_else(|| {
            let problem = format!("{} has several measures", workload.name);
            Wrong::new(
                problem,
                format!("say which was read, in the heading or with --measure: {}", known()),
            )
        }),
    }
}

fn nanos(seconds: f64) -> Nanos {
    Nanos((seconds * 1e9).round() as u64)
}

#[cfg(test)]
#[path = "read_tests.rs"]
mod tests;

#[cfg(test)]
#[path = "habits_tests.rs"]
mod habits;
