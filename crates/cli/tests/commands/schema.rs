//! What programs read is what the published schema says: checked by a validator of JSON Schema, on the demo's lab.

use boon::{Compiler, SchemaIndex, Schemas};
use honest_lap_testkit::TestEnv;
use serde_json::Value;
use std::path::Path;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// The published schema, ready to judge.
struct Published {
    schemas: Schemas,
    index: SchemaIndex,
}

impl Published {
    /// Reads the published schema of analyses.
    fn read() -> Self {
        Self::at(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/analysis.schema.json"))
    }

    /// Reads a schema.
    fn at(path: impl AsRef<Path>) -> Self {
        let text = std::fs::read_to_string(path).expect("it is published");
        let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
        let schema: Value = serde_json::from_str(&text).expect("JSON");
        compiler.add_resource("published.json", schema).expect("a schema");
        let index = compiler.compile("published.json", &mut schemas).expect("a schema");
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
