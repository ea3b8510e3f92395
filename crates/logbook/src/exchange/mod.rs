//! Tables for other programs: rows in, CSV, JSON Lines or Parquet out, one row at a time.
//!
//! Rows are never held all at once: a table of frames may have millions. What is not known is nothing: an
//! empty field, `null`, a null; never a zero.

mod csv_table;
mod json_lines;
mod parquet_table;

pub use csv_table::stream_error;

use std::io::{self, Write};

/// A form of tables.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// Comma-separated values with a heading line (RFC 4180).
    Csv,
    /// One JSON object a line.
    JsonLines,
    /// Apache Parquet, packed by zstd.
    Parquet,
}

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

/// Returns what writes a table of `columns` to `out`.
pub fn rows<'a>(
    form: Form,
    columns: &[Column],
    out: Box<dyn Write + Send + 'a>,
) -> io::Result<Box<dyn Rows + 'a>> {
    Ok(match form {
        Form::Csv => Box::new(csv_table::CsvRows::begin(columns, out)?),
        Form::JsonLines => Box::new(json_lines::JsonRows::begin(columns, out)),
        Form::Parquet => Box::new(parquet_table::ParquetRows::begin(columns, out)?),
    })
}

/// Fails in a build with checks where a row does not fit its columns: that is our own fault.
fn check(columns: &[Holds], fields: &[Field]) {
    debug_assert_eq!(columns.len(), fields.len(), "a field for every column");
    debug_assert!(
        fields.iter().zip(columns).all(|(field, holds)| field.fits(*holds)),
        "{fields:?}"
    );
}

#[cfg(test)]
mod tests {
    use super::*;

    pub(super) fn columns() -> [Column; 4] {
        [
            Column::new("lap", Holds::Text),
            Column::new("time_ns", Holds::Whole),
            Column::new("value", Holds::Number),
            Column::new("counted", Holds::Flag),
        ]
    }

    pub(super) fn fields() -> [[Field; 4]; 2] {
        [
            [
                Field::text("heron-1.1, \"cold\""),
                Field::whole(Some(1_234_567_890_123_456_789)),
                Field::Number(Some(0.1)),
                Field::Flag(Some(true)),
            ],
            [Field::Text(None), Field::whole(None), Field::Number(None), Field::Flag(None)],
        ]
    }

    fn written(form: Form) -> Vec<u8> {
        let mut out = Vec::new();
        let mut rows = rows(form, &columns(), Box::new(&mut out)).unwrap();
        for row in fields() {
            rows.row(&row).unwrap();
        }
        rows.end().unwrap();
        out
    }

    #[test]
    fn csv_and_json_keep_every_digit_and_tell_nothing_from_zero() {
        assert_eq!(
            String::from_utf8(written(Form::Csv)).unwrap(),
            "lap,time_ns,value,counted\n\"heron-1.1, \"\"cold\"\"\",1234567890123456789,0.1,true\n,,,\n"
        );
        assert_eq!(
            String::from_utf8(written(Form::JsonLines)).unwrap(),
            "{\"lap\":\"heron-1.1, \\\"cold\\\"\",\"time_ns\":1234567890123456789,\"value\":0.1,\"counted\":true}\n\
             {\"lap\":null,\"time_ns\":null,\"value\":null,\"counted\":null}\n"
        );
    }
}
