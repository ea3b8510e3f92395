//! Where things live: what ARCHITECTURE.md says of a new one is true of those that are there.
//!
//! Runs in under a second.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};

const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

pub(super) fn sources(folder: &Path, all: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).expect("a folder of sources") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            sources(&path, all);
        } else if path.extension().is_some_and(|end| end == "rs") {
            all.push(path);
        }
    }
}

/// Returns the files of all crates, without their tests, that have `word` in them.
fn naming(word: &str) -> BTreeSet<String> {
    let mut all = Vec::new();
    for entry in fs::read_dir(Path::new(ROOT).join("crates")).expect("the crates") {
        sources(&entry.expect("a crate").path().join("src"), &mut all);
    }
    let names = |path: &PathBuf| {
        let text = fs::read_to_string(path).expect("a source");
        let own = text.split("#[cfg(test)]\nmod tests").next().unwrap_or_default();
        own.contains(word) && !path.to_string_lossy().ends_with("tests.rs")
    };
    let crates = Path::new(ROOT).join("crates");
    let short = |path: PathBuf| {
        path.strip_prefix(&crates).expect("it is in a crate").to_string_lossy().into_owned()
    };
    all.into_iter().filter(names).map(short).collect()
}

fn set(files: &[&str]) -> BTreeSet<String> {
    files.iter().map(|&file| file.to_owned()).collect()
}

#[test]
fn a_finding_is_one_file_a_variant_and_its_words() {
    let files = [
        "core/src/finding/doubt.rs",
        "core/src/finding/swapped.rs",
        "view/src/words/finding/concerned.rs",
        "view/src/words/finding/name.rs",
        "view/src/words/finding/resolve.rs",
        "view/src/words/finding/seen.rs",
    ];
    assert_eq!(
        naming("Doubt::Swapped").union(&naming(" Swapped {")).cloned().collect::<BTreeSet<_>>(),
        set(&files)
    );
    // And one line in the list of those that are looked for.
    assert_eq!(naming("swapped::find"), set(&["core/src/finding/mod.rs"]));
}

#[test]
fn a_measure_of_a_pass_is_one_line_of_its_table() {
    assert_eq!(naming("\"late frames\""), set(&["core/src/frame/measures.rs"]));
}

#[test]
fn every_path_that_whoever_adds_something_is_sent_to_is_there() {
    let read = |page| fs::read_to_string(Path::new(ROOT).join(page)).expect("it is there");
    let text = [read("ARCHITECTURE.md"), read("CONTRIBUTING.md")].join("\n");
    let quoted = text.split('`').skip(1).step_by(2);
    let is_path = |word: &&str| {
        word.contains("/src") || word.contains("/tests") || word.starts_with("crates/")
    };
    let mut missing = Vec::new();
    for path in quoted.filter(is_path) {
        let path = path.split(' ').next().unwrap_or_default();
        let below =
            if path.starts_with("crates/") { path.to_owned() } else { format!("crates/{path}") };
        if !Path::new(ROOT).join(&below).exists() {
            missing.push(path.to_owned());
        }
    }
    assert!(missing.is_empty(), "{missing:?}");
}

#[test]
fn a_file_over_400_lines_says_why() {
    let mut all = Vec::new();
    sources(&Path::new(ROOT).join("crates"), &mut all);
    let unsaid = |path: &&PathBuf| {
        let text = fs::read_to_string(path).expect("a source");
        text.lines().count() > 400
            && !text.lines().take(12).any(|line| line.starts_with("//! Long, since "))
    };
    let long: Vec<&PathBuf> = all.iter().filter(unsaid).collect();
    assert!(all.len() > 400 && long.is_empty(), "{long:?}");
}

#[test]
fn no_file_of_core_is_over_400_lines() {
    let mut all = Vec::new();
    sources(&Path::new(ROOT).join("crates/core/src"), &mut all);
    let lines = |path: &PathBuf| fs::read_to_string(path).expect("a source").lines().count();
    let long: Vec<String> = all
        .iter()
        .filter(|path| lines(path) > 400)
        .map(|path| format!("{}: {}", path.display(), lines(path)))
        .collect();
    assert!(long.is_empty(), "{long:?}");
}
