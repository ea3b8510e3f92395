//! Sessions are signed with the key of the machine that recorded them, and a study says whose keys it knows.

#![expect(clippy::unwrap_used, reason = "a failing helper fails its test")]

use honest_lap_testkit::TestEnv;
use std::fs;
use std::io::Write;
use std::os::unix::fs::PermissionsExt;
use std::process::{Command, Stdio};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn study() -> TestEnv {
    TestEnv::with_workload(LAP, "command = [\"true\"]\nlaps = 2")
}

/// Returns the public key that `lap rig` shows.
fn key(env: &TestEnv) -> String {
    let told: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["rig", "--format", "json"])).unwrap();
    told["groups"][0]["rows"][0]["key"].as_str().unwrap_or_default().to_owned()
}

/// Returns what `lap verify` says of each session: its name, whether the key is known, whose it is.
fn signed(env: &TestEnv) -> Vec<(String, Option<bool>, Option<String>)> {
    let told: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["verify", "--format", "json"])).unwrap();
    let rows = told["groups"][0]["rows"].as_array().unwrap();
    let text = |value: &serde_json::Value| value.as_str().map(str::to_owned);
    let row = |row: &serde_json::Value| {
        (text(&row["session"]).unwrap(), row["key_known"].as_bool(), text(&row["signed_by"]))
    };
    rows.iter().map(row).collect()
}

#[test]
fn the_first_run_makes_a_key_that_only_its_owner_reads_and_every_session_is_signed() {
    let env = study();
    assert_eq!(key(&env), "", "nothing was recorded yet");
    env.lap_ok(&["run", "--rig", "heron"]);
    let path = env.path().join(".config/honest-lap/rig.key");
    let secret = fs::read_to_string(&path).unwrap();
    assert_eq!(fs::metadata(&path).unwrap().permissions().mode() & 0o777, 0o600);
    assert!(!secret.contains(&key(&env)) && key(&env).len() == 64);
    env.lap_ok(&["enter", "w", "7.5s", "--rig", "heron", "--sure"]);
    assert_eq!(fs::read_to_string(&path).unwrap(), secret, "one key for good");
    let name = |name: &str, known, rig: Option<&str>| {
        (name.to_owned(), Some(known), rig.map(str::to_owned))
    };
    assert_eq!(signed(&env), [name("heron-1", false, None), name("heron-2", false, None)]);
    let study = fs::read_to_string(env.path().join("study.toml")).unwrap();
    env.write("study.toml", &format!("{study}[rig.heron]\nkey = \"{}\"\n", key(&env)));
    let heron = Some("heron");
    assert_eq!(signed(&env), [name("heron-1", true, heron), name("heron-2", true, heron)]);
    assert!(env.lap_ok(&["verify"]).contains("2 signed by a key that this study lists"));
}

#[test]
fn a_key_that_others_can_read_signs_nothing_and_laps_are_recorded_all_the_same() {
    let env = study();
    env.lap_ok(&["run", "--rig", "heron"]);
    let path = env.path().join(".config/honest-lap/rig.key");
    fs::set_permissions(&path, fs::Permissions::from_mode(0o644)).unwrap();
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("session heron-2 is not signed: others can read"), "{came}");
    assert!(came.stderr.contains("chmod 600"), "{came}");
    assert_eq!(signed(&env)[1], ("heron-2".to_owned(), None, None));
    assert!(env.lap_ok(&["verify"]).contains("1 signed by an unknown key, 1 not signed"));
    fs::write(&path, "0f\n").unwrap();
    fs::set_permissions(&path, fs::Permissions::from_mode(0o600)).unwrap();
    let came = env.lap(&["run", "--rig", "heron"]);
    assert!(came.stderr.contains("rig.key is no key"), "{came}");
    let wrong = env.lap(&["rig"]);
    assert_eq!(wrong.status, Some(2), "{wrong}");
}

/// Merges `other` at a terminal at which `answer` is typed.
fn merged(home: &TestEnv, other: &TestEnv, answer: &str) -> String {
    let mark = home.command(&[]);
    let mut command = Command::new("script");
    command.args(["-qec", &format!("{LAP} merge {}", other.path().display()), "/dev/null"]);
    for (name, value) in mark.get_envs() {
        command.env(name, value.unwrap_or_default());
    }
    let mut child = command
        .current_dir(home.path())
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    child.stdin.take().unwrap().write_all(answer.as_bytes()).unwrap();
    String::from_utf8(child.wait_with_output().unwrap().stdout).unwrap()
}

#[test]
fn a_key_that_came_with_sessions_is_asked_about_once_and_the_study_remembers() {
    let (home, wren) = (study(), study());
    home.lap_ok(&["run", "--rig", "heron"]);
    wren.lap_ok(&["run", "--rig", "wren"]);
    // With nobody to ask it is said, and the laps come in.
    let told = home.lap(&["merge", wren.path().to_str().unwrap(), "--same", "heron"]);
    assert_eq!(told.status, Some(0), "{told}");
    assert!(told.stderr.contains(&key(&wren)) && told.stderr.contains("[rig.NAME]"), "{told}");
    for (answer, listed) in [("n\n", false), ("y\n", true)] {
        let home = study();
        let said = merged(&home, &wren, answer);
        assert!(said.contains("does `lap rig` on wren show this key? [y/N]"), "{said}");
        assert_eq!(signed(&home)[0].1, Some(listed), "{said}");
        let study = fs::read_to_string(home.path().join("study.toml")).unwrap();
        assert_eq!(study.contains(&key(&wren)), listed);
        assert!(study.starts_with("[study]\nwarm_up = 0\n[workload.w]\n"), "{study}");
        assert!(!merged(&home, &wren, "y\n").contains("does `lap rig`"), "asked once");
    }
}
