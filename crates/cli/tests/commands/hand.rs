//! Readings and times made by hand, and what people say of laps.
//!
//! Runs for about 3 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::TestEnv;
use std::io::Write;
use std::process::Stdio;
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "[study]\n\
    [workload.window-export]\nkind = \"task\"\nby_hand = \"press Export\"\n\
    vary = { encoder = [\"hardware\", \"software\"] }\n\
    [workload.suite]\nkind = \"score\"\nby_hand = \"read its result page\"\n\
    readings = [{ name = \"score\", unit = \"points\", better = \"more\" }]\n\
    [rig.heron]\n[rig.wren]\n";

fn with_stdin(env: &TestEnv, args: &[&str], input: &str) -> std::process::Output {
    let mut child = env
        .command(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(input.as_bytes()).unwrap();
    child.wait_with_output().unwrap()
}

#[test]
fn values_are_taken_in_as_laps_with_who_read_them_and_how_well() {
    let env = TestEnv::with_study(LAP, STUDY);
    env.lap_ok(&[
        "enter",
        "window-export",
        "--rig",
        "heron",
        "--with",
        "encoder=hardware",
        "3:02.4",
        "182,1 s",
        "3m03",
        "--by",
        "Ada",
        "--from",
        "the editor's clock",
    ]);
    let shown = env.lap_ok(&["show", "heron-1"]);
    assert!(shown.contains("Read by hand by Ada, from the editor's clock."), "{shown}");
    let lap = env.lap_ok(&["show", "heron-1.1"]);
    assert!(lap.contains("read to the nearest") && lap.contains("100 ms"), "{lap}");
    let csv = env.lap_ok(&["show", "heron-1", "--format", "csv"]);
    assert!(csv.contains(",182400000000,") && csv.contains(",182100000000,"), "{csv}");
    env.lap_ok(&["enter", "suite", "--rig", "wren", "8120", "8133", "8097"]);
    let compared = env.lap_ok(&["compare", "suite"]);
    assert!(compared.contains("suite · score") && compared.contains("[points]"), "{compared}");
    assert_eq!(env.lap_ok(&["verify"]).matches("as it was written").count(), 2);
    assert!(
        env.lap(&["run", "--rig", "heron"]).stderr.contains("lap clock window-export"),
        "a run leaves them to people"
    );
}

#[test]
fn a_pasted_table_becomes_laps_of_several_rigs_all_or_nothing() {
    let env = TestEnv::with_study(LAP, STUDY);
    let table = "rig\tworkload\tencoder\ttime [s]\tscore\n\
                 heron\twindow-export\thardware\t182,4\t\n\
                 wren\tsuite\t\t\t8,120.5\n";
    let came = with_stdin(&env, &["enter", "--table", "-"], table);
    assert!(came.status.success(), "{came:?}");
    assert!(env.lap_ok(&["show"]).contains("2 sessions on 2 rigs: 2 laps counted"));
    let bad = format!("{table}wren\twindow-export\tturbo\t100\t\n");
    let came = with_stdin(&env, &["enter", "--table", "-"], &bad);
    assert_eq!(came.status.code(), Some(2));
    let said = String::from_utf8_lossy(&came.stderr).into_owned();
    assert!(said.contains("C4: `turbo` is no value of `encoder`; nothing was recorded"), "{said}");
    assert!(env.lap_ok(&["show"]).contains("2 sessions on 2 rigs: 2 laps counted"));
}

#[test]
fn a_slipped_digit_is_questioned_and_taken_only_when_confirmed() {
    let env = TestEnv::with_study(LAP, STUDY);
    let enter = |values: &[&str]| {
        let args = ["enter", "window-export", "--rig", "heron", "--with", "encoder=hardware"];
        env.lap(&[&args[..], values].concat())
    };
    assert_eq!(enter(&["3:02", "3:04"]).status, Some(0));
    let asked = enter(&["3:03", "30:20"]);
    assert_eq!(asked.status, Some(2));
    assert!(
        asked.stderr.contains("value 2, time on heron: 30.33 min is 10 times off its neighbours"),
        "{asked}"
    );
    assert!(
        env.lap_ok(&["show"]).contains("1 session on 1 rig: 2 laps counted"),
        "nothing was taken"
    );
    assert_eq!(enter(&["30:20", "--sure"]).status, Some(0));
    let slip = env.lap(&["enter", "suite", "--rig", "herron", "812"]);
    assert!(slip.stderr.contains("no rig is called `herron`"), "{slip}");
}

/// Runs the tool at a terminal of its own, which `script` gives it, and presses keys, each after so many milliseconds.
pub(super) fn pressed(env: &TestEnv, command: &str, keys: &[(&str, u64)]) -> String {
    let mut child = std::process::Command::new("script")
        .args(["-qec", &format!("{LAP} {command}"), "/dev/null"])
        .current_dir(env.path())
        .env("TERM", "xterm")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    let mut terminal = child.stdin.take().unwrap();
    for (key, wait) in keys {
        std::thread::sleep(Duration::from_millis(*wait));
        terminal.write_all(key.as_bytes()).unwrap();
        terminal.flush().unwrap();
    }
    drop(terminal);
    let out = child.wait_with_output().unwrap();
    let said = String::from_utf8_lossy(&out.stdout).into_owned();
    assert!(out.status.success(), "{said}");
    said
}

#[test]
fn a_stopwatch_records_laps_splits_and_voids_as_they_happen() {
    let env = TestEnv::with_study(LAP, STUDY);
    let clock = "clock window-export --rig heron --with encoder=software --by Ada";
    let keys = [
        (" ", 700),
        ("s", 300),
        (" ", 200),
        (" ", 200),
        (" ", 300),
        ("v", 200),
        (" ", 200),
        ("f", 300),
        (" ", 200),
        ("q", 300),
    ];
    pressed(&env, clock, &keys);
    let csv = env.lap_ok(&["show", "heron-1", "--format", "csv"]);
    let lines: Vec<&str> = csv.lines().skip(1).collect();
    assert_eq!(lines.len(), 4, "{csv}");
    assert!(lines[2].contains("failed"), "{csv}");
    assert!(lines[0].contains("part-1") && lines[0].contains("part-2"), "{csv}");
    assert!(lines[3].contains("interrupted"), "the lap under way at the end is given up: {csv}");
    let shown = env.lap_ok(&["show", "heron-1"]);
    assert!(shown.contains("Timed by hand with the tool's stopwatch by Ada."), "{shown}");
    assert!(shown.contains("heron-1.2, set aside") && shown.contains("1 lap counted"), "{shown}");
    let lap = env.lap_ok(&["show", "heron-1.1"]);
    assert!(lap.contains("read to the nearest") && lap.contains("200 ms"), "{lap}");
    assert_eq!(
        env.lap(&["clock", "window-export", "--rig", "heron"]).status,
        Some(2),
        "which variant?"
    );
}

#[test]
fn a_lap_is_set_aside_with_a_reason_and_taken_back_and_stays_on_record() {
    let env = TestEnv::with_study(LAP, STUDY);
    env.lap_ok(&["enter", "suite", "--rig", "wren", "8120", "8133", "8097", "7000"]);
    env.lap_ok(&["set-aside", "wren-1.4", "--why", "another window covered it"]);
    let compared = env.lap_ok(&["compare"]);
    assert!(compared.contains("Not counted: wren 1 lap (set aside)"), "{compared}");
    let lap = env.lap_ok(&["show", "wren-1.4"]);
    assert!(
        lap.contains("not counted: set aside") && lap.contains("another window covered it"),
        "{lap}"
    );
    insta::assert_snapshot!(env.lap(&["set-aside", "wren-1.4", "--why", "again"]), @"
    ! error: wren-1.4 is set aside already: another window covered it
    ! help: take it back first with --take-back, to give another reason
    [exit status: 2]
    ");
    assert_eq!(env.lap(&["set-aside", "wren-1.9", "--why", "x"]).status, Some(2));
    env.lap_ok(&["set-aside", "wren-1.4", "--take-back", "--why", "it was the other monitor"]);
    assert!(env.lap_ok(&["compare", "--format", "csv"]).contains(",4,0,"), "it counts again");
    env.lap_ok(&["note", "suite", "--felt", "smooth"]);
    env.lap_ok(&["note", "wren-1", "window open"]);
    assert!(env.lap_ok(&["compare"]).contains("How it felt: smooth"));
    assert!(env.lap_ok(&["show", "wren-1"]).contains("window open"));
    assert_eq!(env.lap_ok(&["note", "--format", "csv"]).lines().count(), 5);
    assert_eq!(env.lap(&["note", "owl", "x"]).status, Some(2));
    assert!(env.lap_ok(&["verify"]).contains("and 4 remarks are as they were written"));
}

#[test]
fn none_against_many_is_told_as_that_and_left_out_of_the_index() {
    let study = "[study]\nbaseline = \"wren\"\n\
        [workload.film]\nkind = \"score\"\nby_hand = \"watch it\"\n\
        readings = [{ name = \"dropped\", unit = \"frames\", better = \"less\" }]\n\
        [workload.suite]\nkind = \"score\"\nby_hand = \"read its result page\"\n\
        readings = [{ name = \"score\", unit = \"points\", better = \"more\" }]\n\
        [rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["enter", "film", "--rig", "wren", "150", "144", "153"]);
    env.lap_ok(&["enter", "film", "--rig", "heron", "0", "0", "0"]);
    env.lap_ok(&["enter", "suite", "--rig", "wren", "8120", "8133", "8097"]);
    env.lap_ok(&["enter", "suite", "--rig", "heron", "8121", "8130", "8101"]);
    let compared = env.lap_ok(&["compare", "film"]);
    assert!(compared.contains("Against wren: heron better."), "{compared}");
    assert!(compared.contains("none against 149 frames"), "{compared}");
    let csv = env.lap_ok(&["compare", "film", "--format", "csv"]);
    assert!(csv.contains(",-149"), "{csv}");
    assert!(!env.lap(&["doubts"]).stdout.contains("no figure"), "zero is one");
    let overall = env.lap_ok(&["compare", "--overall"]);
    assert!(
        overall.contains("Left out, since values of zero have no ratio: film · dropped."),
        "{overall}"
    );
    assert!(overall.contains("suite · score 100 %"), "{overall}");
}

const LOADS: &str = "[workload.layers]\nkind = \"capacity\"\nby_hand = \"play that many layers, and listen\"\n\
    load = { from = 1, to = 8, unit = \"layers\" }\n\
    [workload.echo]\nkind = \"capacity\"\nby_hand = \"set that quality, and listen\"\n\
    load = [\"low\", \"medium\", \"high\", \"extreme\"]\n\
    [workload.suite]\nkind = \"score\"\nby_hand = \"read its page\"\n\
    readings = [{ name = \"score\", unit = \"points\", better = \"more\" }]\n[rig.heron]\n[rig.wren]\n";

#[test]
fn a_load_that_is_searched_for_by_hand_is_one_search_a_day_and_the_next_one_is_named() {
    let env = TestEnv::with_study(LAP, LOADS);
    let tried = |load: &str, came: &str| {
        env.lap(&["enter", "layers", "--rig", "heron", "--load", load, came])
    };
    let first = tried("4", "--held");
    assert_eq!(first.status, Some(0), "{first}");
    assert!(first.stderr.contains("heron-1: 4 layers held\nnext: try 6 layers"), "{first}");
    for (load, came) in
        [("6", "--broke"), ("5", "--strained"), ("4", "--held"), ("4", "--held"), ("4", "--held")]
    {
        tried(load, came);
    }
    let open = env.lap_ok(&["compare", "layers"]);
    assert!(open.contains("its search was not run to its end"), "{open}");
    for _ in 0..2 {
        tried("5", "--broke");
    }
    let last = tried("5", "--broke");
    assert!(last.stderr.contains("the edge is known: lap compare layers"), "{last}");
    let said = env.lap_ok(&["compare", "layers"]);
    assert!(said.contains("4 held 4 of 4, 5 held 0 of 4 (1 strained); half of the laps"), "{said}");
    let wrong = tried("9", "--held");
    assert!(
        wrong.stderr.contains("`9` is no load of layers") && wrong.status == Some(2),
        "{wrong}"
    );
    let none = env.lap(&["enter", "suite", "--rig", "heron", "--load", "4", "--held"]);
    assert!(none.stderr.contains("has no loads that a person tries"), "{none}");
}

#[test]
fn the_clock_names_loads_and_takes_what_came_of_them_and_steps_keep_their_names() {
    let env = TestEnv::with_study(LAP, LOADS);
    // medium, high, then both sides of the edge; one is voided, and asked again.
    let mut keys = ["h", "h", "b", "v", "b", "h", "b", "h", "b", "h", "b"].map(|key| (key, 350));
    // The tool has to have taken the terminal first.
    keys[0].1 = 1_500;
    let said = pressed(&env, "clock echo --rig heron --by Ada", &keys);
    assert!(said.contains("the edge is known: lap compare echo"), "{said}");
    let csv = env.lap_ok(&["compare", "echo", "--format", "csv"]);
    assert!(csv.lines().nth(1).is_some_and(|row| row.ends_with(",laps,high")), "{csv}");
    let shown = env.lap_ok(&["compare", "echo"]);
    assert!(shown.contains("high held 4 of 4, extreme held 0 of 4"), "{shown}");
    assert!(
        shown.lines().any(|line| line.starts_with("heron") && line.contains("high")),
        "{shown}"
    );
}

#[test]
fn the_clock_takes_scores_and_tries_that_failed() {
    let env = TestEnv::with_study(LAP, LOADS);
    let keys = [
        ("8120\n", 1_500),
        ("81x33\n", 200),
        ("8133\n", 200),
        ("f", 200),
        ("9000\n", 200),
        ("v", 200),
        ("q", 300),
    ];
    let said = pressed(&env, "clock suite --rig wren", &keys);
    assert!(said.contains("not written down: "), "{said}");
    let csv = env.lap_ok(&["show", "wren-1", "--format", "csv"]);
    assert_eq!(csv.lines().count(), 5, "{csv}");
    assert!(csv.contains("8133") && csv.contains("failed"), "{csv}");
    let counted = env.lap_ok(&["compare", "suite", "--format", "csv"]);
    assert!(counted.contains("wren,,score,points,more,8126"), "two count: {counted}");
}
