//! Tables as Apache Parquet: every column may be null, texts are UTF-8, packed by zstd.

use super::{Column, Field, Holds, Rows, check};
use parquet::basic::{Compression, LogicalType, Repetition, Type as Physical, ZstdLevel};
use parquet::column::writer::ColumnWriter;
use parquet::data_type::ByteArray;
use parquet::errors::ParquetError;
use parquet::file::properties::WriterProperties;
use parquet::file::writer::SerializedFileWriter;
use parquet::schema::types::Type;
use std::io::{self, Write};
use std::sync::Arc;

/// Rows of a group: what is held in memory before it is written.
const GROUP: usize = 1 << 17;

pub(super) struct ParquetRows<'a> {
    out: SerializedFileWriter<Box<dyn Write + Send + 'a>>,
    holds: Vec<Holds>,
    held: Vec<Held>,
    rows: usize,
}

/// A column's values so far, and whether each row has one.
struct Held {
    known: Vec<i16>,
    values: Values,
}

enum Values {
    Text(Vec<ByteArray>),
    Whole(Vec<i64>),
    Number(Vec<f64>),
    Flag(Vec<bool>),
}

impl Held {
    fn of(holds: Holds) -> Self {
        let values = match holds {
            Holds::Text => Values::Text(Vec::new()),
            Holds::Whole => Values::Whole(Vec::new()),
            Holds::Number => Values::Number(Vec::new()),
            Holds::Flag => Values::Flag(Vec::new()),
        };
        Self { known: Vec::new(), values }
    }

    fn take(&mut self, field: &Field) {
        let known = match (&mut self.values, field) {
            (Values::Text(all), Field::Text(text)) => {
                all.extend(text.as_deref().map(ByteArray::from));
                text.is_some()
            }
            (Values::Whole(all), Field::Whole(number)) => {
                all.extend(*number);
                number.is_some()
            }
            (Values::Number(all), Field::Number(number)) => {
                all.extend(*number);
                number.is_some()
            }
            (Values::Flag(all), Field::Flag(flag)) => {
                all.extend(*flag);
                flag.is_some()
            }
            // A row that does not fit its columns was seen by `check`.
            _ => false,
        };
        self.known.push(i16::from(known));
    }
}

fn failed(err: ParquetError) -> io::Error {
    match err {
        ParquetError::External(cause) => match cause.downcast::<io::Error>() {
            Ok(err) => *err,
            Err(cause) => io::Error::other(cause),
        },
        err => io::Error::other(err),
    }
}

impl<'a> ParquetRows<'a> {
    pub(super) fn begin(columns: &[Column], out: Box<dyn Write + Send + 'a>) -> io::Result<Self> {
        let field = |column: &Column| {
            let (physical, logical) = match column.holds {
                Holds::Text => (Physical::BYTE_ARRAY, Some(LogicalType::String)),
                Holds::Whole => (Physical::INT64, None),
                Holds::Number => (Physical::DOUBLE, None),
                Holds::Flag => (Physical::BOOLEAN, None),
            };
            Type::primitive_type_builder(&column.name, physical)
                .with_repetition(Repetition::OPTIONAL)
                .with_logical_type(logical)
                .build()
                .map(Arc::new)
        };
        let fields: Result<Vec<_>, _> = columns.iter().map(field).collect();
        let schema = Type::group_type_builder("lap")
            .with_fields(fields.map_err(failed)?)
            .build()
            .map_err(failed)?;
        let level = ZstdLevel::try_new(3).map_err(failed)?;
        let properties =
            WriterProperties::builder().set_compression(Compression::ZSTD(level)).build();
        let out = SerializedFileWriter::new(out, Arc::new(schema), Arc::new(properties));
        let holds: Vec<Holds> = columns.iter().map(|column| column.holds).collect();
        let held = holds.iter().copied().map(Held::of).collect();
        Ok(Self { out: out.map_err(failed)?, holds, held, rows: 0 })
    }

    /// Writes down what is held.
    fn group(&mut self) -> Result<(), ParquetError> {
        let mut group = self.out.next_row_group()?;
        let mut held = self.held.iter();
        while let Some(mut column) = group.next_column()? {
            let Some(Held { known, values }) = held.next() else { break };
            let known = Some(known.as_slice());
            match (column.untyped(), values) {
                (ColumnWriter::ByteArrayColumnWriter(to), Values::Text(all)) => {
                    to.write_batch(all, known, None)?;
                }
                (ColumnWriter::Int64ColumnWriter(to), Values::Whole(all)) => {
                    to.write_batch(all, known, None)?;
                }
                (ColumnWriter::DoubleColumnWriter(to), Values::Number(all)) => {
                    to.write_batch(all, known, None)?;
                }
                (ColumnWriter::BoolColumnWriter(to), Values::Flag(all)) => {
                    to.write_batch(all, known, None)?;
                }
                _ => unreachable!("the schema was made of the same columns"),
            }
            column.close()?;
        }
        group.close()?;
        self.held = self.holds.iter().copied().map(Held::of).collect();
        self.rows = 0;
        Ok(())
    }
}

impl Rows for ParquetRows<'_> {
    fn row(&mut self, fields: &[Field]) -> io::Result<()> {
        check(&self.holds, fields);
        self.held.iter_mut().zip(fields).for_each(|(held, field)| held.take(field));
        self.rows += 1;
        if self.rows == GROUP { self.group().map_err(failed) } else { Ok(()) }
    }

    fn end(mut self: Box<Self>) -> io::Result<()> {
        if self.rows > 0 {
            self.group().map_err(failed)?;
        }
        self.out.close().map(|_| ()).map_err(failed)
    }
}
