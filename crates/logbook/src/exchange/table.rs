//! A table for other programs: its columns, its fields, and where its rows go.

use std::io::{self};

/// What a column holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holds {
    /// Text.
    Text,
    /// Whole numbers.
    Whole,
    /// Numbers.
    Number,
    /// Yes or no.
    Flag,
}

/// A column.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Column {
    /// Its name, ending in its unit where it has one.
    pub name: String,
    /// What it holds.
    pub holds: Holds,
}

impl Column {
    /// Returns a column.
    pub fn new(name: &str, holds: Holds) -> Self {
        Self { name: name.to_owned(), holds }
    }
}

/// A field of a row; `None` in it is not known.
#[derive(Clone, Debug, PartialEq)]
pub enum Field {
    /// Text.
    Text(Option<String>),
    /// A whole number.
    Whole(Option<i64>),
    /// A number.
    Number(Option<f64>),
    /// Yes or no.
    Flag(Option<bool>),
}

impl Field {
    /// Returns a field of text.
    pub fn text(text: impl Into<String>) -> Self {
        Self::Text(Some(text.into()))
    }

    /// Returns a field of a count or of nanoseconds; beyond 292 years it is not known.
    pub fn whole(number: Option<u64>) -> Self {
        Self::Whole(number.and_then(|number| i64::try_from(number).ok()))
    }

    /// Returns whether it is of the kind that a column holds.
    fn fits(&self, holds: Holds) -> bool {
        matches!(
            (self, holds),
            (Self::Text(_), Holds::Text)
                | (Self::Whole(_), Holds::Whole)
                | (Self::Number(_), Holds::Number)
                | (Self::Flag(_), Holds::Flag)
        )
    }
}

/// Takes the rows of a table, one after another.
pub trait Rows {
    /// Takes a row, which has a field for every column and of its kind.
    fn row(&mut self, fields: &[Field]) -> io::Result<()>;

    /// Ends the table; without it a table may not be whole.
    fn end(self: Box<Self>) -> io::Result<()>;
}

/// Fails in a build with checks where a row does not fit its columns: that is our own fault.
pub(super) fn check(columns: &[Holds], fields: &[Field]) {
    debug_assert_eq!(columns.len(), fields.len(), "a field for every column");
    debug_assert!(
        fields.iter().zip(columns).all(|(field, holds)| field.fits(*holds)),
        "{fields:?}"
    );
}
