//! JSON: one object, described in `docs/formats/json.md`.

use super::sheet::{Group, Sheet, Value};
use honest_lap_core::record::PlainJson;
use serde_json::{Map, Value as Json, json};
use std::io;

pub(crate) fn write(sheet: &Sheet, out: &mut dyn io::Write) -> io::Result<()> {
    let object = json!({
        "schema": sheet.schema,
        "version": sheet.version,
        "title": sheet.title,
        "lead": sheet.lead,
        "groups": sheet.groups.iter().map(group).collect::<Vec<_>>(),
        "notes": sheet.notes,
    });
    serde_json::to_writer_pretty(PlainJson::new(&mut *out), &object)?;
    writeln!(out)
}

fn group(group: &Group) -> Json {
    let rows: Vec<Json> = group
        .rows
        .iter()
        .map(|row| {
            let fields = group.for_machines();
            let fields = fields.map(|(at, column)| (column.key.to_string(), value(&row[at].value)));
            Json::Object(fields.collect::<Map<_, _>>())
        })
        .collect();
    json!({ "heading": group.heading, "lead": group.lead, "rows": rows, "notes": group.notes })
}

fn value(value: &Value) -> Json {
    match value {
        Value::Missing => Json::Null,
        Value::Text(text) => json!(text),
        Value::Whole(number) => json!(number),
        // A number that is not finite has no JSON; it is as unknown as a missing one.
        Value::Number(number) => json!(number),
        Value::Flag(flag) => json!(flag),
        Value::List(items) => json!(items),
    }
}
