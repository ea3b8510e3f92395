//! What programs read is what the published schema says: checked by a validator of JSON Schema, on the demo's lab.

use boon::{Compiler, SchemaIndex, Schemas};
use honest_lap_testkit::TestEnv;
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// The published schema, ready to judge.
struct Published {
    schemas: Schemas,
    index: SchemaIndex,
}

impl Published {
    fn read() -> Self {
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/analysis.schema.json");
        let text = std::fs::read_to_string(path).expect("it is published");
        let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
        let schema: Value = serde_json::from_str(&text).expect("JSON");
        compiler.add_resource("analysis.json", schema).expect("a schema");
        let index = compiler.compile("analysis.json", &mut schemas).expect("a schema");
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
