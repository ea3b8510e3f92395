//! Frames noted as programs present them: on an empty driver, where every present can be counted.
//!
//! Runs for about 20 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{CommandResult, TestEnv, as_root, compiled, has_root};
use serde_json::Value;
use std::process::{Child, Command};
use std::time::{Duration, Instant};

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const PROGRAMS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/screens/programs");

/// Returns a folder with the programs, and a workload `w` of these lines.
fn study(lines: &str) -> TestEnv {
    let text = format!(
        "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"frames\"\nlimit = \"60s\"\n{lines}\n"
    );
    let env = TestEnv::with_study(LAP, &text);
    let driver = env.path().join("libempty.so");
    compiled(&format!("{PROGRAMS}/empty_driver.c"), &driver, &["-shared", "-fPIC"]);
    let folder = env.path().display().to_string();
    let linked = [&format!("-L{folder}"), "-lempty", &format!("-Wl,-rpath,{folder}"), "-lpthread"];
    compiled(&format!("{PROGRAMS}/presenter.c"), &env.path().join("presenter"), &linked);
    env
}

pub(super) fn presenting(words: &str, frames: &str) -> TestEnv {
    let words: Vec<String> = words.split(' ').map(|word| format!("\"{word}\"")).collect();
    study(&format!("command = [\"./presenter\", {}]\nframes = {frames}", words.join(", ")))
}

/// Returns the record of the only lap.
fn shown(env: &TestEnv) -> Value {
    let json: Value =
        serde_json::from_str(&env.lap_ok(&["show", "here-1.1", "--format", "json"])).unwrap();
    json["groups"][0]["rows"][0].clone()
}

/// Returns process and number of presents of every stream of a lap.
fn streams(shown: &Value) -> Vec<(String, u64)> {
    let others = shown["also_presented"].as_array().unwrap().iter();
    let all = std::iter::once(&shown["frames_read_as"]).chain(others);
    all.map(|words| {
        let words = words.as_str().unwrap();
        let frames = words.split(", ").nth(1).unwrap().split(' ').next().unwrap();
        let process = words.split("(process ").nth(1).unwrap().split(')').next().unwrap();
        (process.to_owned(), frames.replace(',', "").parse().unwrap())
    })
    .collect()
}

fn counts(env: &TestEnv) -> Vec<u64> {
    streams(&shown(env)).into_iter().map(|(_, frames)| frames).collect()
}

#[test]
fn four_threads_on_an_empty_driver_lose_nothing() {
    let env = presenting("threads 500000 4", "\"presented\"");
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [500_000; 4]);
    let shown = shown(&env);
    assert_eq!(shown["frames"], 499_999, "a frame lies between two presents");
    assert!(!env.path().join(".lap/laps").exists(), "nothing is left behind");
    env.lap_ok(&["verify"]);
}

#[test]
fn the_busiest_window_is_taken_unless_another_is_asked_for() {
    let env = presenting("windows 3000", "\"presented\"");
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [3_000, 1_500]);
    let said = env.lap_ok(&["frames"]);
    assert!(said.contains("also presented, and not in it: window 2, 1,500 frames"), "{said}");
    let env = presenting("windows 3000", "{ presented = { window = 2 } }");
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [1_500, 3_000]);
    let env = presenting("windows 3000", "{ presented = { window = 3 } }");
    let came = env.lap(&["run"]);
    assert_eq!(came.status, Some(3));
    assert!(came.stderr.contains("no window 3 presented a frame; seen were: window 1,"), "{came}");
}

#[test]
fn nothing_that_was_shown_before_a_kill_is_lost() {
    let env = presenting("killed 50", "\"presented\"");
    env.lap_ok(&["run"]);
    let shown = shown(&env);
    let recorded = streams(&shown);
    let said: Vec<&str> = shown["stdout_lines"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|line| line.as_str()?.strip_prefix("process "))
        .collect();
    assert_eq!(said.len(), 50);
    for line in said {
        let (process, presented) = line.split_once(" presented ").unwrap();
        let presented: u64 = presented.parse().unwrap();
        let found = recorded.iter().find(|(found, _)| found == process).map(|(_, n)| *n).unwrap();
        // It may have been killed between showing a frame and counting it.
        assert!(found == presented || found == presented + 1, "{found} of {presented}");
    }
}

#[test]
fn programs_with_habits_of_their_own_are_recorded_whole() {
    let env = presenting("forked 2000", "\"presented\"");
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [2_001, 2_000], "a child's presents are its own");
    let env = presenting("closing 2000", "\"presented\"");
    env.lap_ok(&["run"]);
    let shown = shown(&env);
    assert_eq!(streams(&shown)[0].1, 2_001);
    assert_eq!(shown["stdout_lines"][0], "own 0 bytes", "nothing of ours in its files");
    let env = presenting("looked-up 2000 0 ./libempty.so", "\"presented\"");
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [2_000]);
    let shown = self::shown(&env);
    assert_eq!(shown["stdout_lines"][0], "egl (nil)", "what is not there is not pretended");
}

#[test]
fn a_pass_ends_after_its_frames_and_one_that_falls_short_does_not_count() {
    let env = presenting("paced 100000 1000", "{ presented = { frames = 400 } }");
    env.lap_ok(&["run"]);
    let lap = shown(&env);
    assert_eq!((&lap["frames"], &lap["outcome"]), (&400.into(), &"done".into()));
    let env = presenting("paced 100 1000", "{ presented = { frames = 400 } }");
    let came = env.lap(&["run"]);
    assert_eq!(came.status, Some(3));
    assert!(came.stderr.contains("frames: it ended after 99 of 400 frames"), "{came}");
    assert_eq!(shown(&env)["frames"], 99, "kept all the same");
    assert!(shown(&env)["counts"].as_str().unwrap().starts_with("not counted"));
}

#[test]
fn limits_of_the_program_are_no_matter() {
    let line = "ulimit -f 1 -n 3; exec ./presenter threads 20000 1";
    let env = study(&format!("command = \"{line}\"\nframes = \"presented\""));
    env.lap_ok(&["run"]);
    assert_eq!(counts(&env), [20_000]);
}

/// Starts `lap run` and waits until its program has presented.
fn under_way(env: &TestEnv) -> Child {
    let child = env.start(&["run"]);
    let deadline = Instant::now() + Duration::from_secs(30);
    let presents = env.path().join(".lap/laps/presented-here-1.1/presents");
    let begun = || {
        let header = std::fs::read(&presents).unwrap_or_default();
        header.get(16..24).is_some_and(|next| next.iter().any(|byte| *byte != 0))
    };
    while !begun() {
        assert!(Instant::now() < deadline, "nothing was presented");
        std::thread::sleep(Duration::from_millis(10));
    }
    child
}

fn signal(child: &Child, name: &str) {
    let id = child.id().to_string();
    assert!(Command::new("kill").args([name, &id]).status().unwrap().success());
}

fn pause() {
    std::thread::sleep(Duration::from_millis(400));
}

#[test]
fn marks_and_signals_keep_menus_outside_and_ctrl_c_keeps_the_pass() {
    let env = presenting("paced 100000 1000", "\"presented\"");
    let refused = env.lap(&["mark"]);
    assert_eq!(refused.status, Some(2));
    assert!(refused.stderr.contains("no pass whose frames are noted is under way"), "{refused}");
    let child = under_way(&env);
    pause();
    assert!(env.lap(&["mark"]).stderr.contains("marked: the begin of the pass"));
    pause();
    assert!(env.lap(&["mark", "the rings"]).stderr.contains("marked: `the rings`"));
    signal(&child, "-USR1");
    pause();
    signal(&child, "-INT");
    let came = child.wait_with_output().unwrap();
    assert_eq!(came.status.code(), Some(0), "{}", String::from_utf8_lossy(&came.stderr));
    env.assert_nothing_runs();
    let lap = shown(&env);
    assert_eq!(lap["counts"], "counted");
    assert_eq!(lap["marks"], serde_json::json!(["begin", "the rings", "end"]));
    let passes: Value = serde_json::from_str(&env.lap_ok(&["frames", "--format", "json"])).unwrap();
    let cut = passes["groups"][0]["rows"][1]["cut"].as_str().unwrap();
    assert_eq!(cut.matches('–').count(), 2, "ahead of the begin, and behind the end: {cut}");
    let whole = lap["frames"].as_u64().unwrap();
    let export = |out: &str, more: &[&str]| {
        env.lap_ok(&[&["export", "here-1.1", "--out", out], more].concat());
        std::fs::read_to_string(env.path().join(out)).unwrap().lines().count() as u64 - 1
    };
    assert_eq!(export("whole.csv", &["--whole"]), whole);
    let counted = export("counted.csv", &[]);
    assert!(0 < counted && counted < whole, "{counted} of {whole}");
    let again = env.lap(&["export", "here-1.1", "--out", "whole.csv"]);
    assert_eq!(again.status, Some(2), "{again}");
}

#[test]
fn a_pass_that_is_driven_by_marks_begins_and_ends_with_them() {
    let env = presenting("paced 100000 1000", "{ presented = { by_mark = true } }");
    let child = under_way(&env);
    pause();
    env.lap(&["mark", "begin"]);
    pause();
    env.lap(&["mark", "end"]);
    let came = child.wait_with_output().unwrap();
    assert_eq!(came.status.code(), Some(0), "{}", String::from_utf8_lossy(&came.stderr));
    assert_eq!(shown(&env)["outcome"], "done");
}

#[test]
fn an_interrupted_pass_that_was_to_have_so_many_frames_is_kept_and_does_not_count() {
    let env = presenting("paced 100000 1000", "{ presented = { frames = 90000 } }");
    let child = under_way(&env);
    pause();
    signal(&child, "-INT");
    assert_eq!(child.wait_with_output().unwrap().status.code(), Some(3));
    let lap = shown(&env);
    assert_eq!(lap["outcome"], "interrupted");
    assert!(lap["frames"].as_u64().unwrap() > 0, "{lap:#}");
}

#[test]
fn an_exported_pass_is_taken_in_again_to_the_same_figures() {
    let env = presenting("paced 1500 500", "\"presented\"\nplays_at = 500\nrefresh = \"1000 Hz\"");
    env.lap_ok(&["run"]);
    env.lap_ok(&["export", "here-1.1", "--out", "rings.csv"]);
    let said = env.lap_ok(&["import", "rings.csv", "--rig", "again", "--new-rig"]);
    assert!(said.contains("`frame_time_ns`, durations in nanoseconds"), "{said}");
    let passes: Value = serde_json::from_str(&env.lap_ok(&["frames", "--format", "json"])).unwrap();
    let rows = passes["groups"][0]["rows"].as_array().unwrap();
    let row = |lap: &str| rows.iter().find(|row| row["lap"] == lap).unwrap().as_object().unwrap();
    // What the machine did is known of the lap that was run, and not of the log.
    let figures = row("again-1.1").iter().filter(|(_, value)| !value.is_null());
    let figures: Vec<_> = figures.filter(|(key, _)| !["lap", "rig"].contains(&&***key)).collect();
    for (key, figure) in &figures {
        assert_eq!(&row("here-1.1")[*key], *figure, "{key}");
    }
    assert!(figures.len() > 12 && row("again-1.1")["plays_on_time_percent"].is_number());
}

/// A small file system, there until the value is dropped.
struct Small(std::path::PathBuf);

impl Small {
    fn new(path: std::path::PathBuf, size: &str) -> Self {
        std::fs::create_dir(&path).unwrap();
        let at = path.display().to_string();
        let size = format!("{size},mode=777");
        assert!(as_root(&["mount", "-t", "tmpfs", "-o", &size, "none", &at]), "no mount here");
        Self(path)
    }
}

impl Drop for Small {
    fn drop(&mut self) {
        as_root(&["umount", "-l", &self.0.display().to_string()]);
    }
}

#[test]
fn a_full_disk_ends_the_recording_and_neither_the_program_nor_the_lap() {
    if !has_root("a full disk ends the recording") {
        return;
    }
    let env = presenting("threads 1 1", "\"presented\"");
    let small = Small::new(env.path().join("small"), "size=7m");
    let presenter = env.path().join("presenter").display().to_string();
    let study = format!(
        "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"frames\"\n\
         command = [\"{presenter}\", \"threads\", \"20000000\", \"1\"]\nframes = \"presented\"\n"
    );
    std::fs::write(small.0.join("study.toml"), study).unwrap();
    // In memory there is no room either.
    let inner = env.command(&["run", "--study", "small"]);
    let mut command = Command::new("unshare");
    let little = "mount -t tmpfs -o size=16m none /dev/shm && exec \"$@\"";
    command.args(["-rm", "sh", "-c", little, "sh"]).arg(inner.get_program());
    command.args(inner.get_args()).current_dir(inner.get_current_dir().unwrap());
    for (name, value) in inner.get_envs() {
        match value {
            Some(value) => command.env(name, value),
            None => command.env_remove(name),
        };
    }
    let came: CommandResult = command.output().unwrap().into();
    assert_eq!(came.status, Some(3), "{came}");
    assert!(came.stderr.contains("could not be recorded: no space left on device"), "{came}");
    let shown = env.lap_ok(&["show", "here-1.1", "--study", "small", "--format", "json"]);
    let shown: Value = serde_json::from_str(&shown).unwrap();
    let lap = &shown["groups"][0]["rows"][0];
    assert_eq!(lap["exit_code"], 0.0, "the program knows nothing of it");
    let left_out = lap["frames_left_out"][0].as_str().unwrap();
    let lost: u64 = left_out.split(' ').next().unwrap().parse().unwrap();
    assert_eq!(lost + streams(lap)[0].1, 20_000_000, "{left_out}");
}
