//! Which variant a cell is of.

use super::cell::Wrong;
use super::grid::Place;
use super::heading::Column;
use super::read::Reader;
use crate::record::{Settings, Workload, plain_name};

impl Reader<'_> {
    /// Returns the variant that a cell is of: by its heading, the row's own cells, or what is the same for all.
    pub(super) fn settings<'s>(
        &'s self,
        workload: &Workload,
        given: impl Iterator<Item = &'s (String, String)>,
        here: Place,
        columns: &[Option<Column>],
    ) -> Result<Settings, (Place, Wrong)> {
        let given: Vec<&(String, String)> = given.chain(&self.wishes.settings).collect();
        let mut pairs = Vec::new();
        for (column, what) in columns.iter().enumerate() {
            let Some(Column::Setting(name)) = what else { continue };
            let place = Place { row: here.row, column };
            let text = self.grid.cell(place);
            let varies = workload.vary.iter().any(|(key, _)| key == name);
            if !text.is_empty() && !varies {
                let remedy = "leave the cell empty, or vary it in the study";
                return Err((
                    place,
                    Wrong::new(format!("{} does not vary `{name}`", workload.name), remedy),
                ));
            }
        }
        for (name, values) in &workload.vary {
            let own = columns.iter().position(|what| *what == Some(Column::Setting(name.clone())));
            let place = own.map_or(here, |column| Place { row: here.row, column });
            let own = own.map(|_| self.grid.cell(place)).filter(|text| !text.is_empty());
            let named = given.iter().find(|(key, _)| key == name).map(|(_, value)| value.as_str());
            let (text, only) = (named.or(own), values.as_slice());
            let value = match (text, only) {
                (Some(text), _) => values
                    .iter()
                    .find(|value| **value == text || plain_name(value) == plain_name(text))
                    .ok_or_else(|| {
                        let remedy = format!("the study varies it over: {}", values.join(", "));
                        (place, Wrong::new(format!("`{text}` is no value of `{name}`"), remedy))
                    })?,
                (None, [only]) => only,
                (None, _) => {
                    let remedy = format!(
                        "say which in the heading, in a column `{name}`, or for all --with {name}=…: {}",
                        values.join(", ")
                    );
                    return Err((
                        place,
                        Wrong::new(
                            format!("{} varies `{name}`, and it is not given", workload.name),
                            remedy,
                        ),
                    ));
                }
            };
            pairs.push((name.clone(), value.clone()));
        }
        let unknown = self
            .wishes
            .settings
            .iter()
            .find(|(key, _)| !workload.vary.iter().any(|(name, _)| name == key));
        if let (Some((name, _)), true) = (unknown, self.wishes.workload.is_some()) {
            let remedy = "leave it out, or vary it in the study";
            return Err((
                here,
                Wrong::new(format!("{} does not vary `{name}`", workload.name), remedy),
            ));
        }
        Ok(Settings::new(pairs))
    }
}
