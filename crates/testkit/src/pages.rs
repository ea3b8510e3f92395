//! Pages of the docs with their blocks of commands.

use std::fs;
use std::path::{Path, PathBuf};

const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

/// A block of commands.
pub struct Block {
    /// The page that it stands on.
    pub page: PathBuf,
    /// Where it is run, the word behind `sh`; none in the demo's lab.
    pub place: String,
    /// Its lines.
    pub lines: Vec<String>,
}

impl Block {
    /// Returns the commands of `lap` in it, each as its words.
    pub fn commands(&self) -> Vec<Vec<String>> {
        let mut all = Vec::new();
        for line in &self.lines {
            let words = shlex::split(line).unwrap_or_else(|| panic!("no command: {line}"));
            let one = words.split(|word| word == "&&");
            let ours = one.filter(|words| words.first().is_some_and(|word| word == "lap"));
            all.extend(ours.map(|words| words[1..].to_vec()));
        }
        all
    }
}

/// Returns every page of README and guide, README first.
pub fn pages() -> Vec<PathBuf> {
    let folder = Path::new(ROOT).join("docs/guide");
    let mut pages: Vec<PathBuf> =
        fs::read_dir(folder).unwrap().map(|page| page.unwrap().path()).collect();
    pages.sort();
    pages.insert(0, Path::new(ROOT).join("README.md"));
    pages
}

/// Returns the blocks of commands on them, in order.
pub fn blocks() -> Vec<Block> {
    let mut all = Vec::new();
    for page in pages() {
        let mut block: Option<Block> = None;
        for line in fs::read_to_string(&page).unwrap().lines() {
            let begins = line
                .strip_prefix("```sh")
                .filter(|place| block.is_none() && (place.is_empty() || place.starts_with(' ')));
            match (begins, line, &mut block) {
                (Some(place), ..) => {
                    let (page, place) = (page.clone(), place.trim().to_owned());
                    block = Some(Block { page, place, lines: Vec::new() });
                }
                (None, "```", Some(_)) => all.extend(block.take()),
                (None, line, Some(block)) => block.lines.push(line.to_owned()),
                (None, ..) => {}
            }
        }
        assert!(block.is_none(), "{}: a block that does not end", page.display());
    }
    all
}
