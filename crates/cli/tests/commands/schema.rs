//! What programs read is what the published schema says: checked by a validator of JSON Schema, on the demo's lab.

use boon::{Compiler, SchemaIndex, Schemas};
use honest_lap_testkit::TestEnv;
use serde_json::Value;
use std::path::Path;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const FORMATS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats");

/// A published schema, ready to judge.
struct Published {
    schemas: Schemas,
    index: SchemaIndex,
}

impl Published {
    /// Reads the published schema of analyses.
    fn read() -> Self {
        Self::at(format!("{FORMATS}/analysis.schema.json"))
    }

    /// Reads a schema.
    fn at(path: impl AsRef<Path>) -> Self {
        let text = std::fs::read_to_string(path).expect("it is published");
        Self::part(&text, "")
    }

    /// Reads a part of a schema, by its pointer.
    fn part(text: &str, pointer: &str) -> Self {
        let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
        let schema: Value = serde_json::from_str(text).expect("JSON");
        compiler.add_resource("published.json", schema).expect("a schema");
        let place = format!("published.json{pointer}");
        let index = compiler.compile(&place, &mut schemas).expect("a schema");
        Self { schemas, index }
    }

    fn check(&self, document: &Value) -> Result<(), String> {
        self.schemas.validate(document, self.index).map_err(|err| format!("{err:#}"))
    }
}

fn printed(env: &TestEnv, args: &[&str]) -> Value {
    let came = env.lap(&[&["--study", "lab"], args, &["--format", "json"]].concat());
    serde_json::from_str(&came.stdout).unwrap_or_else(|err| panic!("{args:?}: {err}: {came}"))
}

#[test]
fn every_command_that_answers_prints_what_the_schema_says() {
    let (env, published) = (TestEnv::harbour(LAP), Published::read());
    for args in [
        &["compare"][..],
        &["compare", "--overall"],
        &["compare", "--across", "threads"],
        &["compare", "--before", "heron-1,heron-2", "--after", "heron-3"],
        &["compare", "--measure", "worst frame", "--despite", "so"],
        &["doubts"],
        &["claim"],
        &["claim", "heron is 20% slower than wren on every task"],
        &["claim", "plover is second fastest overall"],
        &["claim", "low 1% of kestrel in fly-through is above 60"],
        &["value", "--from", "heron", "--jobs", "100"],
    ] {
        let document = printed(&env, args);
        published.check(&document).unwrap_or_else(|err| panic!("{args:?}: {err}"));
    }
}

#[test]
fn the_schema_refuses_what_no_command_prints() {
    let (env, published) = (TestEnv::harbour(LAP), Published::read());
    let sound = printed(&env, &["compare", "dome-still"]);
    published.check(&sound).expect("sound");
    let spoilt = |spoil: &dyn Fn(&mut Value)| {
        let mut document = sound.clone();
        spoil(&mut document);
        published.check(&document)
    };
    let row = "/tables/0/groups/0/rows/0";
    for (pointer, value) in [
        ("/version".to_owned(), Value::from("three")),
        (format!("{row}/cell/typical"), Value::from("1.2 s")),
        (format!("{row}/against/verdict"), Value::from("much faster")),
        (format!("{row}/places/best"), Value::from(-1)),
        ("/findings/0/impact/is".to_owned(), Value::from("annoys")),
    ] {
        let put = |document: &mut Value| {
            *document.pointer_mut(&pointer).unwrap_or_else(|| panic!("{pointer}")) = value.clone();
        };
        assert!(spoilt(&put).is_err(), "{pointer}");
    }
    let drop = |document: &mut Value| {
        document.as_object_mut().map(|all| all.remove("findings"));
    };
    assert!(spoilt(&drop).is_err(), "findings are always there");
}

/// Returns a study as its schema sees it.
fn study_at(path: &Path) -> Value {
    let text = std::fs::read_to_string(path).expect("a study");
    serde_json::to_value(text.parse::<toml::Table>().expect("TOML")).expect("plain values")
}

#[test]
fn what_init_writes_names_a_schema_that_takes_it() {
    let env = TestEnv::new(LAP);
    let kinds =
        ["task", "render", "export", "compile", "game", "playback", "scores", "battery", "by-hand"];
    for kind in kinds {
        env.lap_ok(&["init", kind, "--for", kind]);
        let folder = env.path().join(kind);
        let text = std::fs::read_to_string(folder.join("study.toml")).expect("a study");
        let named = text.lines().next().and_then(|line| line.strip_prefix("#:schema "));
        let published = Published::at(folder.join(named.expect("a schema")));
        let mut study = study_at(&folder.join("study.toml"));
        published.check(&study).unwrap_or_else(|err| panic!("{kind}: {err}"));
        study["workload"]["other"] = serde_json::json!({ "kind": "chore" });
        assert!(published.check(&study).is_err(), "{kind}");
    }
    let harbour = TestEnv::harbour(LAP);
    let wrote = harbour.lap_ok(&["init", "lab", "--schema"]);
    assert!(
        wrote.contains("let lab/study.toml begin with this line:\n\n#:schema .lap/"),
        "{wrote}"
    );
    let published = Published::at(harbour.path().join("lab/.lap/study.schema.json"));
    published.check(&study_at(&harbour.path().join("lab/study.toml"))).expect("the demo's study");
    let none = harbour.lap(&["init", "nowhere", "--schema"]);
    assert!(none.status == Some(2) && none.stderr.contains("cannot read"), "{none}");
}

#[test]
fn every_table_is_what_its_schema_says() {
    let env = TestEnv::harbour(LAP);
    let published = Published::at(format!("{FORMATS}/tables.schema.json"));
    env.write("frames.csv", "ms,note\n16.6,\n16.7,dive\n16.6,\n33.1,\n");
    let mut seen = Vec::new();
    for args in [
        &["show"][..],
        &["show", "heron-1"],
        &["show", "heron-1.3"],
        &["show", "kestrel-3.2"],
        &["frames"],
        &["frames", "heron"],
        &["note"],
        &["rig"],
        &["rig", "check"],
        &["verify"],
        &["verify", "report.html"],
        &["doubts", "--retest"],
        &["run", "dome-still", "--rig", "new-one", "--preview"],
        &["import", "frames.csv", "--rig", "new-one", "--workload", "fly-through", "--preview"],
    ] {
        if args.contains(&"report.html") {
            env.lap_ok(&["--study", "lab", "report", "--out", "report.html"]);
        }
        let mut document = printed(&env, args);
        published.check(&document).unwrap_or_else(|err| panic!("{args:?}: {err}"));
        seen.push(document["schema"].as_str().expect("a name").to_owned());
        let rows = document.pointer_mut("/groups/0/rows").and_then(Value::as_array_mut);
        let Some(row) = rows.and_then(|rows| rows.first_mut()).and_then(Value::as_object_mut)
        else {
            continue;
        };
        let (key, value) = row.iter().next().map(|(k, v)| (k.clone(), v.clone())).expect("a field");
        row.remove(&key);
        assert!(published.check(&document).is_err(), "{args:?} without {key}");
        document["groups"][0]["rows"][0][&key] = value;
        document["groups"][0]["rows"][0]["unheard_of"] = Value::Null;
        assert!(published.check(&document).is_err(), "{args:?} with more");
    }
    seen.sort();
    seen.dedup();
    assert_eq!(seen.len(), 11, "{seen:?}");
}

#[test]
fn every_exported_line_is_what_its_schema_says() {
    let env = TestEnv::harbour(LAP);
    let schema =
        std::fs::read_to_string(format!("{FORMATS}/export.schema.json")).expect("it is published");
    for table in ["laps", "readings", "sums", "conditions", "frames", "repeats"] {
        let published = Published::part(&schema, &format!("#/$defs/{table}"));
        let lines = env.lap_ok(&["--study", "lab", "export", table, "--format", "json-lines"]);
        let some = lines.lines().step_by(1 + lines.lines().count() / 500);
        let mut checked = 0;
        for line in some {
            let row = serde_json::from_str(line).expect("JSON");
            published.check(&row).unwrap_or_else(|err| panic!("{table}: {err}: {line}"));
            checked += 1;
        }
        assert!(checked > 0 || table == "repeats", "{table} has no lines");
        assert!(published.check(&serde_json::json!({ "lap": "heron-1.1" })).is_err(), "{table}");
    }
}
