//! Which way imports point: between crates, and to the left inside core.
//!
//! Runs in under a second.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

const CRATES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/..");

/// Every crate with those that it may name; `testkit` is for tests, and may be named by none but them.
const ARROWS: [(&str, &[&str]); 15] = [
    (
        "cli",
        &[
            "core",
            "draw",
            "frame-log",
            "logbook",
            "measure",
            "reach",
            "stand-ins",
            "store",
            "study",
            "view",
        ],
    ),
    ("core", &[]),
    ("draw", &[]),
    ("frame-log", &["core"]),
    ("logbook", &["core", "packing"]),
    // The recorder travels inside as a file; nothing of it is called.
    ("measure", &["core", "frame-log", "present", "present-abi"]),
    ("packing", &[]),
    ("present", &["present-abi"]),
    ("present-abi", &[]),
    ("reach", &["core"]),
    ("stand-ins", &["core"]),
    ("store", &["core", "logbook"]),
    ("study", &["core"]),
    ("testkit", &[]),
    ("view", &["core", "draw"]),
];

/// The layers of core, left to right: each names none to its right, nor beside it on its line.
const LAYERS: [&[&str]; 10] = [
    &["unit", "stat"],
    &["record"],
    &["frame", "capacity", "endurance", "entry"],
    &["kind"],
    &["lab"],
    &["estimate"],
    &["judge"],
    &["finding", "claim", "value"],
    &["plan"],
    &["analysis"],
];

fn sources(folder: &Path) -> Vec<PathBuf> {
    if folder.is_file() {
        return vec![folder.to_owned()];
    }
    let entries = fs::read_dir(folder).expect("a folder of sources");
    let paths = entries.map(|entry| entry.expect("an entry").path());
    let inside = paths.flat_map(|path| if path.is_dir() { sources(&path) } else { vec![path] });
    inside.filter(|path| path.extension().is_some_and(|end| end == "rs")).collect()
}

/// Returns the words that follow `before` anywhere in `text`: names of crates or modules.
fn names<'a>(text: &'a str, before: &'a str) -> impl Iterator<Item = &'a str> {
    text.match_indices(before).map(move |(at, _)| {
        let rest = &text[at + before.len()..];
        let end = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '_').unwrap_or(rest.len());
        &rest[..end]
    })
}

#[test]
fn crates_name_only_those_below_them() {
    let found: BTreeSet<String> = fs::read_dir(CRATES)
        .expect("the crates")
        .map(|entry| entry.expect("an entry").file_name().to_string_lossy().into_owned())
        .collect();
    assert_eq!(found, ARROWS.iter().map(|(name, _)| (*name).to_owned()).collect());
    for (name, allowed) in ARROWS {
        for path in sources(&Path::new(CRATES).join(name).join("src")) {
            let text = fs::read_to_string(&path).expect("a source");
            for named in names(&text, "honest_lap_") {
                let named = named.replace('_', "-");
                // A library's own examples name itself.
                let fine = allowed.contains(&named.as_str()) || named == name;
                let in_tests = name == "packing" && named == "core";
                assert!(fine || in_tests, "{} names {named}", path.display());
            }
        }
    }
}

#[test]
fn the_layers_of_core_name_nothing_to_their_right() {
    let core = Path::new(CRATES).join("core/src");
    let folders: BTreeSet<String> = fs::read_dir(&core)
        .expect("core")
        .map(|entry| entry.expect("an entry").file_name().to_string_lossy().into_owned())
        .collect();
    let layers = LAYERS.iter().copied().flatten().map(|&layer| layer.to_owned());
    // What is of no layer: two computations at once.
    let known: BTreeSet<String> = layers.chain(["lib.rs", "both.rs"].map(str::to_owned)).collect();
    assert_eq!(folders, known, "a folder a layer, and nothing beside them");
    let mut below: Vec<&str> = vec!["both"];
    for line in LAYERS {
        for &layer in line {
            for path in sources(&core.join(layer)) {
                let text = fs::read_to_string(&path).expect("a source");
                for named in names(&text, "crate::") {
                    let fine = named == layer || below.contains(&named);
                    assert!(fine, "{} names {named}", path.display());
                }
            }
        }
        below.extend(line);
    }
}
