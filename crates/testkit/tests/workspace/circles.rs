//! No file of a crate imports another that imports it, directly or by others.
//!
//! Runs in under a second.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

const CRATES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/..");

/// A module's path below its crate: `judge::table` is `["judge", "table"]`.
type Module = Vec<String>;

/// A crate's source files by module, each without its tests.
fn files(src: &Path) -> BTreeMap<Module, String> {
    fn collect(folder: &Path, module: &Module, all: &mut BTreeMap<Module, String>) {
        for entry in fs::read_dir(folder).expect("a folder of sources") {
            let path: PathBuf = entry.expect("an entry").path();
            let name = path.file_stem().expect("a name").to_string_lossy().into_owned();
            let inside = [module.clone(), vec![name.clone()]].concat();
            if path.is_dir() {
                collect(&path, &inside, all);
            } else if path.extension().is_some_and(|end| end == "rs") && !name.ends_with("tests") {
                let text = fs::read_to_string(&path).expect("a source");
                let own = text.split("#[cfg(test)]\nmod ").next().unwrap_or_default();
                let is_face = ["mod", "lib", "main"].contains(&name.as_str());
                all.insert(if is_face { module.clone() } else { inside }, own.to_owned());
            }
        }
    }
    let mut all = BTreeMap::new();
    collect(src, &Module::new(), &mut all);
    all
}

/// Returns every path that the `use` lines of `text` name, braces taken apart.
fn imports(text: &str) -> Vec<Vec<String>> {
    fn expand(prefix: &[String], rest: &str, all: &mut Vec<Vec<String>>) {
        let rest = rest.trim();
        match rest.split_once('{') {
            Some((head, tail)) if !head.contains(',') => {
                let head = head.split("::").map(str::trim).filter(|part| !part.is_empty());
                let prefix = [prefix, &head.map(str::to_owned).collect::<Vec<_>>()].concat();
                let inside = &tail[..tail.rfind('}').unwrap_or(tail.len())];
                let (mut depth, mut from) = (0, 0);
                for (at, c) in inside.char_indices().chain([(inside.len(), ',')]) {
                    match c {
                        '{' => depth += 1,
                        '}' => depth -= 1,
                        ',' if depth == 0 => {
                            expand(&prefix, &inside[from..at], all);
                            from = (at + 1).min(inside.len());
                        }
                        _ => {}
                    }
                }
            }
            _ if rest.is_empty() => {}
            _ => {
                let name = rest.split(" as ").next().unwrap_or_default();
                let parts = name.split("::").map(|part| part.trim().to_owned());
                all.push(prefix.iter().cloned().chain(parts).collect());
            }
        }
    }
    let mut all = Vec::new();
    let mut lines = text.lines();
    while let Some(line) = lines.next() {
        let Some(at) = line.find("use ").filter(|at| {
            let before = line[..*at].trim();
            before.is_empty() || before.starts_with("pub")
        }) else {
            continue;
        };
        let mut statement = line[at + 4..].to_owned();
        while !statement.contains(';') {
            let Some(more) = lines.next() else { break };
            statement.push_str(more.trim());
        }
        expand(&[], statement.split(';').next().unwrap_or_default(), &mut all);
    }
    all
}

/// Returns the file that `path`, written in `from`, leads to: through the faces of folders to where the name is defined.
fn target(
    from: &Module,
    path: &[String],
    files: &BTreeMap<Module, String>,
    depth: usize,
) -> Option<Module> {
    let (mut module, rest) = match path.first()?.as_str() {
        "crate" => (Module::new(), &path[1..]),
        "super" => {
            let ups = path.iter().take_while(|part| *part == "super").count();
            (from[..from.len().checked_sub(ups)?].to_vec(), &path[ups..])
        }
        _ => {
            let inside = [from.clone(), vec![path[0].clone()]].concat();
            if !files.contains_key(&inside) {
                return None;
            }
            let whole = ["crate".to_owned()].into_iter().chain(from.clone()).chain(path.to_vec());
            return target(from, &whole.collect::<Vec<_>>(), files, depth + 1);
        }
    };
    let mut rest = rest;
    while let Some(part) = rest.first() {
        let inside = [module.clone(), vec![part.clone()]].concat();
        if !files.contains_key(&inside) {
            break;
        }
        (module, rest) = (inside, &rest[1..]);
    }
    // A name that a face hands on.
    let text = files.get(&module)?;
    if let (Some(name), true) = (rest.first(), depth < 8) {
        let handed = imports(text)
            .into_iter()
            .find(|import| import.last() == Some(name) && import.len() > 1);
        if let Some(found) = handed.and_then(|import| target(&module, &import, files, depth + 1)) {
            return Some(found);
        }
    }
    Some(module)
}

#[test]
fn no_file_imports_one_that_imports_it() {
    let mut circles = Vec::new();
    for entry in fs::read_dir(CRATES).expect("the crates") {
        let krate = entry.expect("an entry").path();
        let files = files(&krate.join("src"));
        let is_face = |module: &Module| {
            module.is_empty()
                || files.keys().any(|other| other.len() > module.len() && other.starts_with(module))
        };
        let mut below: BTreeMap<&Module, BTreeSet<Module>> = BTreeMap::new();
        for (module, text) in &files {
            // A face that only hands names on stands for its folder, and not for itself.
            if is_face(module) && !text.contains("fn ") {
                continue;
            }
            let targets =
                imports(text).into_iter().filter_map(|path| target(module, &path, &files, 0));
            below.insert(module, targets.filter(|found| found != module).collect());
        }
        for start in below.keys() {
            // Everything that is reached from it.
            let (mut seen, mut next) = (BTreeSet::new(), vec![(*start).clone()]);
            while let Some(module) = next.pop() {
                for found in below.get(&module).into_iter().flatten() {
                    if seen.insert(found.clone()) {
                        next.push(found.clone());
                    }
                }
            }
            if seen.contains(*start) {
                let direct: Vec<String> = below[*start]
                    .iter()
                    .filter(|m| seen.contains(*m))
                    .map(|m| m.join("::"))
                    .collect();
                let name = krate.file_name().unwrap_or_default().to_string_lossy().into_owned();
                circles.push(format!("{name}: {} (to {})", start.join("::"), direct.join(", ")));
            }
        }
    }
    assert!(circles.is_empty(), "imports run in circles:\n{}", circles.join("\n"));
}

#[test]
fn use_lines_are_read_whole() {
    let text = "use super::{a::B, c::{D, E as F}};\npub use crate::g::H;\nlet use_it = 1;";
    let found: Vec<String> = imports(text).iter().map(|path| path.join("::")).collect();
    assert_eq!(found, ["super::a::B", "super::c::D", "super::c::E", "crate::g::H"]);
}
