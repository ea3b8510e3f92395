//! What is told of keys is what is read: pages and schema are those of the list, and examples and mistakes are read alike.

use super::form::{Form, Key, Table};
use super::page::{contents, page, tables, within};
use super::schema::schema;
use crate::read;
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

const DOCS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs");

/// Returns the study in which `lines` stand in `table`, with whatever that needs besides.
fn study_with(table: &Table, lines: &str) -> String {
    let says = |key: &str| {
        lines.lines().any(|line| line.split('=').next().unwrap_or_default().trim() == key)
    };
    let with = |name: &str, others: &[(&str, &str)]| {
        let wanted = others.iter().filter(|(key, _)| !says(key));
        let wanted: Vec<String> = wanted.map(|(key, value)| format!("{key} = {value}")).collect();
        format!("{name}\n{}\n{lines}\n", wanted.join("\n"))
    };
    let still = "[workload.still]\nkind = \"task\"\ncommand = [\"dome-still\"]\n";
    match table.name {
        "[workload.NAME]" => {
            let (own, idle) = (says("by_hand"), says("idle"));
            let command: &[_] = if own || idle { &[] } else { &[("command", "[\"dome-still\"]")] };
            with("[workload.still]", &[&[("kind", "\"task\"")], command].concat())
        }
        "[study]" => format!("{}\n{still}\n[rig.heron]\n[rig.kestrel]\n", with("[study]", &[])),
        "[rig.NAME]" => format!("{still}\n{}", with("[rig.heron]", &[])),
        "[meter.NAME]" => {
            format!(
                "{still}\n{}",
                with("[meter.wall]", &[("command", "[\"read-meter\"]"), ("unit", "\"W\"")])
            )
        }
        "[[claim]]" => format!("{still}\n{}", with("[[claim]]", &[("says", "\"heron is first\"")])),
        "[[elsewhere]]" => {
            let others = [
                ("rig", "\"osprey\""),
                ("workload", "\"still\""),
                ("value", "\"41.5 s\""),
                ("source", "\"a leaflet\""),
            ];
            format!("{still}\n{}", with("[[elsewhere]]", &others))
        }
        other => panic!("{other} has no heading"),
    }
}

/// Returns every key below `table`, its own and those of tables within.
fn keys_below(table: &'static Table) -> Vec<&'static Key> {
    let inner = table.keys.iter().flat_map(|key| within(&key.form));
    table.keys.iter().chain(inner.flat_map(keys_below)).collect()
}

/// Returns every example, with the table that it stands in and the study that it makes.
fn examples() -> Vec<(&'static Key, &'static Table, String)> {
    let of = |table: &'static Table| {
        let shown = keys_below(table).into_iter().filter(|key| !key.example.is_empty());
        shown.map(move |key| (key, table, study_with(table, key.example)))
    };
    tables().flat_map(of).collect()
}

fn as_json(study: &str) -> Value {
    let table: toml::Table = study.parse().unwrap_or_else(|err| panic!("{study}: {err}"));
    serde_json::to_value(table).unwrap()
}

/// Returns a judge of studies by the schema.
fn by_schema() -> impl Fn(&Value) -> Result<(), String> {
    let (mut schemas, mut compiler) = (boon::Schemas::new(), boon::Compiler::new());
    compiler.add_resource("study.json", schema()).unwrap();
    let index = compiler.compile("study.json", &mut schemas).unwrap();
    move |study| schemas.validate(study, index).map_err(|err| format!("{err:#}"))
}

#[test]
fn every_example_is_read_and_every_key_has_one() {
    let judge = by_schema();
    let mut shown: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
    for (key, table, study) in examples() {
        let read = read(&study);
        assert!(read.is_ok(), "{} of {}: {:?}\n{study}", key.name, table.name, read.unwrap_err());
        judge(&as_json(&study)).unwrap_or_else(|err| panic!("{}: {err}\n{study}", key.name));
        assert!(key.example.contains(&format!("{} =", key.name)), "{} is not in its own", key.name);
        let words =
            key.example.split(|c: char| !(c.is_alphanumeric() || c == '_')).map(str::to_owned);
        shown.entry(table.name).or_default().extend(words);
    }
    for table in tables() {
        for key in keys_below(table) {
            assert!(
                shown[table.name].contains(key.name),
                "{} of {} has no example",
                key.name,
                table.name
            );
        }
    }
}

/// Adds the place of every known key below `value`.
fn places(value: &Value, form: &Form, at: &str, found: &mut Vec<(String, String)>) {
    match form {
        Form::Table(table) => {
            for key in table.keys {
                if let Some(inner) = value.get(key.name) {
                    let place = format!("{at}/{}", key.name);
                    found.push((place.clone(), format!("{} of {}", key.name, table.name)));
                    places(inner, &key.form, &place, found);
                }
            }
        }
        Form::Named(inner) => {
            for (name, value) in value.as_object().into_iter().flatten() {
                places(value, inner, &format!("{at}/{name}"), found);
            }
        }
        Form::List(inner) => {
            for (place, value) in value.as_array().into_iter().flatten().enumerate() {
                places(value, inner, &format!("{at}/{place}"), found);
            }
        }
        Form::Either(forms) => forms.iter().for_each(|form| places(value, form, at, found)),
        _ => {}
    }
}

#[test]
fn what_the_schema_refuses_is_a_mistake_when_it_is_read() {
    let judge = by_schema();
    let samples = [
        json!("zzz"),
        json!("7"),
        json!(7),
        json!(-7),
        json!(1.5),
        json!(true),
        json!([]),
        json!([7]),
        json!([true]),
        json!(["zzz"]),
        json!([["zzz"]]),
        json!([[7]]),
        json!({ "zzz": 7 }),
        json!([{ "zzz": 7 }]),
        json!({ "zzz": { "zzz": {} } }),
        json!(4_000_000_000_u32),
    ];
    let mut refused: BTreeMap<String, usize> = BTreeMap::new();
    for (_, _, study) in examples() {
        let sound = as_json(&study);
        let mut found = Vec::new();
        places(&sound, &Form::Table(&super::TOP), "", &mut found);
        for (place, key) in found {
            for sample in &samples {
                let mut spoilt = sound.clone();
                *spoilt.pointer_mut(&place).unwrap() = sample.clone();
                let Ok(text) = toml::to_string(&spoilt) else { continue };
                let by_schema = judge(&spoilt);
                assert!(
                    by_schema.is_ok() || read(&text).is_err(),
                    "{key} takes {sample}, and the schema does not: {by_schema:?}\n{text}"
                );
                *refused.entry(key.clone()).or_default() += usize::from(by_schema.is_err());
            }
        }
    }
    let blind: Vec<&String> =
        refused.iter().filter(|(_, times)| **times == 0).map(|(key, _)| key).collect();
    assert!(blind.is_empty(), "the schema refuses nothing of {blind:?}");
    assert!(refused.len() > 120, "{}", refused.len());
    let unknown =
        judge(&as_json("[workload.still]\nkind = \"task\"\ncomand = \"x\"\n")).unwrap_err();
    assert!(unknown.contains("comand"), "{unknown}");
}

/// Holds what is published against what is `made` here, or publishes it where that is asked for.
fn is_published(path: &Path, made: &str) {
    if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
        std::fs::write(path, made).unwrap();
    }
    let published = std::fs::read_to_string(path).unwrap_or_default();
    let how = "LAP_WRITE_REFERENCE=1 cargo test -p honest-lap-study published";
    assert!(published == made, "{} is not what the list of keys says: {how}", path.display());
}

#[test]
fn schema_and_pages_are_those_of_the_list() {
    let text = format!("{}\n", serde_json::to_string_pretty(&schema()).unwrap());
    is_published(&Path::new(DOCS).join("formats/study.schema.json"), &text);
    let folder = Path::new(DOCS).join("reference/study");
    let mut pages: BTreeMap<String, String> =
        tables().flat_map(|table| table.keys.iter().map(|key| page(table, key))).collect();
    pages.insert("README.md".to_owned(), contents());
    if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
        std::fs::create_dir_all(&folder).unwrap();
    }
    for (name, text) in &pages {
        is_published(&folder.join(name), text);
    }
    for there in std::fs::read_dir(&folder).unwrap() {
        let name = there.unwrap().file_name().into_string().unwrap();
        assert!(pages.contains_key(&name), "{name} is the page of no key");
    }
}
