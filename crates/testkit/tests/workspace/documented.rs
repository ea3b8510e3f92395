//! What core works out says of what shape and in what units, where it fails, and after whom.

use super::homes::sources;
use std::fs;
use std::path::{Path, PathBuf};

const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

/// A public function with what stands above it.
struct Function {
    name: String,
    doc: String,
    signature: String,
}

/// Returns the public functions of a source, without those of its tests.
fn functions(source: &str) -> Vec<Function> {
    let source = source.split("#[cfg(test)]\nmod tests").next().unwrap_or_default();
    let lines: Vec<&str> = source.lines().map(str::trim).collect();
    let mut all = Vec::new();
    for (at, line) in lines.iter().enumerate() {
        let Some(rest) = line.strip_prefix("pub fn ").or(line.strip_prefix("pub const fn ")) else {
            continue;
        };
        let above = lines[..at].iter().rev();
        let above = above.take_while(|line| line.starts_with("///") || line.starts_with("#["));
        let doc: Vec<&str> = above.copied().filter(|line| line.starts_with("///")).collect();
        let behind = lines[at..].iter().take(20).copied().collect::<Vec<_>>().join(" ");
        all.push(Function {
            name: rest.split(['(', '<']).next().unwrap_or_default().to_owned(),
            doc: doc.into_iter().rev().collect::<Vec<_>>().join("\n"),
            signature: behind.split(" {").next().unwrap_or_default().to_owned(),
        });
    }
    all
}

/// Returns what the words above `function` leave out; a grammar of text is no formula.
fn left_out(function: &Function, is_grammar: bool) -> Vec<&'static str> {
    let Function { doc, signature, .. } = function;
    let result = signature.split("->").nth(1).unwrap_or_default();
    let formula = doc.contains("```text") && !is_grammar;
    let series = signature.contains("&[f64]") || signature.contains("[Vec<f64>]");
    let wanted = [
        ("Errors", result.contains("Result<")),
        ("Units", formula),
        ("Source", formula),
        ("Shape", series),
        ("Returns", !doc.contains("///")),
    ];
    let missing = wanted.into_iter().filter(|(word, wanted)| *wanted && !doc.contains(word));
    missing.map(|(word, _)| word).collect()
}

#[test]
fn every_function_of_core_says_what_it_takes_and_gives() {
    let mut all = Vec::new();
    sources(&Path::new(ROOT).join("crates/core/src"), &mut all);
    let is_grammar = |path: &PathBuf| {
        path.components().any(|part| ["unit", "claim"].iter().any(|of| part.as_os_str() == *of))
    };
    let (mut missing, mut seen) = (Vec::new(), 0);
    for path in &all {
        for function in functions(&fs::read_to_string(path).expect("a source")) {
            seen += 1;
            let out = left_out(&function, is_grammar(path));
            if !out.is_empty() {
                missing.push(format!("{}: {}: {}", path.display(), function.name, out.join(", ")));
            }
        }
    }
    assert!(seen > 400, "{seen}");
    assert!(missing.is_empty(), "{}", missing.join("\n"));
}

#[test]
fn what_is_left_out_is_found() {
    let source = "/// Returns x.\n///\n/// ```text\n/// a = b\n/// ```\n#[must_use]\npub fn x(\n    v: &[f64],\n) -> Result<f64, E> {\n}\npub fn y() {}\n";
    let found = functions(source);
    assert_eq!(found.len(), 2);
    assert_eq!(left_out(&found[0], false), ["Errors", "Units", "Source", "Shape"]);
    assert_eq!(left_out(&found[0], true), ["Errors", "Shape"]);
    assert_eq!(left_out(&found[1], false), ["Returns"]);
}
