//! The system's limits, a locked logbook, a full disk: an error with its status, no lap lost, never a panic.
//!
//! Runs for about 20 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a failing helper fails its test")]

use honest_lap_testkit::{CommandResult, TestEnv, has_root};
use std::process::Command;
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Runs `words` in front of `lap run`, in the environment of `env`.
fn run_under(env: &TestEnv, words: &[&str]) -> CommandResult {
    let mut command = Command::new(words[0]);
    command.args(&words[1..]).args([LAP, "run", "--rig", "heron"]).current_dir(env.path());
    for (name, value) in env.command(&[]).get_envs() {
        command.env(name, value.unwrap_or_default());
    }
    let out = command.output().unwrap();
    CommandResult {
        status: out.status.code(),
        stdout: String::from_utf8_lossy(&out.stdout).into_owned(),
        stderr: String::from_utf8_lossy(&out.stderr).into_owned(),
    }
}

fn study() -> TestEnv {
    let env = TestEnv::with_workload(LAP, "laps = 2\nwarm_up = 0\ncommand = [\"true\"]");
    env.lap_ok(&["run", "--rig", "heron"]);
    env
}

#[test]
fn without_descriptors_or_memory_it_fails_with_status_3_and_says_so() {
    let env = study();
    let mut failed = 0;
    for descriptors in [4, 6, 9, 12, 13, 14, 16, 18, 20, 22, 26, 40] {
        let came = run_under(&env, &["prlimit", &format!("--nofile={descriptors}:{descriptors}")]);
        assert!(matches!(came.status, Some(0 | 3)), "{descriptors}: {came}");
        assert!(!came.stderr.contains("panicked"), "{descriptors}: {came}");
        failed += usize::from(came.status == Some(3));
    }
    assert!(failed > 5, "some are too few: {failed}");
    // Less address space than its own code needs is the loader's matter; from there on it is ours.
    let (mut came_through, mut told) = (0, 0);
    for megabytes in (20..70).chain((70..400).step_by(30)) {
        let came = run_under(&env, &["prlimit", &format!("--as={megabytes}000000")]);
        let by_loader = matches!(came.status, Some(127) | None);
        assert!(by_loader || matches!(came.status, Some(0 | 3)), "{megabytes} MB: {came}");
        let said = ["panicked", "memory allocation"].iter().any(|word| came.stderr.contains(word));
        assert!(!said, "{megabytes} MB: {came}");
        came_through += usize::from(came.status == Some(0));
        told += usize::from(came.stderr.contains("error: out of memory"));
    }
    assert!(came_through > 5 && told > 5, "{came_through}, {told}");
    env.lap_ok(&["verify"]);
}

#[test]
fn another_program_that_holds_the_logbook_loses_no_lap_and_is_told_of() {
    let env = study();
    let path = env.path().join("logbook.db");
    let locked = std::thread::spawn(move || {
        let db = rusqlite::Connection::open(path).unwrap();
        db.busy_timeout(Duration::from_secs(60)).unwrap();
        db.execute_batch("BEGIN EXCLUSIVE").unwrap();
        // Longer than anyone waits without being told.
        std::thread::sleep(Duration::from_secs(14));
        db.execute_batch("ROLLBACK").unwrap();
    });
    std::thread::sleep(Duration::from_millis(300));
    let came = env.lap(&["run", "--rig", "heron"]);
    locked.join().unwrap();
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("another program is writing to the logbook"), "{came}");
    assert!(env.lap_ok(&["verify"]).contains("4 laps in 2 sessions"));
}

#[test]
fn a_full_disk_ends_a_run_with_status_3_and_what_was_written_stays_whole() {
    if !has_root("a full disk") {
        return;
    }
    let env = TestEnv::with_workload(LAP, "laps = 400\nwarm_up = 0\ncommand = \"seq 3000\"");
    let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    let disk = env.path().join("disk");
    std::fs::create_dir(&disk).unwrap();
    let mount = Command::new("mount")
        .args(["-t", "tmpfs", "-o", "size=600k", "none", disk.to_str().unwrap()])
        .status();
    assert!(mount.unwrap().success(), "a small disk is mounted");
    std::fs::write(disk.join("study.toml"), study).unwrap();
    let folder = disk.to_str().unwrap();
    let came = env.lap(&["run", "--rig", "heron", "--study", folder]);
    let kept = env.lap(&["verify", "--study", folder]);
    let ended = Command::new("umount").arg(&disk).status();
    assert!(ended.unwrap().success());
    assert_eq!(came.status, Some(3), "{came}");
    assert!(came.stderr.contains("full") || came.stderr.contains("No space"), "{came}");
    assert!(!came.stderr.contains("panicked"), "{came}");
    assert_eq!(kept.status, Some(0), "{kept}");
    assert!(kept.stdout.contains("Nothing has changed"), "{kept}");
}
