//! Tables as Apache Parquet: every column may be null, texts are UTF-8, packed by zstd.
//!
//! The structures of the format come from a library; what is here lays out pages, one for each column of a group of
//! rows: which rows have a value, then the values as they are (`PLAIN`).
//! Format: <https://parquet.apache.org/docs/file-format/>.

use super::table::{Column, Field, Holds, Rows, check};
use polars_parquet_format as format;
use polars_parquet_format::thrift::protocol::TCompactOutputProtocol;
use polars_parquet_format::{
    ColumnChunk, ColumnMetaData, CompressionCodec, DataPageHeader, Encoding, FieldRepetitionType,
    FileMetaData, PageHeader, PageType, RowGroup, SchemaElement, Statistics,
};
use std::io::{self, Write};

/// Rows of a group: what is held in memory before it is written.
const GROUP: usize = 1 << 17;

/// What a file of the format begins and ends with.
const MAGIC: &[u8; 4] = b"PAR1";

/// How hard zstd tries.
const LEVEL: i32 = 3;

pub(super) struct ParquetRows<'a> {
    out: Box<dyn Write + Send + 'a>,
    /// Bytes written so far.
    at: usize,
    columns: Vec<Column>,
    holds: Vec<Holds>,
    held: Vec<Held>,
    rows: usize,
    groups: Vec<RowGroup>,
    packer: zstd::bulk::Compressor<'static>,
}

/// A column's values so far.
#[derive(Default)]
struct Held {
    known: Runs,
    /// The values that are known, as the format holds them.
    plain: Vec<u8>,
    /// Yes and no so far that do not yet fill a byte.
    flags: Vec<bool>,
    nulls: usize,
}

impl Held {
    fn take(&mut self, field: &Field) {
        let known = match field {
            Field::Text(text) => text.as_deref().map(|text| {
                // A length that does not fit makes a page that is refused.
                self.plain.extend((text.len() as u32).to_le_bytes());
                self.plain.extend(text.as_bytes());
            }),
            Field::Whole(number) => number.map(|number| self.plain.extend(number.to_le_bytes())),
            Field::Number(number) => number.map(|number| self.plain.extend(number.to_le_bytes())),
            Field::Flag(flag) => flag.map(|flag| {
                self.flags.push(flag);
                if self.flags.len() == 8 {
                    self.end_flags();
                }
            }),
        };
        self.known.push(known.is_some());
        self.nulls += usize::from(known.is_none());
    }

    /// Puts what is left of yes and no into a byte, the first in its lowest bit.
    fn end_flags(&mut self) {
        if !self.flags.is_empty() {
            let bit = |byte, (place, flag): (usize, &bool)| byte | (u8::from(*flag) << place);
            self.plain.push(self.flags.iter().enumerate().fold(0, bit));
            self.flags.clear();
        }
    }

    /// Returns the page of what is held, before it is packed.
    fn page(&mut self) -> Vec<u8> {
        self.end_flags();
        let runs = self.known.ended();
        let mut page = Vec::with_capacity(4 + runs.len() + self.plain.len());
        page.extend((runs.len() as u32).to_le_bytes());
        page.extend(runs);
        page.append(&mut self.plain);
        page
    }
}

/// Whether each row has a value, as runs: how often, then which.
#[derive(Default)]
struct Runs {
    bytes: Vec<u8>,
    run: Option<(bool, u64)>,
}

impl Runs {
    fn push(&mut self, known: bool) {
        match &mut self.run {
            Some((last, times)) if *last == known => *times += 1,
            _ => {
                self.end_run();
                self.run = Some((known, 1));
            }
        }
    }

    fn end_run(&mut self) {
        if let Some((known, times)) = self.run.take() {
            // The lowest bit says that this is a run; the rest in groups of seven bits, the lowest first.
            let mut left = times << 1;
            while left >= 0x80 {
                self.bytes.push(left as u8 | 0x80);
                left >>= 7;
            }
            self.bytes.extend([left as u8, u8::from(known)]);
        }
    }

    fn ended(&mut self) -> Vec<u8> {
        self.end_run();
        std::mem::take(&mut self.bytes)
    }
}

fn physical(holds: Holds) -> format::Type {
    match holds {
        Holds::Text => format::Type::BYTE_ARRAY,
        Holds::Whole => format::Type::INT64,
        Holds::Number => format::Type::DOUBLE,
        Holds::Flag => format::Type::BOOLEAN,
    }
}

/// Returns the schema: a group of all columns, then each of them.
fn schema(columns: &[Column]) -> Vec<SchemaElement> {
    let element = |name: &str| SchemaElement {
        type_: None,
        type_length: None,
        repetition_type: None,
        name: name.to_owned(),
        num_children: None,
        converted_type: None,
        scale: None,
        precision: None,
        field_id: None,
        logical_type: None,
    };
    let whole = SchemaElement { num_children: Some(columns.len() as i32), ..element("lap") };
    let field = |column: &Column| {
        let text = column.holds == Holds::Text;
        SchemaElement {
            type_: Some(physical(column.holds)),
            repetition_type: Some(FieldRepetitionType::OPTIONAL),
            converted_type: text.then_some(format::ConvertedType::UTF8),
            logical_type: text.then_some(format::LogicalType::STRING(format::StringType {})),
            ..element(&column.name)
        }
    };
    std::iter::once(whole).chain(columns.iter().map(field)).collect()
}

impl<'a> ParquetRows<'a> {
    pub(super) fn begin(
        columns: &[Column],
        mut out: Box<dyn Write + Send + 'a>,
    ) -> io::Result<Self> {
        out.write_all(MAGIC)?;
        Ok(Self {
            out,
            at: MAGIC.len(),
            columns: columns.to_vec(),
            holds: columns.iter().map(|column| column.holds).collect(),
            held: columns.iter().map(|_| Held::default()).collect(),
            rows: 0,
            groups: Vec::new(),
            packer: zstd::bulk::Compressor::new(LEVEL)?,
        })
    }

    fn write(&mut self, bytes: &[u8]) -> io::Result<()> {
        self.at += bytes.len();
        self.out.write_all(bytes)
    }

    /// Writes down what is held.
    fn group(&mut self) -> io::Result<()> {
        let (begin, rows) = (self.at, std::mem::take(&mut self.rows));
        let held: Vec<Held> = self.held.iter_mut().map(std::mem::take).collect();
        let mut chunks = Vec::with_capacity(held.len());
        for (place, mut held) in held.into_iter().enumerate() {
            chunks.push(self.chunk(place, rows, &mut held)?);
        }
        let sizes = chunks.iter().filter_map(|chunk| chunk.meta_data.as_ref());
        self.groups.push(RowGroup {
            total_byte_size: sizes.map(|data| data.total_uncompressed_size).sum(),
            columns: chunks,
            num_rows: rows as i64,
            sorting_columns: None,
            file_offset: Some(begin as i64),
            total_compressed_size: Some((self.at - begin) as i64),
            ordinal: None,
        });
        Ok(())
    }

    /// Writes the page of the column at `place` and returns where it is and what it holds.
    fn chunk(&mut self, place: usize, rows: usize, held: &mut Held) -> io::Result<ColumnChunk> {
        let page = held.page();
        let packed = self.packer.compress(&page)?;
        let too_large = |_| io::Error::other("a column of one group of rows exceeds 2 GB");
        let header = PageHeader {
            type_: PageType::DATA_PAGE,
            uncompressed_page_size: i32::try_from(page.len()).map_err(too_large)?,
            compressed_page_size: i32::try_from(packed.len()).map_err(too_large)?,
            crc: None,
            data_page_header: Some(DataPageHeader {
                num_values: rows as i32,
                encoding: Encoding::PLAIN,
                definition_level_encoding: Encoding::RLE,
                repetition_level_encoding: Encoding::RLE,
                statistics: None,
            }),
            index_page_header: None,
            dictionary_page_header: None,
            data_page_header_v2: None,
        };
        let header = encoded(|to| header.write_to_out_protocol(to))?;
        let begin = self.at;
        self.write(&header)?;
        self.write(&packed)?;
        let column = &self.columns[place];
        let data = ColumnMetaData {
            type_: physical(column.holds),
            encodings: vec![Encoding::PLAIN, Encoding::RLE],
            path_in_schema: vec![column.name.clone()],
            codec: CompressionCodec::ZSTD,
            num_values: rows as i64,
            total_uncompressed_size: (header.len() + page.len()) as i64,
            total_compressed_size: (self.at - begin) as i64,
            key_value_metadata: None,
            data_page_offset: begin as i64,
            index_page_offset: None,
            dictionary_page_offset: None,
            statistics: Some(Statistics {
                max: None,
                min: None,
                null_count: Some(held.nulls as i64),
                distinct_count: None,
                max_value: None,
                min_value: None,
                is_max_value_exact: None,
                is_min_value_exact: None,
            }),
            encoding_stats: None,
            bloom_filter_offset: None,
            bloom_filter_length: None,
            size_statistics: None,
        };
        Ok(ColumnChunk {
            file_path: None,
            file_offset: begin as i64,
            meta_data: Some(data),
            offset_index_offset: None,
            offset_index_length: None,
            column_index_offset: None,
            column_index_length: None,
            crypto_metadata: None,
            encrypted_column_metadata: None,
        })
    }
}

/// Returns a structure of the format as bytes.
fn encoded(
    write: impl FnOnce(&mut TCompactOutputProtocol<&mut Vec<u8>>) -> format::thrift::Result<usize>,
) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    write(&mut TCompactOutputProtocol::new(&mut bytes)).map_err(io::Error::other)?;
    Ok(bytes)
}

impl Rows for ParquetRows<'_> {
    fn row(&mut self, fields: &[Field]) -> io::Result<()> {
        check(&self.holds, fields);
        self.held.iter_mut().zip(fields).for_each(|(held, field)| held.take(field));
        self.rows += 1;
        if self.rows == GROUP { self.group() } else { Ok(()) }
    }

    fn end(mut self: Box<Self>) -> io::Result<()> {
        if self.rows > 0 {
            self.group()?;
        }
        let rows = self.groups.iter().map(|group| group.num_rows).sum();
        let groups = std::mem::take(&mut self.groups);
        let footer = FileMetaData {
            version: 1,
            schema: schema(&self.columns),
            num_rows: rows,
            row_groups: groups,
            key_value_metadata: None,
            created_by: Some(concat!("honest-lap ", env!("CARGO_PKG_VERSION")).to_owned()),
            column_orders: None,
            encryption_algorithm: None,
            footer_signing_key_metadata: None,
        };
        let footer = encoded(|to| footer.write_to_out_protocol(to))?;
        self.write(&footer)?;
        self.write(&(footer.len() as u32).to_le_bytes())?;
        self.write(MAGIC)?;
        self.out.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use parquet::file::reader::{FileReader, SerializedFileReader};
    use parquet::record::{Row, RowAccessor};

    /// Returns the rows of a table, read back by another implementation of the format.
    fn read_back(columns: &[Column], rows: &[Vec<Field>]) -> Vec<Row> {
        let mut out = Vec::new();
        let mut table = Box::new(ParquetRows::begin(columns, Box::new(&mut out)).unwrap());
        rows.iter().for_each(|row| table.row(row).unwrap());
        table.end().unwrap();
        let reader = SerializedFileReader::new(bytes::Bytes::from(out)).unwrap();
        assert_eq!(reader.metadata().file_metadata().schema().name(), "lap");
        assert_eq!(reader.metadata().file_metadata().num_rows(), rows.len() as i64);
        reader.get_row_iter(None).unwrap().map(Result::unwrap).collect()
    }

    #[test]
    fn every_kind_comes_back_as_it_went_in() {
        let rows = super::super::tests::fields().map(Vec::from);
        let all = read_back(&super::super::tests::columns(), &rows);
        assert_eq!(all.len(), 2);
        assert_eq!(all[0].get_string(0).unwrap(), "heron-1.1, \"cold\"");
        assert_eq!(all[0].get_long(1).unwrap(), 1_234_567_890_123_456_789);
        assert_eq!((all[0].get_double(2).unwrap(), all[0].get_bool(3).unwrap()), (0.1, true));
        assert!(all[1].get_string(0).is_err() && all[1].get_long(1).is_err(), "nulls");
    }

    #[test]
    fn nothing_is_a_table_too() {
        assert_eq!(read_back(&super::super::tests::columns(), &[]).len(), 0);
    }

    #[test]
    fn more_rows_than_a_group_with_gaps_anywhere_come_back() {
        let columns = [Column::new("number", Holds::Whole), Column::new("yes", Holds::Flag)];
        // Runs of 1, 2, 3, … rows with and without a value; flags never end on a whole byte.
        let known = |row: usize| ((row as f64).sqrt() as usize).is_multiple_of(2);
        let rows = GROUP + 1_003;
        let row = |row: usize| {
            vec![
                Field::Whole(known(row).then_some(row as i64 - 5)),
                Field::Flag((!row.is_multiple_of(3)).then_some(row.is_multiple_of(5))),
            ]
        };
        let all = read_back(&columns, &(0..rows).map(row).collect::<Vec<_>>());
        assert_eq!(all.len(), rows);
        for (row, read) in all.iter().enumerate() {
            assert_eq!(read.get_long(0).ok(), known(row).then_some(row as i64 - 5), "{row}");
            assert_eq!(
                read.get_bool(1).ok(),
                (!row.is_multiple_of(3)).then_some(row.is_multiple_of(5)),
                "{row}"
            );
        }
    }
}
