//! Tables as JSON, an object a line.

use super::table::{Column, Field, Holds, Rows, check};
use honest_lap_core::record::PlainJson;
use serde::ser::{SerializeMap, Serializer};
use std::io::{self, Write};

pub(super) struct JsonRows<'a> {
    out: Box<dyn Write + Send + 'a>,
    names: Vec<String>,
    holds: Vec<Holds>,
}

impl<'a> JsonRows<'a> {
    pub(super) fn begin(columns: &[Column], out: Box<dyn Write + Send + 'a>) -> Self {
        let names = columns.iter().map(|column| column.name.clone()).collect();
        Self { out, names, holds: columns.iter().map(|column| column.holds).collect() }
    }
}

impl Rows for JsonRows<'_> {
    fn row(&mut self, fields: &[Field]) -> io::Result<()> {
        check(&self.holds, fields);
        let mut line = serde_json::Serializer::new(PlainJson::new(&mut self.out));
        let mut object = line.serialize_map(Some(fields.len()))?;
        for (name, field) in self.names.iter().zip(fields) {
            match field {
                Field::Text(text) => object.serialize_entry(name, text)?,
                Field::Whole(number) => object.serialize_entry(name, number)?,
                Field::Number(number) => object.serialize_entry(name, number)?,
                Field::Flag(flag) => object.serialize_entry(name, flag)?,
            }
        }
        object.end()?;
        self.out.write_all(b"\n")
    }

    fn end(mut self: Box<Self>) -> io::Result<()> {
        self.out.flush()
    }
}
