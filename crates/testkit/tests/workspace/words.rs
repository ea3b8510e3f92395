//! Plain words: what may stand in no output, no help text and no page of the docs.
//!
//! The reference of commands holds every help text; string literals of the crates hold every other word that is printed.

use std::fs;
use std::path::{Path, PathBuf};

const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

/// Each with what is said in its place. A word stands for itself and not for a part of another.
const NOT_SAID: [(&str, &str); 34] = [
    ("in no one's time", "not counted"),
    ("held back by", "limited by"),
    ("luck of a day", "between-session variation"),
    ("day-to-day spread", "between-session variation"),
    ("typical lap", "typical"),
    ("settle it", "resolve it"),
    ("would settle", "would resolve"),
    ("nothing beside it", "nothing to compare with"),
    ("taken in", "imported"),
    ("take in", "import"),
    ("takes in", "imports"),
    ("twice is once", "importing again changes nothing"),
    ("known least", "least certain"),
    ("known this well", "to this precision"),
    ("gone on with", "resumed"),
    ("was put right", "was corrected"),
    ("no other beats it", "not beaten on both"),
    ("never paid by that", "never pays for itself"),
    ("nearest to it and true", "closest supported claim"),
    ("may do so by chance", "may differ by chance"),
    ("leaves out 1", "excludes 1"),
    ("leave out 1", "exclude 1"),
    ("long haul", "endurance run"),
    ("long hauls", "endurance runs"),
    ("sitting", "session"),
    ("who is ahead, by how much", "compare rigs"),
    ("spoil a lap", "distort a measurement"),
    ("only what the laps support", "only what the data supports"),
    ("drive laps", "run laps"),
    ("drives laps", "runs laps"),
    ("driving laps", "running laps"),
    ("never driven", "not run"),
    ("were driven", "were run"),
    ("is driven", "is run"),
];

#[test]
fn every_word_that_a_person_reads_is_a_plain_one() {
    let mut said = Vec::new();
    for (path, text) in pages().into_iter().chain(literals()) {
        let lower = text.to_lowercase();
        for (words, instead) in NOT_SAID {
            if lower.match_indices(words).any(|(at, _)| stands_alone(&lower, at, words)) {
                said.push(format!(
                    "{}: `{words}`, say `{instead}`: {}",
                    path.display(),
                    text.trim()
                ));
            }
        }
    }
    assert!(said.is_empty(), "{}", said.join("\n"));
}

/// What only results say.
const OF_RESULTS: [&str; 12] = [
    "too close to call",
    "no verdict",
    "same within",
    "not comparable",
    "excludes 1",
    "may differ by chance",
    "could change",
    "to resolve",
    "is ahead of",
    "is behind",
    "is faster",
    "is slower",
];

#[test]
fn no_sentence_of_a_result_is_made_outside_view() {
    let outside = |path: &Path| {
        let parts: Vec<&str> = path.iter().filter_map(|part| part.to_str()).collect();
        // The sentences that people may ask about are read in core: they are a grammar, and no answer.
        let grammar =
            path.ends_with("core/src/claim") || parts.windows(2).any(|at| at == ["src", "claim"]);
        // What a key of a study is for is a page, and no answer either.
        let page = parts.windows(3).any(|at| at == ["study", "src", "keys"]);
        !parts.contains(&"view") && !grammar && !page
    };
    let mut found = Vec::new();
    // Examples of what to ask are no answers.
    let wanted = |(path, said): &(PathBuf, String)| outside(path) && !said.starts_with("Examples:");
    for (path, said) in literals().into_iter().filter(wanted) {
        let lower = said.to_lowercase();
        for words in OF_RESULTS.into_iter().filter(|words| lower.contains(words)) {
            found.push(format!("{}: `{words}`: {said}", path.display()));
        }
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
    let inside =
        |(path, said): &(PathBuf, String)| !outside(path) && said.contains("too close to call");
    assert!(literals().iter().any(inside), "they are made in view");
}

#[test]
fn a_word_is_found_and_a_part_of_another_is_not() {
    let alone = |text: &str, words: &str| {
        text.match_indices(words).any(|(at, _)| stands_alone(text, at, words))
    };
    assert!(alone("all laps were driven here", "were driven"));
    assert!(!alone("a visiting rig", "sitting") && alone("one sitting, two", "sitting"));
    assert_eq!(in_quotes("let a = \"x y\"; // \"z z\"\nlet b = \"one\";"), ["x y"]);
    assert_eq!(prose("say `were driven`\n```\nis driven\n```\nend"), "say \n\nend");
}

fn stands_alone(text: &str, at: usize, words: &str) -> bool {
    let is_letter = |c: Option<char>| c.is_some_and(char::is_alphabetic);
    !is_letter(text[..at].chars().next_back())
        && !is_letter(text[at + words.len()..].chars().next())
}

/// Returns every page of the docs, and README, without what is code.
fn pages() -> Vec<(PathBuf, String)> {
    let mut paths = vec![Path::new(ROOT).join("README.md")];
    files(&Path::new(ROOT).join("docs"), "md", &mut paths);
    // Studies that `lap init` writes are read by everybody who begins.
    files(&Path::new(ROOT).join("crates/cli/templates"), "toml", &mut paths);
    assert!(paths.len() > 8, "the docs are there: {paths:?}");
    let read = |path: PathBuf| {
        let text = fs::read_to_string(&path).expect("a page is text");
        // Help texts are what is printed, every word of them.
        let text = if path.ends_with("commands.md") { text } else { prose(&text) };
        text.lines().map(|line| (path.clone(), line.to_owned())).collect::<Vec<_>>()
    };
    paths.into_iter().flat_map(read).collect()
}

/// Returns `text` without fenced blocks and without what stands between backticks.
fn prose(text: &str) -> String {
    let mut out = String::new();
    for (place, part) in text.split("```").enumerate() {
        if place % 2 == 0 {
            out.extend(part.split('`').step_by(2));
        }
    }
    out
}

/// Returns what the crates print: string literals of several words.
fn literals() -> Vec<(PathBuf, String)> {
    let mut paths = Vec::new();
    for entry in fs::read_dir(Path::new(ROOT).join("crates")).expect("the crates are there") {
        files(&entry.expect("an entry").path().join("src"), "rs", &mut paths);
    }
    let of = |path: PathBuf| {
        let text = fs::read_to_string(&path).expect("a source is text");
        // Tests stand at the foot of a file, or in one of their own.
        let name = path.file_stem().map(|name| name.to_string_lossy().into_owned());
        let is_test = name.is_some_and(|name| name == "tests" || name.ends_with("_tests"));
        let own = text.split("#[cfg(test)]\nmod tests {").next().filter(|_| !is_test);
        in_quotes(own.unwrap_or_default())
            .into_iter()
            .map(|said| (path.clone(), said))
            .collect::<Vec<_>>()
    };
    let all: Vec<(PathBuf, String)> = paths.into_iter().flat_map(of).collect();
    assert!(all.len() > 1_000, "sources have literals: {}", all.len());
    all
}

/// Returns the string literals of a source that hold a blank, each in one line.
fn in_quotes(source: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut chars = source.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '/' if chars.peek() == Some(&'/') => while chars.next().is_some_and(|c| c != '\n') {},
            // A quoted character, or the name of a lifetime.
            '\'' => {
                let mut ahead = chars.clone();
                let escaped = ahead.next() == Some('\\');
                if escaped {
                    ahead.next();
                }
                while escaped && ahead.peek().is_some_and(|c| *c != '\'') {
                    ahead.next();
                }
                if ahead.next() == Some('\'') {
                    chars = ahead;
                }
            }
            '"' => {
                let mut said = String::new();
                while let Some(c) = chars.next() {
                    match c {
                        '"' => break,
                        '\\' => match chars.next() {
                            Some('\n') => {
                                while chars.peek().is_some_and(|c| c.is_whitespace()) {
                                    chars.next();
                                }
                            }
                            Some('n') => said.push('\n'),
                            Some(other) => said.push(other),
                            None => break,
                        },
                        c => said.push(c),
                    }
                }
                if said.contains(' ') {
                    found.push(said);
                }
            }
            _ => {}
        }
    }
    found
}

fn files(folder: &Path, extension: &str, found: &mut Vec<PathBuf>) {
    let Ok(entries) = fs::read_dir(folder) else { return };
    for path in entries.flatten().map(|entry| entry.path()) {
        if path.is_dir() {
            files(&path, extension, found);
        } else if path.extension().is_some_and(|is| is == extension) {
            found.push(path);
        }
    }
}
