//! How a table is laid out: which row has the headings, and what every column holds.

use super::cell::{Wrong, looks_like_value};
use super::form::Form;
use super::grid::Place;
use super::heading::{Column, Of, measures, usual_measure};
use super::read::Reader;
use crate::record::Workload;

/// The unit of shares.
const PER_CENT: &str = "%";

/// Rows in which headings are looked for: titles stand above them.
const HEADINGS_WITHIN: usize = 40;
impl Reader<'_> {
    /// Returns the row of the headings: the one of which most cells say what a column is.
    pub(super) fn headings(&self) -> Option<usize> {
        let known = |row: usize| {
            self.grid.said(row).filter(|(_, text)| self.spellings.column(text).is_some()).count()
        };
        let rows = 0..self.grid.rows().min(HEADINGS_WITHIN);
        // Of several the first: a row of values may name a workload.
        rows.rev().max_by_key(|row| known(*row)).filter(|row| known(*row) > 0)
    }

    /// Returns what every column holds.
    pub(super) fn columns(&mut self, headings: usize) -> Vec<Option<Column>> {
        let at = |column| Place { row: headings, column };
        let all = 0..self.grid.columns();
        let mut columns: Vec<Option<Column>> =
            all.clone().map(|column| self.spellings.column(self.grid.cell(at(column)))).collect();
        let mut rig = false;
        for column in &mut columns {
            // What a second such column says of the rig is a note.
            if *column == Some(Column::Rig) && std::mem::replace(&mut rig, true) {
                *column = Some(Column::Note);
            }
        }
        let first_value =
            columns.iter().position(|column| matches!(column, Some(Column::Value(..))));
        let unnamed =
            |column: &usize| columns[*column].is_none() && self.filled(headings, *column) > 0;
        if !rig && self.wishes.rig.is_none() {
            // Whatever stands ahead of the values names what they are of.
            if let Some(first) = (0..first_value.unwrap_or(0)).find(unnamed) {
                columns[first] = Some(Column::Rig);
            }
        }
        for column in all {
            let text = self.grid.cell(at(column)).to_owned();
            match &columns[column] {
                Some(Column::Note) => self.sheet.left_out.push(text),
                Some(Column::Value(of, form)) => {
                    let (of, form) = (of.clone(), form.clone());
                    self.clocks(headings, column, form.as_ref());
                    self.shares(headings, column, (&of, form.as_ref()));
                }
                None if self.filled(headings, column) > 0 => self.unknown(headings, column, text),
                _ => {}
            }
        }
        columns
    }

    /// Returns how many cells of a column say something.
    fn filled(&self, headings: usize, column: usize) -> usize {
        let rows = headings + 1..self.grid.rows();
        rows.filter(|row| !self.grid.cell(Place { row: *row, column }).is_empty()).count()
    }

    /// A column that nobody knows is left out where it holds words, and a mistake where it holds values.
    fn unknown(&mut self, headings: usize, column: usize, text: String) {
        let rows = headings + 1..self.grid.rows();
        let cell = |row| self.grid.cell(Place { row, column });
        let values = rows.filter(|row| looks_like_value(cell(*row))).count();
        if 2 * values < self.filled(headings, column) {
            return self.sheet.left_out.push(text);
        }
        let problem = match text.is_empty() {
            true => "values stand under no heading".to_owned(),
            false => format!("the study has no workload and no measure `{text}`"),
        };
        let shown = if text.is_empty() { "HEADING" } else { &text };
        let names: Vec<&str> = self.study.workloads.iter().map(|w| w.name.as_str()).collect();
        let remedy = format!(
            "say what it is: --column '{shown}={}', leave it out: --column '{shown}=', or add it: --new-workload; the study has: {}",
            names.first().copied().unwrap_or("NAME"),
            names.join(", ")
        );
        self.wrong(Place { row: headings, column }, Wrong::new(problem, remedy));
    }

    /// Shares that are all 1 or less are what a spreadsheet makes of per cent: it is asked which they are.
    fn shares(&mut self, headings: usize, column: usize, (of, form): (&Of, Option<&Form>)) {
        let is_read =
            |workload: &&Workload| of.workload.as_ref().is_none_or(|name| *name == workload.name);
        let unit = |workload: &Workload| {
            let named =
                measures(workload).into_iter().find(|m| Some(&m.name) == of.measure.as_ref());
            named.or_else(|| usual_measure(workload).filter(|_| of.measure.is_none()))
        };
        let workloads = self.study.workloads.iter().filter(is_read);
        let mut measures = workloads.filter_map(unit);
        let stated = matches!(form, Some(Form::Unit(unit)) if unit == PER_CENT);
        if !stated && measures.next().is_none_or(|measure| measure.unit != PER_CENT) {
            return;
        }
        let rows = headings + 1..self.grid.rows();
        let cells = rows.map(|row| Place { row, column });
        let numbers: Vec<(Place, f64)> = cells
            .filter_map(|at| Some((at, self.grid.cell(at).replace(',', ".").parse().ok()?)))
            .collect();
        let Some((place, first)) = numbers.first().copied() else { return };
        if numbers.iter().all(|(_, share)| (0.0..=1.0).contains(share)) {
            let times = (first * 1e8).round() / 1e6;
            let problem = format!("`{first}` of a measure in % may be {first} % or {times} %");
            let remedy = "a spreadsheet keeps 40 % as 0.4: write the sign into the cells, as text, such as 40 %";
            self.wrong(place, Wrong::new(problem, remedy));
        }
    }

    /// Times that all end in `:00` are what a spreadsheet makes of minutes and seconds: it is asked which they are.
    fn clocks(&mut self, headings: usize, column: usize, form: Option<&Form>) {
        if form.is_some() || self.wishes.form.is_some() {
            return;
        }
        let rows = headings + 1..self.grid.rows();
        let cells =
            rows.map(|row| Place { row, column }).map(|place| (place, self.grid.cell(place)));
        let clocks: Vec<(Place, &str)> =
            cells.filter(|(_, text)| text.split(':').count() == 3).collect();
        let Some((place, text)) = clocks.first().copied() else { return };
        if clocks.iter().all(|(_, text)| text.ends_with(":00")) {
            let short = text.strip_suffix(":00").unwrap_or(text);
            let problem =
                format!("`{text}` has hours; a spreadsheet makes it of `{short}` as well");
            let remedy = "say which it is: in the heading or with --unit, m:ss (minutes and seconds) or h:mm:ss";
            self.wrong(place, Wrong::new(problem, remedy));
        }
    }
}
