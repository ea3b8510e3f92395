//! A table of texts, as a spreadsheet holds it, with the addresses that a person finds its cells by.

use std::fmt::{self, Display};

/// The place of a cell, both from 0.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Place {
    /// Its row.
    pub row: usize,
    /// Its column.
    pub column: usize,
}

impl Display for Place {
    /// Writes it as spreadsheets do: column B, row 7 is `B7`.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut letters = Vec::new();
        let mut left = self.column + 1;
        while left > 0 {
            letters.push(char::from(b'A' + ((left - 1) % 26) as u8));
            left = (left - 1) / 26;
        }
        let letters: String = letters.iter().rev().collect();
        write!(f, "{letters}{}", self.row + 1)
    }
}

/// A table of texts; rows may be of different length.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Grid {
    rows: Vec<Vec<String>>,
}

impl Grid {
    /// Returns the table of `rows`.
    pub fn new(rows: Vec<Vec<String>>) -> Self {
        Self { rows }
    }

    /// Returns the column of these values under `heading`.
    pub fn column(heading: &str, values: &[String]) -> Self {
        let values = values.iter().map(|value| vec![value.clone()]);
        Self { rows: std::iter::once(vec![heading.to_owned()]).chain(values).collect() }
    }

    /// Returns how many rows it has.
    pub fn rows(&self) -> usize {
        self.rows.len()
    }

    /// Returns how many columns its longest row has.
    pub fn columns(&self) -> usize {
        self.rows.iter().map(Vec::len).max().unwrap_or(0)
    }

    /// Returns the text of a cell without the blanks around it; nothing where there is none.
    pub fn cell(&self, place: Place) -> &str {
        self.rows
            .get(place.row)
            .and_then(|row| row.get(place.column))
            .map_or("", |text| text.trim())
    }

    /// Returns the cells of a row that say something.
    pub fn said(&self, row: usize) -> impl Iterator<Item = (Place, &str)> {
        let columns = self.rows.get(row).map_or(0, Vec::len);
        let cells = (0..columns).map(move |column| Place { row, column });
        cells.map(|place| (place, self.cell(place))).filter(|(_, text)| !text.is_empty())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_those_of_spreadsheets() {
        let at = |row, column| Place { row, column }.to_string();
        assert_eq!(
            [at(0, 0), at(6, 1), at(9, 25), at(9, 26), at(0, 701), at(0, 702)],
            ["A1", "B7", "Z10", "AA10", "ZZ1", "AAA1"]
        );
    }

    #[test]
    fn a_missing_cell_says_nothing() {
        let grid = Grid::new(vec![vec![" rig ".into()], vec![String::new(), "5:41".into()]]);
        assert_eq!((grid.rows(), grid.columns()), (2, 2));
        assert_eq!(grid.cell(Place { row: 0, column: 0 }), "rig");
        assert_eq!(grid.cell(Place { row: 0, column: 1 }), "");
        assert_eq!(grid.said(1).map(|(place, _)| place.column).collect::<Vec<_>>(), [1]);
    }
}
