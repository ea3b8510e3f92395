//! How programs are set and what rigs are made of, through the built tool: read, kept apart, and listed around a change.
//!
//! Runs for about 5 s on one core of two.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "[study]\nlaps = 3\nwarm_up = 0\n\
    [workload.w]\nkind = \"task\"\ncommand = \"echo device L4; echo never >>log; sleep 0.02\"\n\
    modes = { render = { after = \"Mode\", file = \"settings.ini\" }, device = { pattern = 'device (\\w+)' } }\n";

fn set(env: &TestEnv, mode: &str) {
    env.write("settings.ini", &format!("[render]\nMode = \"{mode}\"\nSize = 3\n"));
}

/// Returns every doubt with its evidence, on one line.
fn doubts_of(env: &TestEnv) -> String {
    let said = env.lap(&["doubts", "--explain"]).stdout;
    said.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// Two rigs of which the second was set otherwise.
fn two_rigs() -> TestEnv {
    let env = TestEnv::with_study(LAP, STUDY);
    set(&env, "graphics");
    env.lap_ok(&["run", "--rig", "heron"]);
    set(&env, "processor");
    env.lap_ok(&["stand-in", "machine", "--out", "other"]);
    env.lap_ok(&["run", "--rig", "wren", "--machine-root", "other"]);
    env
}

#[test]
fn rigs_whose_programs_were_set_otherwise_are_kept_apart_and_both_settings_named() {
    let env = two_rigs();
    let lap = env.lap_ok(&["show", "wren-1.1"]);
    assert!(lap.contains("render: processor") && lap.contains("device: L4"), "{lap}");
    let tables = env.lap_ok(&["compare", "--tables"]);
    assert!(tables.contains("not comparable"), "{tables}");
    assert!(tables.contains("render set to processor against graphics"), "{tables}");
    assert!(!tables.contains("device set to"), "{tables}");
    assert_eq!(env.lap(&["claim", "heron is faster than wren on w"]).status, Some(1));
    let doubts = doubts_of(&env);
    assert!(doubts.contains("other setting"), "{doubts}");
    assert!(doubts.contains("graphics on heron"), "{doubts}");
    assert!(doubts.contains("processor on wren"), "{doubts}");
    assert!(!doubts.contains("stale"), "{doubts}");
    let anyway = env.lap_ok(&["compare", "--tables", "--despite", "wren has no graphics"]);
    assert!(anyway.contains("since: wren has no graphics"), "{anyway}");
    let judged = anyway.lines().any(|line| line.starts_with("wren") && line.contains('×'));
    assert!(judged, "{anyway}");
    let json = env.lap_ok(&["compare", "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&json).expect("JSON");
    let rows = honest_lap_testkit::rows_of(&json);
    let mut differs = rows.iter().flat_map(|row| row["differs"].as_array().expect("a list"));
    let named = differs.any(|unlike| unlike["is"] == "setting" && unlike["mode"] == "render");
    assert!(named, "{json:#}");
}

#[test]
fn a_setting_that_changes_within_a_session_or_cannot_be_read_is_told() {
    let env =
        TestEnv::with_study(LAP, &STUDY.replace("echo device L4", "echo Mode=p >settings.ini"));
    set(&env, "graphics");
    env.lap_ok(&["run", "--rig", "heron"]);
    let lap = env.lap_ok(&["show", "heron-1.1"]);
    assert!(lap.contains("render: graphics, then p"), "{lap}");
    assert!(lap.contains("device: not told, since no line of standard output tells it"), "{lap}");
    let doubts = env.lap(&["doubts", "--format", "json"]).stdout;
    assert!(doubts.contains("other-setting"), "{doubts}");
    let doubts = doubts_of(&env);
    assert!(doubts.contains("correct `modes` in study.toml"), "{doubts}");
}

#[test]
fn around_a_change_parts_modes_and_remarks_are_listed_and_the_change_is_no_doubt() {
    let env = TestEnv::with_study(LAP, STUDY);
    set(&env, "graphics");
    env.lap_ok(&["run", "--rig", "heron", "--part", "memory=32 GB"]);
    set(&env, "processor");
    let run = ["run", "--rig", "heron", "--part", "memory=64 MB", "--remark", "new memory"];
    env.lap_ok(&run);
    env.lap_ok(&["note", "heron-1", "the window was open"]);
    let change = ["compare", "--tables", "--before", "heron-1", "--after", "heron-2"];
    let said = env.lap_ok(&change);
    for part in [
        "memory from 32 GB to 64 MB",
        "render of w from graphics to processor",
        "heron-2 (after): new memory",
        "heron-1 (before): note: the window was open",
    ] {
        assert!(said.contains(part), "{part}: {said}");
    }
    for part in ["not comparable", "other setting", "stale", "lap run w"] {
        assert!(!said.contains(part), "{part}: {said}");
    }
    // Beside each other in one cell, they are a doubt.
    let doubts = doubts_of(&env);
    assert!(doubts.contains("the memory differs: 32 GB on heron; 64 MB on heron"), "{doubts}");
    assert!(env.lap_ok(&["show", "heron-2"]).contains("memory: 64 MB"));
    let wrong = env.lap(&["run", "--part", "memory"]);
    assert!(wrong.status == Some(2) && wrong.stderr.contains("memory=\"64 GB\""), "{wrong}");
}

#[test]
fn a_part_has_days_and_mistakes_in_settings_name_line_and_remedy() {
    let parts = "[rig.heron]\nparts = { memory = [{ is = \"32 GB\" }, { is = \"64 GB\", from = \"2020-03-09\" }] }\n";
    let env = TestEnv::with_study(LAP, &format!("{STUDY}{parts}"));
    set(&env, "graphics");
    env.lap_ok(&["run", "--rig", "heron"]);
    let report = env.lap_ok(&["report", "--format", "markdown"]);
    assert!(report.contains("64 GB since 2020-03-09, before that 32 GB"), "{report}");
    for (from, to, part) in [
        ("after = \"Mode\"", "behind = \"Mode\"", "unknown key `behind`"),
        ("from = \"2020-03-09\"", "from = \"soon\"", "`from`"),
        (", from = \"2020-03-09\"", "", "was two things at once"),
        ("render =", "\"re nder\" =", "cannot name a mode"),
        ("command =", "by_hand = \"render\" #", "people do this workload"),
    ] {
        let study = format!("{STUDY}{parts}");
        assert!(study.contains(from), "{from}");
        env.write("study.toml", &study.replace(from, to));
        let wrong = env.lap(&["compare"]);
        assert!(wrong.status == Some(2) && wrong.stderr.contains(part), "{part}: {wrong}");
        assert!(wrong.stderr.contains("study.toml:"), "{wrong}");
    }
}
