//! Dependencies: one version of each, from one registry, under licences we may ship, each with its reason.
//!
//! Runs for about 1 s on one core of two.

use serde_json::Value;
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;

const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

/// Licences that ask for no more than their text beside the program.
const LICENCES: [&str; 9] = [
    "MIT",
    "Apache-2.0",
    "Apache-2.0 WITH LLVM-exception",
    "BSD-2-Clause",
    "BSD-3-Clause",
    "ISC",
    "Unicode-3.0",
    "Unlicense",
    "Zlib",
];

/// Crates of which two versions are linked, each with who holds on to the older one.
const TWICE: [(&str, &str); 10] = [
    ("base64", "what tests judge JSON with"),
    ("const-oid", "what a store's certificate is read with"),
    ("fallible-iterator", "postgres"),
    ("getrandom", "what tests read Parquet with, and a target that is not ours"),
    ("miniz_oxide", "png"),
    ("r-efi", "getrandom, for a target that is not ours"),
    ("rand_core", "pco"),
    ("syn", "maud, when it is compiled"),
    ("wasi", "whoami, for a target that is not ours"),
    ("windows-sys", "ring, for a target that is not ours"),
];

fn metadata() -> Value {
    let said = Command::new(env!("CARGO"))
        .args(["metadata", "--format-version", "1", "--locked"])
        .current_dir(ROOT)
        .output()
        .expect("cargo runs");
    serde_json::from_slice(&said.stdout).expect("cargo says what it knows as JSON")
}

fn text<'a>(value: &'a Value, key: &str) -> &'a str {
    value[key].as_str().unwrap_or_default()
}

fn packages(metadata: &Value) -> (Vec<&Value>, Vec<&Value>) {
    let all = metadata["packages"].as_array().expect("a list of packages");
    all.iter().partition(|package| package["source"].is_null())
}

/// Returns whether a licence expression leaves a choice that we may ship.
fn may_be_shipped(expression: &str) -> bool {
    let plain = expression.replace(['(', ')'], "").replace('/', " OR ");
    let one = |name: &str| LICENCES.contains(&name.trim());
    // `(A OR B) AND C` reads here as `A` or `B AND C`: stricter than it is only where `B` may not be shipped.
    plain.split(" OR ").any(|choice| choice.split(" AND ").all(one))
}

#[test]
fn licences_are_read() {
    assert!(may_be_shipped("MIT OR LGPL-2.1-or-later"));
    assert!(may_be_shipped("Unlicense/MIT"));
    assert!(may_be_shipped("(MIT OR Apache-2.0) AND Unicode-3.0"));
    assert!(!may_be_shipped("GPL-3.0-only"));
    assert!(!may_be_shipped("MIT AND GPL-3.0-only"));
}

#[test]
fn every_dependency_may_be_shipped_and_comes_from_the_one_registry() {
    let metadata = metadata();
    let (_, others) = packages(&metadata);
    assert!(others.len() > 50, "{}", others.len());
    let sources: BTreeSet<&str> = others.iter().map(|package| text(package, "source")).collect();
    assert_eq!(sources.len(), 1, "{sources:?}");
    assert!(sources.iter().all(|source| source.starts_with("registry+")), "{sources:?}");
    let refused: Vec<String> = others
        .iter()
        // One public-domain dedication and one that asks for nothing, of crates that only tests use.
        .filter(|package| {
            let licence = text(package, "license");
            !may_be_shipped(licence) && !["CC0-1.0", "MIT-0"].contains(&licence)
        })
        .map(|package| format!("{}: {}", text(package, "name"), text(package, "license")))
        .collect();
    assert_eq!(refused, [""; 0]);
}

#[test]
fn a_crate_has_one_version_unless_somebody_holds_on_to_another() {
    let metadata = metadata();
    let (_, others) = packages(&metadata);
    let mut versions: BTreeMap<&str, usize> = BTreeMap::new();
    others.iter().for_each(|package| *versions.entry(text(package, "name")).or_default() += 1);
    let found: Vec<&str> =
        versions.into_iter().filter(|(_, count)| *count > 1).map(|(name, _)| name).collect();
    assert_eq!(found, TWICE.map(|(name, _)| name), "and nothing is excused that is single again");
}

#[test]
fn every_direct_dependency_is_listed_with_its_licence() {
    let metadata = metadata();
    let (ours, others) = packages(&metadata);
    let mut direct: BTreeSet<&str> = BTreeSet::new();
    for package in ours {
        let dependencies = package["dependencies"].as_array().expect("a list");
        let foreign = dependencies.iter().filter(|dependency| !dependency["source"].is_null());
        direct.extend(foreign.map(|dependency| text(dependency, "name")));
    }
    let page =
        std::fs::read_to_string(Path::new(ROOT).join("docs/dependencies.md")).expect("a page");
    let listed: BTreeMap<&str, &str> = page
        .lines()
        .filter_map(|line| line.strip_prefix("| ")?.strip_suffix(" |"))
        .map(|row| row.split(" | ").collect::<Vec<_>>())
        .filter(|row| row.len() == 5 && row[0] != "crate")
        .map(|row| (row[0], row[4]))
        .collect();
    assert_eq!(listed.keys().copied().collect::<BTreeSet<_>>(), direct);
    for (name, licence) in listed {
        let stated: Vec<String> = others
            .iter()
            .filter(|package| text(package, "name") == name)
            .map(|package| text(package, "license").replace('/', " OR "))
            .collect();
        assert!(stated.iter().any(|stated| stated == licence), "{name}: {licence}, {stated:?}");
    }
}
