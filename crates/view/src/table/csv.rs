//! CSV: one table for spreadsheets, every group's rows one after another.

use super::sheet::{Sheet, Value};
use honest_lap_core::record::plain_cell;
use std::io;

pub(crate) fn write(sheet: &Sheet, out: &mut dyn io::Write) -> io::Result<()> {
    let mut writer = csv::Writer::from_writer(out);
    if let Some(first) = sheet.groups.first() {
        writer.write_record(first.for_machines().map(|(_, column)| plain_cell(&column.key)))?;
    }
    for group in &sheet.groups {
        for row in &group.rows {
            writer.write_record(group.for_machines().map(|(at, _)| field(&row[at].value)))?;
        }
    }
    writer.flush()
}

fn field(value: &Value) -> String {
    match value {
        Value::Missing => String::new(),
        Value::Text(text) => plain_cell(text),
        Value::Whole(number) => number.to_string(),
        Value::Number(number) if number.is_finite() => number.to_string(),
        Value::Number(_) => String::new(),
        Value::Flag(flag) => flag.to_string(),
        Value::List(items) => plain_cell(&items.join("; ")),
    }
}
