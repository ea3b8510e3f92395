//! README and guide: every command in them is one, and those of the demo's folder run there.
//!
//! Runs for about 40 s on one core of two.

use super::hand::pressed;
use super::sheets::xlsx;
use honest_lap_testkit::{Block, CommandResult, TestEnv, blocks, pages};
use std::fmt::Write;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const ROOT: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

fn read(path: &Path) -> String {
    fs::read_to_string(path).unwrap_or_else(|err| panic!("{}: {err}", path.display()))
}

/// Returns the blocks that are run at `place`; there are some.
fn at(place: &str) -> Vec<Block> {
    let all: Vec<Block> = blocks().into_iter().filter(|block| block.place == place).collect();
    assert!(!all.is_empty(), "no block is run at {place}");
    all
}

/// Holds what a line came to for an answer: 1 is one too, as of doubts that stand.
fn answered(page: &Path, line: &str, came: &CommandResult) {
    let said = !came.stdout.is_empty() || !came.stderr.is_empty();
    assert!(matches!(came.status, Some(0 | 1)) && said, "{}: {line}: {came}", page.display());
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
fn every_block_is_run_somewhere() {
    // What needs a screen is run by the test program of screens.
    let known = ["", "build", "fresh", "hand", "logs", "rigs", "screen", "study"];
    for block in blocks() {
        assert!(known.contains(&&*block.place), "{}: {}", block.page.display(), block.place);
    }
    // The demo is run by `demo.rs`, of the tool that tests build; the other line is what CI is.
    let build: Vec<String> = at("build").into_iter().flat_map(|block| block.lines).collect();
    let command = |line: &String| line.split('#').next().unwrap_or_default().trim().to_owned();
    let build: Vec<String> = build.iter().map(command).collect();
    assert_eq!(build, ["cargo run --release -- demo", "scripts/test"]);
    let ci = read(&Path::new(ROOT).join(".ci/run"));
    assert!(ci.lines().any(|line| line == build[1]), "{ci}");
}

#[test]
fn every_command_is_one() {
    let env = TestEnv::new(LAP);
    let mut seen = 0;
    for block in blocks() {
        for words in block.commands() {
            // Whatever stands ahead of it is read first, and must be known.
            let mut args: Vec<&str> = words.iter().map(String::as_str).collect();
            args.push("--help");
            let (came, page) = (env.lap(&args), block.page.display());
            assert_eq!(came.status, Some(0), "{page}: lap {}: {came}", words.join(" "));
            seen += 1;
        }
    }
    assert!(seen > 50, "{seen}");
}

#[test]
fn what_is_shown_on_the_demo_runs_there() {
    let mut seen = 0;
    let mut last: Option<(PathBuf, TestEnv)> = None;
    for block in at("") {
        // The blocks of a page follow each other in one lab.
        let (_, env) = match last.take() {
            Some((page, env)) if page == block.page => last.insert((page, env)),
            _ => last.insert((block.page.clone(), TestEnv::harbour(LAP))),
        };
        for words in block.commands() {
            let mut args: Vec<&str> = words.iter().map(String::as_str).collect();
            args.extend(["--study", "lab"]);
            answered(&block.page, &words.join(" "), &env.lap(&args));
            seen += 1;
        }
    }
    assert!(seen > 20, "{seen}");
}

#[test]
fn a_first_study_is_made_run_and_compared_as_written() {
    for block in at("fresh") {
        let env = TestEnv::new(LAP);
        let came = env.shell(&block.lines.join("\n"));
        assert_eq!(came.status, Some(0), "{}: {came}", block.page.display());
        assert!(came.stdout.contains("pack") && env.path().join("my-study/logbook.db").exists());
    }
}

/// A study of quick work.
const STUDY: &str =
    "[study]\nlaps = 4\n[workload.nap]\nkind = \"task\"\ncommand = [\"sleep\", \"0.05\"]\n";

#[test]
fn campaigns_end_when_they_are_told_to_and_go_on() {
    for Block { page, lines, .. } in at("study") {
        let env = TestEnv::with_study(LAP, STUDY);
        for line in lines {
            if line.contains("--resume") {
                let mut run = env.start(&["run", "--laps", "40"]);
                std::thread::sleep(Duration::from_secs(1));
                let stopped = Command::new("kill").args(["-INT", &run.id().to_string()]).status();
                assert!(stopped.is_ok_and(|status| status.success()) && run.wait().is_ok());
            }
            // Two hours are for whoever has them.
            answered(&page, &line, &env.shell(&line.replace("2h", "2s")));
        }
        assert!(env.lap_ok(&["show"]).contains("3 sessions"), "the third went on");
    }
}

#[test]
fn two_rigs_are_timed_apart_and_compared_at_home() {
    for Block { page, lines, .. } in at("rigs") {
        let (home, away) = (TestEnv::with_study(LAP, STUDY), TestEnv::with_study(LAP, STUDY));
        for line in lines {
            let stick = away.path().join("logbook.db").display().to_string();
            let line = line.replace("/media/stick/wren/logbook.db", &stick);
            let env = if line.contains("--rig wren") { &away } else { &home };
            answered(&page, &line, &env.shell(&line));
        }
        assert!(home.lap_ok(&["compare"]).contains("wren"), "{}", page.display());
    }
}

#[test]
fn what_people_time_is_clocked_entered_and_taken_from_tables() {
    const BY_HAND: &str = "[study]\n[workload.window-export]\nkind = \"task\"\nby_hand = \"press Export\"\n\
         [workload.tunnel]\nkind = \"task\"\nby_hand = \"fly through it\"\n\
         [workload.layers]\nkind = \"capacity\"\nby_hand = \"play so many\"\nload = [\"half\", \"full\"]\n[rig.heron]\n[rig.wren]\n";
    let text = |place: &str, text: &str| {
        format!("<c r=\"{place}\" t=\"inlineStr\"><is><t>{text}</t></is></c>")
    };
    let rows = format!(
        "<row r=\"1\">{}{}</row><row r=\"2\">{}{}</row>",
        text("A1", "rig"),
        text("B1", "tunnel"),
        text("A2", "heron"),
        text("B2", "7:52")
    );
    for Block { page, lines, .. } in at("hand") {
        let env = TestEnv::with_study(LAP, BY_HAND);
        fs::write(env.path().join("results.xlsx"), xlsx(&rows)).expect("a workbook");
        for line in lines {
            let command = line.split('#').next().unwrap_or_default().trim();
            let Some(clock) = command.strip_prefix("lap ").filter(|c| c.starts_with("clock"))
            else {
                answered(&page, &line, &env.shell(&line));
                continue;
            };
            let keys: &[(&str, u64)] = match command.contains("layers") {
                true => &[("h", 1_500), ("b", 350), ("q", 350)],
                false => &[(" ", 1_500), (" ", 1_200), ("q", 300)],
            };
            let said = pressed(&env, clock, keys);
            assert!(!said.is_empty(), "{line}");
        }
        let shown = env.lap_ok(&["show"]);
        assert!(shown.contains("heron") && shown.contains("wren"), "{shown}");
    }
}

/// Returns a log of 30 s at 60 frames a second, another for each number.
fn log(number: u32) -> String {
    let mut text = "frame_ms\n".to_owned();
    for frame in 0..1_800 {
        let _ = writeln!(text, "{:.3}", 16.6 + f64::from((frame * number) % 7) / 10.0);
    }
    text
}

#[test]
fn logs_are_imported_trimmed_compared_and_drawn() {
    const FRAMES: &str = "[study]\n[workload.fly-through]\nkind = \"frames\"\nby_hand = \"fly\"\nrefresh = \"60 Hz\"\n[rig.heron]\n[rig.kestrel]\n[rig.wren]\n";
    for Block { page, lines, .. } in at("logs") {
        let env = TestEnv::with_study(LAP, FRAMES);
        let names = ["rings", "rings-1", "rings-2", "rings-3", "heron", "kestrel"];
        for (number, name) in (1..).zip(names) {
            env.write(&format!("{name}.csv"), &log(number));
        }
        for rig in ["heron", "kestrel"] {
            env.lap_ok(&["import", &format!("{rig}.csv"), "--rig", rig]);
        }
        for line in lines {
            answered(&page, &line, &env.shell(&line));
        }
        assert!(env.path().join("two.png").exists() && env.lap_ok(&["frames"]).contains("cut"));
    }
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
