//! The schema of a study, as editors of TOML read it: docs/formats/study.schema.json.

use super::TOP;
use super::form::{Form, Quantity, Table};
use serde_json::{Map, Value, json};

/// Returns the schema.
///
/// It refuses no study that is read; what depends on more than one key it does not see.
pub(super) fn schema() -> Value {
    let mut schema = of_table(&TOP);
    let head = [
        ("$schema", "http://json-schema.org/draft-07/schema#"),
        ("title", "study.toml of Honest Lap"),
    ];
    for (name, value) in head {
        schema[name] = value.into();
    }
    schema
}

fn of_table(table: &Table) -> Value {
    let mut properties = Map::new();
    for key in table.keys {
        let mut schema = of_form(&key.form);
        let without = match key.default {
            "" => String::new(),
            "needed" => " Needed.".to_owned(),
            default => format!(" Without it: {default}."),
        };
        schema["description"] = format!("{}{without}", key.about).into();
        properties.insert(key.name.to_owned(), schema);
    }
    let needed = table.keys.iter().filter(|key| key.default == "needed");
    let required: Vec<&str> = needed.map(|key| key.name).collect();
    let mut schema =
        json!({ "type": "object", "additionalProperties": false, "properties": properties });
    if !required.is_empty() {
        schema["required"] = required.into();
    }
    schema
}

fn of_form(form: &Form) -> Value {
    match form {
        Form::Text => json!({ "type": "string" }),
        Form::Word(words) => json!({ "enum": words }),
        Form::Quantity(quantity) => {
            let pattern = match quantity {
                Quantity::Share => r"[0-9]\s*%\s*$",
                Quantity::Frequency => r"[0-9]\s*Hz\s*$",
                Quantity::Power => r"[0-9]\s*W\s*$",
                Quantity::Rate => r"[0-9].*/s\s*$",
                Quantity::Day => r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$",
                Quantity::Time | Quantity::Size | Quantity::Temperature | Quantity::Amount => {
                    "[0-9]"
                }
            };
            json!({ "type": "string", "pattern": pattern })
        }
        Form::Flag => json!({ "type": "boolean" }),
        Form::Whole(from, u32::MAX) => json!({ "type": "integer", "minimum": from }),
        Form::Whole(from, to) => json!({ "type": "integer", "minimum": from, "maximum": to }),
        Form::Number => json!({ "type": "number" }),
        Form::List(item) => json!({ "type": "array", "items": of_form(item) }),
        Form::Named(value) => json!({ "type": "object", "additionalProperties": of_form(value) }),
        Form::Table(table) => of_table(table),
        Form::Either(forms) => json!({ "anyOf": forms.iter().map(of_form).collect::<Vec<_>>() }),
    }
}
