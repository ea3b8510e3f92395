//! The tool killed at any moment: nothing announced is lost, nothing is left running.
//!
//! Runs for about 90 s on one core of two: 100 kills; `LAP_KILLS=300` kills it more often.

use honest_lap_core::record::{LapName, Outcome};
use honest_lap_core::stat::SplitMix;
use honest_lap_logbook::Logbook;
use honest_lap_testkit::TestEnv;
use rustix::process::{Pid, Signal, kill_process};
use std::io::{BufRead, BufReader, Read};
use std::process::{Child, Stdio};
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the laps that standard error announced: a line that begins with a lap's name.
fn announced(stderr: &str) -> Vec<LapName> {
    let lines: Vec<&str> =
        stderr.split_inclusive('\n').filter(|line| line.ends_with('\n')).collect();
    lines.iter().filter_map(|line| LapName::parse(line.split_whitespace().next()?)).collect()
}

/// A workload of every kind. Laps of `draw` leave a child in a session of its own, so that there is something to leave
/// behind.
const EVERY_KIND: &str = r#"
[study]
warm_up = 0
[workload.draw]
kind = "task"
command = "setsid sleep 600 & echo drawing; sleep 0.03; echo Score: 812"
limit = "20s"
splits = [{ part = "load" }, { part = "draw", from = 'drawing' }]
readings = [{ name = "score", after = "Score", better = "more" }]
[workload.fly]
kind = "frames"
command = "sleep 0.02; i=0; while [ $i -lt 200 ]; do i=$((i+1)); echo 16.$((100 + i)); done"
frames = { output = true, unit = "ms", as = "durations" }
[workload.layers]
kind = "capacity"
load = { from = 1, to = 128, unit = "layers" }
command = "sleep 0.02; if [ {load} -le 41 ]; then echo dropped 0; else exit 3; fi"
broke = { exit_codes = [3] }
[workload.shift]
kind = "endurance"
command = "sleep 0.01"
lasts = "200ms"
look_every = "50ms"
"#;
const KINDS: [(&str, &str); 4] =
    [("draw", "score"), ("fly", "average rate"), ("layers", "load"), ("shift", "settled rate")];

/// Ends the process that starts laps, if the tool `parent` has one by now.
fn kill_starter(parent: u32) {
    let children = std::fs::read_to_string(format!("/proc/{parent}/task/{parent}/children"));
    for child in children.unwrap_or_default().split_whitespace() {
        std::process::Command::new("kill").args(["-KILL", child]).status().expect("kill");
    }
}

#[test]
fn killed_at_many_moments_it_loses_nothing_announced_and_leaves_nothing_running() {
    let kills = std::env::var("LAP_KILLS").ok().and_then(|text| text.parse().ok());
    let kills: u64 = kills.unwrap_or(100);
    let env = TestEnv::with_study(LAP, EVERY_KIND);
    let mut moments = SplitMix::new(7);
    let mut told = [0; KINDS.len()];
    for kill in 0..kills {
        let kind = (kill % 4) as usize;
        let (workload, measure) = KINDS[kind];
        let mut child = env.start(&["run", workload, "--laps", "1000"]);
        std::thread::sleep(Duration::from_millis(moments.below(850)));
        // One time in three the starter goes first: whatever the tool does then, it is killed too.
        if kill % 3 == 2 {
            kill_starter(child.id());
            std::thread::sleep(Duration::from_millis(moments.below(100)));
        }
        child.kill().unwrap();
        child.wait().unwrap();
        let mut stderr = String::new();
        child.stderr.take().unwrap().read_to_string(&mut stderr).unwrap();
        if kill % 3 == 2 {
            // With neither of them left, it is for the next run to end what is still there.
            let next = env.lap(&["run", "draw", "--laps", "1"]);
            assert_eq!(next.status, Some(0), "kill {kill}: {next}");
        }
        env.assert_nothing_runs();
        let laps = announced(&stderr);
        told[kind] += laps.len();
        let path = env.path().join("logbook.db");
        if !path.exists() {
            assert!(laps.is_empty(), "kill {kill}");
            continue;
        }
        let logbook = Logbook::open(&path).unwrap();
        assert_eq!(logbook.faults().unwrap(), Vec::<String>::new(), "kill {kill}");
        assert_eq!(logbook.strays().unwrap(), Vec::<String>::new(), "kill {kill}");
        let broken = logbook.verify().unwrap().into_iter().find_map(|session| session.broken);
        assert_eq!(broken, None, "kill {kill}");
        for name in laps {
            let page =
                logbook.lap(&name).unwrap().unwrap_or_else(|| panic!("kill {kill}: lost {name}"));
            // Of a lap whose starter was killed under it, that is what was announced.
            if page.head.outcome == Outcome::Done {
                assert!(page.head.readings.iter().any(|read| read.name == measure), "{page:?}");
            }
        }
    }
    let few = |told: &usize| *told < (kills / 40) as usize;
    assert!(!told.iter().any(few), "too few laps were announced to mean much: {told:?}");
    let after = env.lap(&["run", "draw", "--laps", "1"]);
    assert_eq!(after.status, Some(0), "{after}");
    let logbook = Logbook::open(&env.path().join("logbook.db")).unwrap();
    let lost = logbook.laps().unwrap().iter().filter(|lap| lap.outcome == Outcome::Lost).count();
    assert!((1..=kills as usize).contains(&lost), "{lost} laps under way were recorded as lost");
}

/// Waits until every thread of the process stands still: a signal to stop is sent sooner than it is obeyed, and a thread
/// that still ran would see the tool go and end the lap.
fn wait_until_stopped(pid: &str) {
    let deadline = std::time::Instant::now() + Duration::from_secs(20);
    let stands = |task: std::fs::DirEntry| {
        let stat = std::fs::read_to_string(task.path().join("stat")).unwrap_or_default();
        stat.rsplit_once(')').is_some_and(|(_, rest)| rest.trim_start().starts_with('T'))
    };
    loop {
        let mut tasks = std::fs::read_dir(format!("/proc/{pid}/task")).expect("the starter lives");
        if tasks.all(|task| task.is_ok_and(stands)) {
            return;
        }
        assert!(std::time::Instant::now() < deadline, "{pid} does not stop");
        std::thread::sleep(Duration::from_millis(5));
    }
}

#[test]
fn the_next_run_ends_and_reports_what_a_killed_tool_and_starter_left() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"600\"]");
    let mut child = env.start(&["run", "--laps", "1"]);
    let starter = loop {
        std::thread::sleep(Duration::from_millis(20));
        let running = std::fs::read_dir("/proc").unwrap().filter_map(|entry| {
            let pid = entry.ok()?.file_name().into_string().ok()?;
            let command = std::fs::read_to_string(format!("/proc/{pid}/cmdline")).ok()?;
            let stat = std::fs::read_to_string(format!("/proc/{pid}/stat")).ok()?;
            let parent: u32 = stat.rsplit_once(')')?.1.split_whitespace().nth(1)?.parse().ok()?;
            (command.starts_with("lap-starter") && parent == child.id()).then_some(pid)
        });
        let running: Vec<String> = running.collect();
        if let [starter] = &running[..]
            && env.running().iter().any(|command| command.starts_with("sleep"))
        {
            break starter.clone();
        }
    };
    // The starter cannot clean up if it is killed too, and first.
    std::process::Command::new("kill").args(["-STOP", &starter]).status().unwrap();
    wait_until_stopped(&starter);
    child.kill().unwrap();
    child.wait().unwrap();
    std::process::Command::new("kill").args(["-KILL", &starter]).status().unwrap();
    assert!(
        env.running().iter().any(|command| command.starts_with("sleep")),
        "{:?}",
        env.running()
    );
    env.write(
        "study.toml",
        "[study]\nwarm_up = 0\n[workload.w]\nkind = \"task\"\ncommand = [\"true\"]\n",
    );
    let after = env.lap(&["run", "--laps", "1"]);
    assert!(after.stderr.contains("lap here-1.1 (w) is recorded as lost"), "{after}");
    assert!(after.stderr.contains("ended what it had left running: sleep"), "{after}");
    env.assert_nothing_runs();
    let shown = env.lap_ok(&["show", "here-1.1"]);
    assert!(shown.contains("the tool was ended while this lap was under way"), "{shown}");
}

#[test]
fn a_second_session_on_one_machine_is_refused_and_says_who_has_it() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"600\"]");
    let mut child = env.start(&["run", "--laps", "1"]);
    while !env.running().iter().any(|command| command.starts_with("sleep")) {
        std::thread::sleep(Duration::from_millis(20));
    }
    // Another study is no other machine.
    let other = TestEnv::with_workload(LAP, "command = [\"true\"]");
    let lock = env.path().join("machine.lock");
    let second = other.command(&["run"]).env("LAP_MACHINE_LOCK", lock).output().unwrap();
    assert_eq!(second.status.code(), Some(2));
    let (id, study) = (child.id(), env.path().display());
    let who = format!("another session is running on this machine (process {id}, in {study})");
    let said = String::from_utf8_lossy(&second.stderr);
    assert!(said.contains(&who), "{said}");
    assert!(!other.path().join("logbook.db").exists());
    child.kill().unwrap();
    child.wait().unwrap();
    env.assert_nothing_runs();
}

#[test]
fn a_session_that_is_to_wait_begins_when_the_machine_is_free() {
    let env = TestEnv::with_workload(LAP, "command = \"while [ ! -e go ]; do sleep 0.02; done\"");
    let mut child = env.start(&["run", "--laps", "1"]);
    // Its lap, and not the tool alone, which is there before it has the machine.
    while !env.running().iter().any(|command| command.starts_with("sleep")) {
        std::thread::sleep(Duration::from_millis(20));
    }
    let other = TestEnv::with_workload(LAP, "command = [\"true\"]");
    let waiting = || {
        let mut command = other.command(&["run", "--laps", "1", "--wait"]);
        command.env("LAP_MACHINE_LOCK", env.path().join("machine.lock"));
        command.stdout(Stdio::null()).stderr(Stdio::piped()).spawn().unwrap()
    };
    let first_line = |child: &mut Child| {
        let mut line = String::new();
        BufReader::new(child.stderr.as_mut().unwrap()).read_line(&mut line).unwrap();
        line
    };
    let (id, study) = (child.id(), env.path().display());
    let who = format!("waiting for the session on this machine (process {id}, in {study}) to end");
    // Ended while it waits, it leaves nothing. A shell has its background jobs ignore what Ctrl-C sends.
    let mut ended = waiting();
    assert!(first_line(&mut ended).starts_with(&who));
    kill_process(Pid::from_child(&ended), Signal::TERM).unwrap();
    assert!(!ended.wait().unwrap().success());
    assert!(!other.path().join("logbook.db").exists());
    // And one that is let wait runs, after the other.
    let mut waits = waiting();
    assert!(first_line(&mut waits).starts_with(&who));
    assert!(!other.path().join("logbook.db").exists(), "it has not begun");
    std::fs::write(env.path().join("go"), "").unwrap();
    assert!(child.wait().unwrap().success());
    assert!(waits.wait().unwrap().success());
    assert!(other.lap_ok(&["show", "here-1"]).contains("1 lap"), "it ran");
    other.assert_nothing_runs();
}

/// Copies a folder as somebody would who does not know what is in it.
fn copied(from: &TestEnv) -> TestEnv {
    let to = TestEnv::new(LAP);
    // What vanishes under its hands it complains of, and copies the rest.
    let copied = std::process::Command::new("cp")
        .args(["-a", &format!("{}/.", from.path().display())])
        .arg(to.path())
        .output();
    copied.expect("cp");
    to
}

#[test]
fn a_folder_copied_in_the_midst_of_a_run_is_a_study_of_its_own_and_both_still_merge() {
    // A lap that is to last says so: the tool is ended within it and not between two.
    let command = "sh -c 'test -e last && touch lasting && exec sleep 600; exec sleep 0.02'";
    let env = TestEnv::with_workload(LAP, &format!("command = {command:?}"));
    for (name, id) in [("ours", "1"), ("theirs", "2")] {
        env.lap_ok(&["stand-in", "machine", "--out", name]);
        std::fs::write(env.path().join(name).join("etc/machine-id"), id).unwrap();
    }
    let run = ["run", "--laps", "1000", "--rig", "heron", "--machine-root", "ours"];
    let mut child = env.start(&run);
    let mut moments = SplitMix::new(3);
    let mut copies = Vec::new();
    while !env.path().join("logbook.db").exists() {
        std::thread::sleep(Duration::from_millis(5));
    }
    while copies.len() < 20 {
        std::thread::sleep(Duration::from_millis(20 + moments.below(60)));
        copies.push(copied(&env));
    }
    std::fs::write(env.path().join("last"), "").unwrap();
    while !env.path().join("lasting").exists() {
        std::thread::sleep(Duration::from_millis(5));
    }
    child.kill().unwrap();
    child.wait().unwrap();
    std::fs::remove_file(env.path().join("last")).unwrap();
    let mut merged = 0;
    for (at, copy) in copies.iter().enumerate() {
        let theirs = format!("wren{at}");
        let driven =
            copy.lap(&["run", "--laps", "1", "--rig", &theirs, "--machine-root", "theirs"]);
        if driven.status != Some(0) {
            // Copied in the very moment of a commit: said, and nothing recorded on top of it.
            assert!(driven.stderr.contains("logbook.db"), "{driven}");
            continue;
        }
        assert!(!driven.stderr.contains("recorded as lost"), "the lap of another: {driven}");
        if !copy.path().join("logbook.db").exists() {
            continue;
        }
        let logbook = Logbook::open(&copy.path().join("logbook.db")).unwrap();
        let lost = logbook.laps().unwrap().into_iter().find(|lap| lap.outcome == Outcome::Lost);
        assert_eq!(lost, None, "copy {at}");
        let came = env.lap(&["merge", copy.path().to_str().unwrap()]);
        assert_eq!(came.status, Some(0), "copy {at}: {came}");
        merged += 1;
    }
    assert!(merged >= 15, "only {merged} of 20 copies could be used");
    // What the first folder had under way is its own, and is recorded there.
    let next = env.lap(&["run", "--laps", "1", "--machine-root", "ours"]);
    assert!(next.stderr.contains("is recorded as lost"), "{next}");
    let whole = env.lap_ok(&["verify"]);
    assert!(whole.contains("Nothing has changed"), "{whole}");
}
