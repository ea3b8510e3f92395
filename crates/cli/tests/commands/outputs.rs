//! What people and programs read, on the demo's recorded lab.
//!
//! Runs for about 15 s on one core of two.

use honest_lap_testkit::{TestEnv, csv_column, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn lab(env: &TestEnv, args: &[&str]) -> String {
    env.lap_ok(&[&["--study", "lab"], args].concat())
}

#[test]
fn compare_reads_answer_first_and_method_last() {
    let env = TestEnv::harbour(LAP);
    insta::assert_snapshot!(lab(&env, &["compare", "--explain"]));
}

#[test]
fn workloads_are_weighed_into_an_index_that_says_what_it_is_over() {
    let env = TestEnv::harbour(LAP);
    insta::assert_snapshot!(lab(&env, &["compare", "--overall"]));
    let json: Value =
        serde_json::from_str(&lab(&env, &["compare", "--overall", "--format", "json"])).unwrap();
    let rows = json["overall"][0]["found"]["rows"].as_array().unwrap();
    let of = |rig: &str| rows.iter().find(|row| row["rig"] == rig).unwrap();
    assert!(of("heron")["against"].is_null(), "the baseline");
    assert!(of("kestrel")["against"]["ratio"].as_f64().unwrap() > 1.0, "{json:#}");
    assert_eq!(env.lap(&["compare", "--overall", "--across", "rigs"]).status, Some(2));
}

#[test]
fn compare_can_look_one_way_only_and_hold_against_another_rig() {
    let env = TestEnv::harbour(LAP);
    let rigs =
        lab(&env, &["compare", "dome-still", "--across", "rigs", "--baseline", "wren", "--tables"]);
    assert!(rigs.contains("Against wren: kestrel, heron and plover faster."), "{rigs}");
    assert!(!rigs.contains("the variants on each rig"), "{rigs}");
    let wide =
        lab(&env, &["compare", "dome-still", "--across", "rigs", "--margin", "5%", "--tables"]);
    assert!(wide.contains("plover same within 5 %"), "{wide}");
    let variants = lab(&env, &["compare", "--across", "variants"]);
    assert!(!variants.contains("catalogue-build"), "it has one variant only: {variants}");
}

#[test]
fn a_figure_does_not_change_with_what_is_shown_beside_it() {
    let env = TestEnv::harbour(LAP);
    let whole = lab(&env, &["compare", "--format", "csv"]);
    for line in lab(&env, &["compare", "dome-still", "--format", "csv"]).lines() {
        assert!(whole.contains(line), "{line}");
    }
}

#[test]
fn compare_refuses_names_it_does_not_know() {
    let env = TestEnv::harbour(LAP);
    let came = env.lap(&["--study", "lab", "compare", "dome-stil"]);
    insta::assert_snapshot!(came, @"
    ! error: no laps of a workload `dome-stil` are in the logbook
    ! help: it has laps of: catalogue-build, dome-still, fly-through, night-shift, orbit-solve, sky-layers
    [exit status: 2]
    ");
    let came = env.lap(&["--study", "lab", "compare", "--baseline", "owl"]);
    insta::assert_snapshot!(came, @"
    ! error: no laps of a rig `owl` are in the logbook
    ! help: it has laps of: heron, kestrel, plover, wren
    [exit status: 2]
    ");
    assert_eq!(env.lap(&["--study", "lab", "compare", "--margin", "2"]).status, Some(2));
}

#[test]
fn sessions_laps_and_one_lap_are_shown() {
    let env = TestEnv::harbour(LAP);
    insta::assert_snapshot!(lab(&env, &["show"]));
    insta::assert_snapshot!(lab(&env, &["show", "wren-1"]));
    insta::assert_snapshot!(lab(&env, &["show", "wren-1.12"]));
    assert_eq!(lab(&env, &["show", "kestrel"]).matches("kestrel-").count(), 3);
    let came = env.lap(&["--study", "lab", "show", "heron-9"]);
    insta::assert_snapshot!(came, @"
    ! error: there is no rig, session or lap called `heron-9`
    ! help: `lap show` lists every session; its laps are named heron-3.1, heron-3.2, …
    [exit status: 2]
    ");
}

#[test]
fn a_number_of_a_variant_that_nobody_measured_stands_in_the_same_columns_for_programs() {
    let env = TestEnv::harbour(LAP);
    let study = env.path().join("lab/study.toml");
    let text = std::fs::read_to_string(&study).unwrap();
    assert!(text.contains("settings = { threads = 2 }"), "{text}");
    std::fs::write(
        &study,
        text.replace("settings = { threads = 2 }", "settings = { threads = 7 }"),
    )
    .unwrap();
    let csv = lab(&env, &["compare", "dome-still", "--explain", "--format", "csv"]);
    assert!(csv_column(&csv, "rig").contains(&"osprey".to_owned()), "{csv}");
}

#[test]
fn machine_formats_keep_every_digit_and_one_shape() {
    let env = TestEnv::harbour(LAP);
    let json: Value = serde_json::from_str(&lab(&env, &["compare", "--format", "json"])).unwrap();
    assert_eq!(json["version"], 3);
    let csv = lab(&env, &["compare", "--format", "csv"]);
    let numbers =
        |key: &str| csv_column(&csv, key).into_iter().map(|text| text.parse::<f64>().ok());
    let (ratios, saved) = (numbers("ratio"), numbers("time_saved"));
    for (ratio, saved) in ratios.clone().zip(saved) {
        if let (Some(ratio), Some(saved)) = (ratio, saved) {
            assert!((saved - (1.0 - 1.0 / ratio)).abs() < 1e-12);
        }
    }
    // Both are the same figures, to the last digit.
    let ratio = |row: &Value| row["against"]["ratio"].as_f64();
    let mut told: Vec<f64> = rows_of(&json).iter().filter_map(ratio).collect();
    let mut shown: Vec<f64> = ratios.flatten().collect();
    told.sort_by(f64::total_cmp);
    shown.sort_by(f64::total_cmp);
    assert!(told.len() > 30 && told == shown);
    let markdown = lab(&env, &["compare", "catalogue-build", "--format", "markdown"]);
    insta::assert_snapshot!(markdown);
}

#[test]
fn verify_proves_that_nothing_changed_and_names_what_did() {
    let env = TestEnv::harbour(LAP);
    let whole = lab(&env, &["verify"]);
    let noted = whole.split("Seal of the logbook: ").nth(1).unwrap().split('\n').next().unwrap();
    insta::assert_snapshot!(whole);
    let verify = |more: &[&str]| env.lap(&[&["--study", "lab", "verify"], more].concat());
    assert_eq!(verify(&["--noted", noted]).status, Some(0));
    // A session's seal, as it is shown, is found for good.
    let shown = whole.lines().find_map(|line| line.strip_prefix("kestrel-1")).unwrap();
    let shown = shown.split_whitespace().nth(1).unwrap();
    assert_eq!((shown.len(), verify(&["--noted", shown]).status), (16, Some(0)));
    assert_eq!(verify(&["--noted", &shown[..4]]).status, Some(1), "too short to mean one record");
    let other = verify(&["--noted", "0f"]);
    assert_eq!(other.status, Some(1), "{other}");
    assert!(other.stdout.contains("is not met here"), "{other}");
    let db = rusqlite::Connection::open(env.path().join("lab/logbook.db")).unwrap();
    let change = "UPDATE lap SET wall_ns = wall_ns / 2 WHERE number = 4 AND session = 5";
    let refused = db.execute(change, []).unwrap_err().to_string();
    assert!(refused.contains("never altered"), "{refused}");
    let trigger: String = db
        .query_row("SELECT sql FROM sqlite_schema WHERE name = 'lap_keeps'", [], |row| row.get(0))
        .unwrap();
    db.execute_batch(&format!("DROP TRIGGER lap_keeps; {change}")).unwrap();
    let came = verify(&[]);
    assert_eq!(came.status, Some(1), "{came}");
    assert!(came.stderr.contains("no trigger lap_keeps"), "{came}");
    db.execute_batch(&trigger).unwrap();
    let came = verify(&[]);
    assert_eq!(came.status, Some(1), "{came}");
    assert!(came.stdout.contains("The seals of 1 of 10 sessions are broken."), "{came}");
    assert!(came.stdout.contains("lap kestrel-2.4 has changed"), "{came}");
}

#[test]
fn a_lap_that_was_merely_put_in_is_found() {
    let env = TestEnv::harbour(LAP);
    let db = rusqlite::Connection::open(env.path().join("lab/logbook.db")).unwrap();
    db.execute_batch(
        "PRAGMA foreign_keys = OFF;
         INSERT INTO lap (session, number, task, variant, round, warm_up, outcome, wall_ns)
             SELECT session, 900, task, variant, 90, 0, 'done', wall_ns / 2 FROM lap WHERE id = 1",
    )
    .unwrap();
    let came = env.lap(&["--study", "lab", "verify"]);
    assert_eq!(came.status, Some(1), "{came}");
    assert!(came.stdout.contains("no seal accounts for a lap without"), "{came}");
}

#[test]
fn colour_is_for_terminals_and_never_for_pipes() {
    let env = TestEnv::harbour(LAP);
    assert!(!lab(&env, &["compare"]).contains('\x1b'));
    let forced =
        env.command(&["--study", "lab", "compare"]).env("CLICOLOR_FORCE", "1").output().unwrap();
    assert!(String::from_utf8_lossy(&forced.stdout).contains('\x1b'));
    let wished = env.command(&["--study", "lab", "compare"]).env("NO_COLOR", "1").output().unwrap();
    assert!(!String::from_utf8_lossy(&wished.stdout).contains('\x1b'));
}

#[test]
fn a_reader_that_has_seen_enough_is_no_failure() {
    let env = TestEnv::harbour(LAP);
    let script = format!("'{LAP}' --study lab compare | head -n 1; exit ${{PIPESTATUS[0]}}");
    let out = std::process::Command::new("bash")
        .args(["-c", &script])
        .current_dir(env.path())
        .output()
        .unwrap();
    assert_eq!((out.status.code(), out.stderr.as_slice()), (Some(0), &b""[..]));
}

#[test]
fn the_demo_refuses_a_folder_that_is_taken() {
    let env = TestEnv::new(LAP);
    std::fs::create_dir(env.path().join("mine")).unwrap();
    env.write("mine/thesis.txt", "x");
    let came = env.lap(&["demo", "mine"]);
    insta::assert_snapshot!(came, @"
    ! error: mine is there already, and stays as it is
    ! help: name another folder: lap demo DIR
    [exit status: 2]
    ");
    assert_eq!(std::fs::read_dir(env.path().join("mine")).unwrap().count(), 1);
}

#[test]
fn completions_and_the_manual_come_from_the_same_definitions() {
    let env = TestEnv::new(LAP);
    for shell in ["bash", "zsh", "fish"] {
        let script = env.lap_ok(&["completions", shell]);
        for word in ["compare", "--preview", "--baseline"] {
            assert!(script.contains(word.trim_start_matches('-')), "{shell}: {word}");
        }
    }
    let page = env.lap_ok(&["man"]);
    assert!(
        page.contains(".TH") && page.contains("honest") | page.contains("the data supports"),
        "{page}"
    );
    assert!(env.lap_ok(&["man", "run"]).contains("preview"));
    assert_eq!(env.lap(&["man", "fly"]).status, Some(2));
}

#[test]
fn every_command_has_help_with_an_example() {
    let env = TestEnv::new(LAP);
    for command in [
        "demo",
        "init",
        "import",
        "frames",
        "trim",
        "plot",
        "report",
        "export",
        "rig",
        "run",
        "enter",
        "clock",
        "show",
        "compare",
        "doubts",
        "claim",
        "value",
        "set-aside",
        "note",
        "verify",
        "merge",
        "help",
        "completions",
        "man",
    ] {
        let help = env.lap_ok(&[command, "--help"]);
        assert!(help.contains("Example"), "{command}: {help}");
        assert!(help.contains(&format!("lap {command}")), "{command}: {help}");
    }
    insta::assert_snapshot!(env.lap(&["--help"]));
    assert_eq!(env.lap(&["fly"]).status, Some(2));
}

#[test]
fn a_part_of_the_lab_is_chosen_and_said_and_what_is_not_there_is_named() {
    let env = TestEnv::harbour(LAP);
    let two =
        lab(&env, &["compare", "dome-still", "--session", "heron-1,wren-1", "--variant", "2"]);
    assert!(two.starts_with("Only sessions heron-1 and wren-1; variant 2."), "{two}");
    assert!(!two.contains("kestrel ") && !two.contains("threads=1"), "{two}");
    // All of them chosen is nothing chosen: how far days differ is known from the same laps.
    let sessions = csv_column(&lab(&env, &["export", "laps", "--format", "csv"]), "session");
    let all: std::collections::BTreeSet<String> = sessions.into_iter().collect();
    let all = all.into_iter().collect::<Vec<_>>().join(",");
    let whole = lab(&env, &["compare", "--format", "csv"]);
    assert_eq!(lab(&env, &["compare", "--format", "csv", "--session", &all]), whole);
    let group = lab(&env, &["compare", "--group", "flights", "--format", "csv"]);
    let workloads: std::collections::BTreeSet<String> =
        csv_column(&group, "workload").into_iter().collect();
    assert_eq!(workloads.into_iter().collect::<Vec<_>>(), ["fly-through"]);
    let claimed = ["claim", "kestrel is faster than heron on dome-still", "--variant", "threads=2"];
    assert!(lab(&env, &claimed).contains("on dome-still.\n"), "one variant is left");
    for (args, why) in [
        (["--session", "wren-9"], "no session wren-9"),
        (["--group", "choirs"], "there are: flights"),
        (["--variant", "threads=7"], "threads=1"),
    ] {
        for command in ["compare", "doubts", "value", "plot", "claim"] {
            let came = env.lap(&[&["--study", "lab", command], &args[..]].concat());
            assert!(came.status == Some(2) && came.stderr.contains(why), "{command}: {came}");
        }
    }
    let drawn = ["plot", "dome-still", "--across", "rigs", "--variant", "2", "--out", "two.svg"];
    lab(&env, &drawn);
    let svg = std::fs::read_to_string(env.path().join("two.svg")).unwrap();
    assert!(svg.contains("Only variant 2."), "a figure goes where its command does not");
    let passes = ["plot", "--figure", "passes", "--session", "heron-1"];
    let refused = env.lap(&[&["--study", "lab"], &passes[..]].concat());
    assert!(refused.stderr.contains("says nothing to the figure `passes`"), "{refused}");
}
