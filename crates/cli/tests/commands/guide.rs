//! README and guide: every command in them is one, and those of the demo's folder run there.
//!
//! Runs for about 10 s on one core of two.

use honest_lap_testkit::TestEnv;
use std::fs;
use std::path::{Path, PathBuf};

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

fn read(path: &Path) -> String {
    fs::read_to_string(path).unwrap_or_else(|err| panic!("{}: {err}", path.display()))
}

/// Returns every page, README first.
fn pages() -> Vec<PathBuf> {
    let folder = Path::new(ROOT).join("docs/guide");
    let mut pages: Vec<PathBuf> =
        fs::read_dir(folder).expect("the guide").map(|page| page.expect("a page").path()).collect();
    pages.sort();
    pages.insert(0, Path::new(ROOT).join("README.md"));
    pages
}

/// Returns the commands of a page's blocks, each with whether it runs in the demo's folder.
fn commands(text: &str) -> Vec<(bool, Vec<String>)> {
    let mut all = Vec::new();
    let mut block = None;
    for line in text.lines() {
        match (line, block) {
            ("```sh", None) => block = Some(true),
            ("```sh elsewhere", None) => block = Some(false),
            ("```", Some(_)) => block = None,
            (line, Some(here)) => {
                let words = shlex::split(line).unwrap_or_else(|| panic!("no command: {line}"));
                let one = words
                    .split(|word| word == "&&")
                    .filter(|words| words.first().is_some_and(|w| w == "lap"));
                all.extend(one.map(|words| (here, words[1..].to_vec())));
            }
            _ => {}
        }
    }
    assert_eq!(block, None, "a block that does not end");
    all
}

#[test]
fn the_readme_is_short_and_shows_every_picture() {
    let text = read(&pages()[0]);
    let words = text.split_whitespace().count();
    assert!(words <= 700, "{words} words");
    for picture in fs::read_dir(Path::new(ROOT).join("docs/screenshots")).expect("pictures") {
        let name = picture.expect("a picture").file_name().into_string().expect("a name");
        assert!(text.contains(&format!("docs/screenshots/{name}")), "{name}");
    }
}

#[test]
fn every_link_leads_somewhere() {
    let mut links = 0;
    for page in pages() {
        let text = read(&page);
        let targets = text.split("](").skip(1).filter_map(|rest| rest.split(')').next());
        for target in targets.filter(|target| !target.contains("://")) {
            let file = target.split('#').next().unwrap_or_default();
            let path = page.parent().expect("a folder").join(file);
            assert!(path.exists(), "{}: {target}", page.display());
            links += 1;
        }
    }
    assert!(links > 60, "{links}");
    let contents = read(&Path::new(ROOT).join("docs/guide/README.md"));
    for page in &pages()[1..] {
        let name = page.file_name().and_then(|name| name.to_str()).expect("a name");
        assert!(name == "README.md" || contents.contains(name), "{name}");
    }
}

#[test]
fn every_command_is_one() {
    let env = TestEnv::new(LAP);
    let mut seen = 0;
    for page in pages() {
        for (_, words) in commands(&read(&page)) {
            // Whatever stands ahead of it is read first, and must be known.
            let mut args: Vec<&str> = words.iter().map(String::as_str).collect();
            args.push("--help");
            let came = env.lap(&args);
            assert_eq!(came.status, Some(0), "{}: lap {}: {came}", page.display(), words.join(" "));
            seen += 1;
        }
    }
    assert!(seen > 50, "{seen}");
}

#[test]
fn what_is_shown_on_the_demo_runs_there() {
    let mut seen = 0;
    for page in pages() {
        let all = commands(&read(&page));
        if !all.iter().any(|(here, _)| *here) {
            continue;
        }
        let env = TestEnv::harbour(LAP);
        for (_, words) in all.into_iter().filter(|(here, _)| *here) {
            let mut args: Vec<&str> = words.iter().map(String::as_str).collect();
            args.extend(["--study", "lab"]);
            let came = env.lap(&args);
            // 1 is an answer: a claim that does not hold, doubts that stand.
            let answered = matches!(came.status, Some(0 | 1))
                && !came.stdout.is_empty() | !came.stderr.is_empty();
            assert!(answered, "{}: lap {}: {came}", page.display(), words.join(" "));
            seen += 1;
        }
    }
    assert!(seen > 20, "{seen}");
}

#[test]
fn help_prints_pages_commands_and_keys() {
    let env = TestEnv::new(LAP);
    let all = env.lap_ok(&["help"]);
    assert!(all.contains("Usage: lap") && all.contains("compiles-in-ci"), "{all}");
    for page in pages().iter().skip(1) {
        let topic = page.file_stem().and_then(|name| name.to_str()).expect("a name");
        if topic == "README" {
            continue;
        }
        assert!(all.contains(topic), "{topic} is not listed");
        let text = env.lap_ok(&["help", topic]);
        let title = read(page).lines().next().expect("a title").replace("# ", "");
        assert!(text.starts_with(&title), "{topic}: {text}");
        let wide: Vec<&str> = text
            .lines()
            .filter(|line| !line.starts_with("    ") && line.chars().count() > 100)
            .collect();
        assert!(wide.is_empty(), "{topic} is wider than the terminal: {wide:?}");
    }
    assert_eq!(env.lap_ok(&["help", "battery"]), env.lap_ok(&["help", "battery-and-heat"]));
    assert_eq!(env.lap_ok(&["help", "store", "init"]), env.lap_ok(&["store", "init", "--help"]));
    let rest = env.lap_ok(&["help", "rest"]);
    assert!(rest.contains("In [study]") && rest.contains("In [workload.NAME]"), "{rest}");
    let one = env.lap_ok(&["help", "workload.rest"]);
    assert!(!one.contains("In [study]") && one.contains("until_below"), "{one}");
    let unknown = env.lap(&["help", "gams"]);
    insta::assert_snapshot!(unknown, @"
    ! error: there is no help on `gams`
    ! help: did you mean `lap help games`?
    [exit status: 2]
    ");
}
