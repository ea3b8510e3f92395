//! Tables as comma-separated values.

use super::table::{Column, Field, Holds, Rows, check};
use honest_lap_core::record::plain_cell;
use std::io::{self, Write};

pub(super) struct CsvRows<'a> {
    out: csv::Writer<Box<dyn Write + Send + 'a>>,
    holds: Vec<Holds>,
}

/// Returns what the stream said, which a writer of tables wraps.
pub fn stream_error(err: csv::Error) -> io::Error {
    match err.into_kind() {
        csv::ErrorKind::Io(err) => err,
        kind => io::Error::other(format!("{kind:?}")),
    }
}

impl<'a> CsvRows<'a> {
    pub(super) fn begin(columns: &[Column], out: Box<dyn Write + Send + 'a>) -> io::Result<Self> {
        let mut out = csv::Writer::from_writer(out);
        out.write_record(columns.iter().map(|column| plain_cell(&column.name)))
            .map_err(stream_error)?;
        Ok(Self { out, holds: columns.iter().map(|column| column.holds).collect() })
    }
}

impl Rows for CsvRows<'_> {
    fn row(&mut self, fields: &[Field]) -> io::Result<()> {
        check(&self.holds, fields);
        let field = |field: &Field| match field {
            Field::Text(text) => text.as_deref().map(plain_cell),
            Field::Whole(number) => number.map(|number| number.to_string()),
            Field::Number(number) => number.map(|number| number.to_string()),
            Field::Flag(flag) => flag.map(|flag| flag.to_string()),
        };
        let row = fields.iter().map(|one| field(one).unwrap_or_default());
        self.out.write_record(row).map_err(stream_error)
    }

    fn end(mut self: Box<Self>) -> io::Result<()> {
        self.out.flush()
    }
}
