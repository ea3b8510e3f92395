//! A table with holes as the sum of what its rows and its columns have: what a cell should be by all the others.

use super::{StatError, t_upper_tail};

/// A value of a table.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// Its row, counted from 0.
    pub row: usize,
    /// Its column, likewise.
    pub column: usize,
    /// The value.
    pub value: f64,
}

/// How far a value may lie off what the others say of it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Expected {
    /// What the others say it is.
    pub value: f64,
    /// The variance of the difference of the two.
    pub variance: f64,
    /// Its degrees of freedom.
    pub degrees: f64,
}

impl Expected {
    /// Returns the two-sided chance that a value lies as far off, or farther, where it is one of the table.
    ///
    /// * Errors: [`StatError::OutOfRange`] without degrees of freedom.
    pub fn p(&self, value: f64) -> Result<f64, StatError> {
        let t = (value - self.value).abs() / self.variance.sqrt();
        Ok(2.0 * t_upper_tail(t, self.degrees)?)
    }
}

/// Degrees of freedom that the spread of all columns counts for beside that of one.
const SHARED_DEGREES: f64 = 4.0;

/// Steps after which effects are near enough: each takes what is left of the imbalance of the holes.
const MOST_STEPS: usize = 100;
/// What effects may still move by.
const STILL: f64 = 1e-12;

/// What the rows and the columns of a table have.
#[derive(Clone, Debug, PartialEq)]
pub struct Additive {
    rows: Vec<f64>,
    columns: Vec<f64>,
    /// Values of each row and each column.
    in_row: Vec<f64>,
    in_column: Vec<f64>,
    /// Squared deviations of each column, and the degrees of freedom of each of its values.
    squares: Vec<f64>,
    share: f64,
    /// The variance by all columns together, and its degrees of freedom.
    all: f64,
    degrees: f64,
}

impl Additive {
    /// Returns the sums `row + column` nearest to `spots`, leaving out those that `without` says; `None` where too few are
    /// left to show how far values lie off them.
    ///
    /// ```text
    /// min Σ (value − row − column)²        degrees = n − rows − columns + 1, shared by the columns as their values are
    /// ```
    /// A table of one column has no rows of its own: it is about its mean.
    ///
    /// * Shape: n values in any order, in a table that hangs together. O(n) a step, few of which are needed.
    /// * Source: two-way layout, Searle (1971), *Linear Models*, 7.1; least squares by backfitting.
    /// * Units: those of the values.
    pub fn of(spots: &[Spot], without: &dyn Fn(usize) -> bool) -> Option<Self> {
        let (rows, columns) = size(spots);
        let kept = || (0..).zip(spots).filter(|(at, _)| !without(*at)).map(|(_, spot)| spot);
        let (mut in_row, mut in_column) = (vec![0.0; rows], vec![0.0; columns]);
        for spot in kept() {
            in_row[spot.row] += 1.0;
            in_column[spot.column] += 1.0;
        }
        let (mut by_row, mut by_column) = (vec![0.0; rows], vec![0.0; columns]);
        for _ in 0..MOST_STEPS {
            let mut sums = vec![0.0; columns];
            kept().for_each(|spot| sums[spot.column] += spot.value - by_row[spot.row]);
            let now = over(&sums, &in_column);
            let moved = now.iter().zip(&by_column).map(|(a, b)| (a - b).abs()).fold(0.0, f64::max);
            by_column = now;
            if columns > 1 {
                let mut sums = vec![0.0; rows];
                kept().for_each(|spot| sums[spot.row] += spot.value - by_column[spot.column]);
                by_row = over(&sums, &in_row);
            }
            if moved < STILL {
                break;
            }
        }
        let filled = |of: &[f64]| of.iter().filter(|values| **values > 0.0).count() as f64;
        let n: f64 = in_row.iter().sum();
        let effects = if columns > 1 { filled(&in_row) + filled(&in_column) - 1.0 } else { 1.0 };
        let mut squares = vec![0.0; columns];
        for spot in kept() {
            let off = spot.value - by_row[spot.row] - by_column[spot.column];
            squares[spot.column] += off * off;
        }
        let degrees = n - effects;
        (degrees >= 1.0).then(|| Self {
            rows: by_row,
            columns: by_column,
            in_row,
            in_column,
            all: squares.iter().sum::<f64>() / degrees,
            squares,
            share: degrees / n,
            degrees,
        })
    }

    /// Returns what a value that was left out should be; `None` where nothing else of its row or column is left.
    ///
    /// ```text
    /// s̃² = (4·s² + ν·s_c²) / (4 + ν)        s²: of all columns        s_c², ν: of its own
    /// variance = s̃²·(1 + 1/n_c) + s²/n_r
    /// ```
    /// * Source: moderated variance, Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>.
    /// * Units: those of the values; variances in their squares.
    pub fn expected(&self, row: usize, column: usize) -> Option<Expected> {
        let (in_row, in_column) = (self.in_row[row], self.in_column[column]);
        let has_rows = self.columns.len() > 1;
        if in_column < 1.0 || (has_rows && in_row < 1.0) {
            return None;
        }
        let own = in_column * self.share;
        let moderated = (SHARED_DEGREES * self.all + self.squares[column]) / (SHARED_DEGREES + own);
        let rows = if has_rows { self.all / in_row } else { 0.0 };
        let degrees = if has_rows { SHARED_DEGREES + own } else { own };
        Some(Expected {
            value: self.rows[row] + self.columns[column],
            variance: moderated * (1.0 + 1.0 / in_column) + rows,
            degrees: degrees.min(self.degrees),
        })
    }
}

fn size(spots: &[Spot]) -> (usize, usize) {
    spots.iter().fold((0, 0), |(rows, columns), spot| {
        (rows.max(spot.row + 1), columns.max(spot.column + 1))
    })
}

fn over(sums: &[f64], counts: &[f64]) -> Vec<f64> {
    sums.iter().zip(counts).map(|(sum, of)| if *of > 0.0 { sum / of } else { 0.0 }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn table(off: impl Fn(usize, usize) -> f64) -> Vec<Spot> {
        let spot = |at: usize| {
            let (row, column) = (at / 3, at % 3);
            let value = row as f64 + 10.0 * column as f64 + off(row, column);
            Spot { row, column, value }
        };
        (0..12).map(spot).collect()
    }

    #[test]
    fn a_table_that_is_a_sum_is_known_where_it_has_a_hole() {
        let spots = table(|_, _| 0.0);
        let found = Additive::of(&spots, &|at| at == 4).unwrap();
        let expected = found.expected(1, 1).unwrap();
        assert!((expected.value - 11.0).abs() < 1e-9 && expected.variance < 1e-18);
        // 11 values, 4 rows and 3 columns: 5 degrees of freedom.
        assert!((expected.degrees - 5.0).abs() < 1e-12);
    }

    #[test]
    fn the_spread_is_that_of_the_others() {
        let wobble =
            |row: usize, column: usize| if (row + column).is_multiple_of(2) { 0.01 } else { -0.01 };
        let spots = table(wobble);
        let expected = Additive::of(&spots, &|at| at == 4).unwrap().expected(1, 1).unwrap();
        assert!((expected.value - 11.0).abs() < 0.02, "{expected:?}");
        assert!(expected.p(11.01).unwrap() > 0.2 && expected.p(11.3).unwrap() < 1e-3);
    }

    #[test]
    fn one_column_is_about_its_mean_and_a_bare_table_shows_nothing() {
        let column: Vec<Spot> = [1.0, 2.0, 3.0, 9.0]
            .iter()
            .zip(0..)
            .map(|(&value, row)| Spot { row, column: 0, value })
            .collect();
        let expected = Additive::of(&column, &|at| at == 3).unwrap().expected(3, 0).unwrap();
        assert_eq!((expected.value, expected.degrees), (2.0, 2.0));
        assert!((expected.variance - 4.0 / 3.0).abs() < 2.0, "{expected:?}");
        assert_eq!(Additive::of(&column[..1], &|_| false), None);
        let square = &table(|_, _| 0.0)[..2];
        assert_eq!(Additive::of(square, &|_| false), None);
    }
}
