//! Tables for other programs: rows in, CSV, JSON Lines or Parquet out, one row at a time.
//!
//! Rows are never held all at once: a table of frames may have millions. What is not known is nothing: an
//! empty field, `null`, a null; never a zero.

mod csv_table;
mod json_lines;
mod parquet_table;
mod table;

pub use csv_table::stream_error;

use std::io::{self, Write};
pub use table::{Column, Field, Holds, Rows};

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
