//! Rigs that are run from one seat, through a real SSH server: what they recorded comes home, whatever breaks in between.
//!
//! Long, since all of it shares one server and the rigs behind it.

use super::LAP;
use honest_lap_testkit::{CommandResult, Sshd, TestEnv};
use rusqlite::Connection;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Child, Command};
use std::sync::LazyLock;
use std::time::{Duration, Instant};

/// A seat, and rigs that it reaches.
struct Lab {
    env: TestEnv,
    sshd: Sshd,
    homes: Vec<PathBuf>,
}

/// Returns a study whose workload runs `script`, with a rig of each name and what is said of it.
fn lab(script: &str, rigs: &[(&str, &str)]) -> Lab {
    let (env, sshd) = (TestEnv::new(stripped()), Sshd::start());
    let mut study = "[study]\nwarm_up = 0\nlaps = 4\n[workload.still]\nkind = \"task\"\n\
                     command = \"sh ./render.sh\"\ninputs = [\"sky/stars.txt\"]\nlimit = \"60s\"\n"
        .to_owned();
    let mut homes = Vec::new();
    for (rig, about) in rigs {
        let (reach, home) = sshd.host(rig, &[env.mark()]);
        study += &format!("[rig.{rig}]\nreach = \"{reach}\"\n{about}\n");
        homes.push(home);
    }
    env.write("study.toml", &study);
    env.write("render.sh", script);
    fs::create_dir(env.path().join("sky")).unwrap();
    env.write("sky/stars.txt", "Vega\n");
    Lab { env, sshd, homes }
}

/// Returns the tool without what only a debugger reads: it is sent to every rig, and five times as small.
fn stripped() -> &'static str {
    static TOOL: LazyLock<String> = LazyLock::new(|| {
        let folder = Path::new(env!("CARGO_TARGET_TMPDIR")).join("stripped");
        fs::create_dir_all(&folder).unwrap();
        for name in ["lap", "lap-starter"] {
            let from = Path::new(LAP).with_file_name(name);
            let to = folder.join(name);
            let made =
                Command::new("strip").args(["--strip-debug", "-o"]).args([&to, &from]).status();
            assert!(made.expect("strip is there: scripts/test installs it").success());
        }
        folder.join("lap").display().to_string()
    });
    &TOOL
}

impl Lab {
    fn run(&self, args: &[&str]) -> CommandResult {
        self.env.lap(&[&["run"], args].concat())
    }

    /// Runs a lap of another workload here, under heron's name, on what says that it is another machine.
    fn run_as_another_machine(&self) {
        let study = fs::read_to_string(self.env.path().join("study.toml")).unwrap();
        let quick = "[workload.quick]\nkind = \"task\"\ncommand = [\"true\"]\n";
        self.env.write("study.toml", &format!("{study}{quick}"));
        let other = self.env.path().join("other/etc");
        fs::create_dir_all(&other).unwrap();
        fs::write(other.join("machine-id"), "0123456789abcdef0123456789abcdef\n").unwrap();
        let root = ["--machine-root", "other", "--laps", "1", "--unwatched"];
        let came = self.run(&[&["quick", "--rig", "heron", "--here"][..], &root].concat());
        assert_eq!(came.status, Some(0), "{came}");
    }

    /// Nothing is left on any rig but its key, and nothing runs.
    fn assert_clean(&self) {
        self.env.assert_nothing_runs();
        for home in &self.homes {
            let left = files(home);
            let key =
                |path: &String| path == ".config/honest-lap/rig.key" || path == "machine.lock";
            assert!(left.iter().all(key), "{left:?}");
        }
        let noted = files(&self.env.path().join(".lap/remote"));
        assert!(noted.iter().all(|path| path.ends_with(".lock")), "{noted:?}");
    }

    /// Returns the laps of each session in the logbook, by name, each with how it came out.
    fn laps(&self) -> Vec<(String, i64, String)> {
        let db = Connection::open(self.env.path().join("logbook.db")).unwrap();
        let query = "SELECT s.rig || '-' || s.number, l.number, l.outcome FROM lap l
                     JOIN session s ON s.id = l.session ORDER BY s.rig, s.number, l.number";
        let mut rows = db.prepare(query).unwrap();
        let rows = rows.query_map([], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?))).unwrap();
        rows.map(Result::unwrap).collect()
    }

    /// Returns how many laps of each outcome there are, and that each is there once.
    fn outcomes(&self, session: &str) -> Vec<(i64, String)> {
        let laps = self.laps().into_iter().filter(|(of, ..)| of == session);
        let laps: Vec<(i64, String)> = laps.map(|(_, number, outcome)| (number, outcome)).collect();
        let numbers: Vec<i64> = laps.iter().map(|(number, _)| *number).collect();
        assert_eq!(numbers, (1..=laps.len() as i64).collect::<Vec<_>>(), "{laps:?}");
        laps
    }

    /// Waits until `line` was said often enough in the seat's words.
    fn wait_for_laps(&self, session: &str, laps: usize) {
        let deadline = Instant::now() + Duration::from_secs(60);
        while !self.env.path().join("logbook.db").exists() || self.outcomes_so_far(session) < laps {
            assert!(Instant::now() < deadline, "{session} has no {laps} laps");
            std::thread::sleep(Duration::from_millis(50));
        }
    }

    fn outcomes_so_far(&self, session: &str) -> usize {
        let db = Connection::open(self.env.path().join("logbook.db")).unwrap();
        let query = "SELECT count(*) FROM lap l JOIN session s ON s.id = l.session
                     WHERE s.rig || '-' || s.number = ?1";
        db.query_row(query, [session], |row| row.get::<_, i64>(0)).unwrap_or(0) as usize
    }
}

/// Returns every file below `folder`, seen from there.
fn files(folder: &Path) -> Vec<String> {
    let mut all = Vec::new();
    let mut folders = vec![folder.to_owned()];
    while let Some(next) = folders.pop() {
        for entry in fs::read_dir(next).into_iter().flatten().map(Result::unwrap) {
            match entry.file_type().unwrap().is_dir() {
                true => folders.push(entry.path()),
                false => {
                    let path = entry.path();
                    all.push(path.strip_prefix(folder).unwrap().display().to_string());
                }
            }
        }
    }
    all.sort();
    all
}

fn said(mut child: Child) -> CommandResult {
    use std::io::Read;
    let (mut stdout, mut stderr) = (String::new(), String::new());
    child.stderr.take().unwrap().read_to_string(&mut stderr).unwrap();
    child.stdout.take().unwrap().read_to_string(&mut stdout).unwrap();
    CommandResult { stdout, stderr, status: child.wait().unwrap().code() }
}

fn signal(pid: u32, signal: &str) {
    assert!(Command::new("kill").args([signal, &pid.to_string()]).status().unwrap().success());
}

const QUICK: &str = "cat sky/stars.txt; sleep 0.1\n";

#[test]
fn three_rigs_run_from_one_seat_and_leave_nothing_behind() {
    let lab = lab(QUICK, &[("heron", ""), ("wren", ""), ("plover", "")]);
    let preview = lab.run(&["--rig", "heron,wren", "--preview"]);
    assert!(preview.stderr.contains("`lap` and 3 files"), "{preview}");
    assert!(preview.stdout.contains("On rig wren: 4 laps"), "{preview}");
    assert!(preview.stdout.lines().count() < 8, "a line a rig: {preview}");
    assert!(!lab.env.path().join("logbook.db").exists());
    let came = lab.run(&["--rig", "heron,wren,plover"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(
        came.stdout.contains("sessions heron-1, plover-1, wren-1")
            || came.stdout.contains("sessions heron-1, wren-1, plover-1"),
        "{came}"
    );
    for rig in ["heron", "wren", "plover"] {
        let laps = lab.outcomes(&format!("{rig}-1"));
        assert_eq!(laps, (1..=4).map(|lap| (lap, "done".to_owned())).collect::<Vec<_>>());
        let line = format!("  {rig}-1.4 ");
        assert_eq!(came.stderr.matches(&line).count(), 1, "{line}: {came}");
    }
    lab.assert_clean();
    // Each lap did its work in the files that were sent, and each session is signed by the key of its rig.
    let shown = lab.env.lap_ok(&["show", "wren-1.2"]);
    assert!(shown.contains("Vega"), "{shown}");
    let verified = lab.env.lap_ok(&["verify"]);
    assert!(verified.contains("12 laps in 3 sessions"), "{verified}");
    assert!(verified.contains("3 signed by an unknown key"), "{verified}");
    // The next session of a rig goes on with its numbers, and knows how long a lap takes.
    let again = lab.run(&["still", "--rig", "heron", "--laps", "2", "--remark", "a second time"]);
    assert_eq!(again.status, Some(0), "{again}");
    assert!(again.stderr.contains("session heron-2: 2 laps"), "{again}");
    assert!(lab.env.lap_ok(&["show", "heron-2"]).contains("a second time"));
    assert_eq!(lab.laps().len(), 14);
    lab.assert_clean();
}

#[test]
fn what_would_resolve_doubts_is_run_on_each_rig() {
    let lab = lab(QUICK, &[("heron", ""), ("wren", "")]);
    for (rig, laps) in [("heron", "1"), ("wren", "2")] {
        let came = lab.run(&["--rig", rig, "--laps", laps]);
        assert_eq!(came.status, Some(0), "{came}");
    }
    let doubted = lab.env.lap(&["doubts", "--retest", "--format", "json"]);
    let doubted: serde_json::Value = serde_json::from_str(&doubted.stdout).unwrap();
    let wanted = |rig: &str| {
        let rows = doubted["groups"][0]["rows"].as_array().unwrap();
        rows.iter().find(|row| row["rig"] == rig).map(|row| row["laps"].as_f64().unwrap() as usize)
    };
    let (of_heron, of_wren) = (wanted("heron").unwrap(), wanted("wren").unwrap());
    let preview = lab.run(&["--rig", "heron,wren", "--retest", "--preview"]);
    assert!(preview.stdout.contains(&format!("{of_heron} laps")), "{preview}");
    let came = lab.run(&["--rig", "heron,wren", "--retest"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("retest: still on heron: "), "{came}");
    assert_eq!(lab.outcomes("heron-2").len(), of_heron, "{came}");
    assert_eq!(lab.outcomes("wren-2").len(), of_wren, "{came}");
    lab.assert_clean();
}

#[test]
fn ctrl_c_ends_the_laps_everywhere_and_they_go_on_later() {
    let lab = lab("sleep 0.5\n", &[("heron", ""), ("wren", "")]);
    let child = lab.env.start(&["run", "--rig", "heron,wren", "--laps", "100"]);
    lab.wait_for_laps("heron-1", 2);
    lab.wait_for_laps("wren-1", 2);
    signal(child.id(), "-INT");
    let asked = Instant::now();
    let came = said(child);
    assert_eq!(came.status, Some(3), "{came}");
    assert!(asked.elapsed() < Duration::from_secs(15), "{:?}", asked.elapsed());
    assert!(came.stderr.contains("stopping: ending the laps on "), "{came}");
    lab.assert_clean();
    for session in ["heron-1", "wren-1"] {
        let laps = lab.outcomes(session);
        let (last, before) = laps.split_last().unwrap();
        // Between two laps there is none to interrupt.
        assert!(["interrupted", "done"].contains(&&*last.1) && laps.len() < 100, "{laps:?}");
        assert!(before.len() >= 2 && before.iter().all(|(_, outcome)| outcome == "done"));
    }
    lab.env.lap_ok(&["verify"]);
    // The session itself goes on: its laps follow those that are here.
    let before = lab.outcomes("heron-1").len();
    let child = lab.env.start(&["run", "--rig", "heron", "--resume"]);
    lab.wait_for_laps("heron-1", before + 2);
    signal(child.id(), "-INT");
    let came = said(child);
    assert!(came.stderr.contains("session heron-1: "), "{came}");
    assert!(lab.outcomes("heron-1").len() > before + 1);
    lab.env.lap_ok(&["verify"]);
    lab.assert_clean();
}

#[test]
fn a_connection_that_is_cut_is_made_again_and_nothing_is_lost_or_there_twice() {
    let lab = lab("sleep 0.4\n", &[("heron", ""), ("wren", "")]);
    let child = lab.env.start(&["run", "--rig", "heron,wren", "--laps", "12"]);
    for laps in [1, 4] {
        // Of both: a rig that has not begun is not waited for.
        lab.wait_for_laps("heron-1", laps);
        lab.wait_for_laps("wren-1", 1);
        assert!(lab.sshd.cut() > 0);
    }
    let came = said(child);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(
        came.stderr.contains("warning: heron: the connection was lost; trying again"),
        "{came}"
    );
    for rig in ["heron", "wren"] {
        assert_eq!(lab.outcomes(&format!("{rig}-1")).len(), 12);
        for lap in 1..=12 {
            let line = format!("  {rig}-1.{lap} ");
            assert_eq!(came.stderr.matches(&line).count(), 1, "{line}: {came}");
        }
    }
    lab.env.lap_ok(&["verify"]);
    lab.assert_clean();
}

#[test]
fn a_seat_that_is_killed_finds_everything_later() {
    let lab = lab("sleep 0.3\n", &[("heron", ""), ("wren", "")]);
    let mut child = lab.env.start(&["run", "--rig", "heron,wren", "--laps", "8"]);
    lab.wait_for_laps("heron-1", 2);
    lab.wait_for_laps("wren-1", 1);
    child.kill().unwrap();
    child.wait().unwrap();
    // The rigs go on by themselves; a new run on one of them would be in its way.
    let refused = lab.run(&["--rig", "heron"]);
    assert_eq!(refused.status, Some(2), "{refused}");
    assert!(refused.stderr.contains("a run on rig heron has not been collected yet"), "{refused}");
    let came = lab.run(&["--resume"]);
    assert_eq!(came.status, Some(0), "{came}");
    for session in ["heron-1", "wren-1"] {
        let laps = lab.outcomes(session);
        assert_eq!(laps, (1..=8).map(|lap| (lap, "done".to_owned())).collect::<Vec<_>>());
    }
    lab.env.lap_ok(&["verify"]);
    lab.assert_clean();
    // `lap sync` collects too, and needs no store for that.
    let mut child = lab.env.start(&["run", "--rig", "heron"]);
    lab.wait_for_laps("heron-2", 1);
    child.kill().unwrap();
    child.wait().unwrap();
    let came = lab.env.lap(&["sync"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert_eq!(lab.outcomes("heron-2").len(), 4);
    lab.assert_clean();
}

#[test]
fn a_run_that_was_cut_off_there_goes_on_when_it_is_resumed() {
    let lab = lab("sleep 0.4\n", &[("heron", "")]);
    let child = lab.env.start(&["run", "--rig", "heron", "--laps", "6"]);
    lab.wait_for_laps("heron-1", 2);
    // As a rig that loses its power: everything there ends at once.
    let running = there(&lab.env, &["lap", "lap-starter", "./lap", "sh", "sleep"]);
    assert!(running.len() >= 3, "{running:?}");
    running.iter().for_each(|pid| {
        let _ =
            Command::new("kill").args(["-KILL", pid]).stderr(std::process::Stdio::null()).status();
    });
    let came = said(child);
    assert_eq!(came.status, Some(3), "{came}");
    assert!(came.stderr.contains("`lap run --resume`"), "{came}");
    let resumed = lab.run(&["--resume"]);
    assert_eq!(resumed.status, Some(0), "{resumed}");
    let laps = lab.outcomes("heron-1");
    let of = |wanted: &str| laps.iter().filter(|(_, outcome)| outcome == wanted).count();
    assert_eq!((of("done"), of("lost")), (6, 1), "{laps:?}");
    lab.env.lap_ok(&["verify"]);
    lab.assert_clean();
}

/// Returns the processes of this test that run on a rig, by the names of their programs.
fn there(env: &TestEnv, programs: &[&str]) -> Vec<String> {
    let (name, value) = env.mark();
    let wanted = format!("{name}={value}");
    let mark = |entry: fs::DirEntry| {
        let environment = fs::read(entry.path().join("environ")).ok()?;
        let mut words = environment.split(|&byte| byte == 0);
        let is_ours = words.clone().any(|word| word == wanted.as_bytes());
        let on_rig = words.any(|word| word.starts_with(b"SSH_CONNECTION="));
        let command = fs::read(entry.path().join("cmdline")).ok()?;
        let first = String::from_utf8_lossy(command.split(|&byte| byte == 0).next()?).into_owned();
        let program = first.rsplit('/').next()?.to_owned();
        let wanted = programs.iter().any(|name| *name == first || *name == program);
        (is_ours && on_rig && wanted).then(|| entry.file_name().to_string_lossy().into_owned())
    };
    fs::read_dir("/proc").unwrap().filter_map(|entry| mark(entry.ok()?)).collect()
}

#[test]
fn a_rig_that_shares_its_power_runs_alone() {
    let lab = lab("sleep 0.4\n", &[("heron", ""), ("wren", "apart = true"), ("plover", "")]);
    let came = lab.run(&["--rig", "wren,heron,plover", "--laps", "3"]);
    assert_eq!(came.status, Some(0), "{came}");
    let place = |text: &str| came.stderr.find(text).unwrap_or_else(|| panic!("{text}: {came}"));
    assert!(place("wren-1.1 ") > place("heron-1.3 ") && place("wren-1.1 ") > place("plover-1.3 "));
    lab.assert_clean();
}

#[test]
fn a_rig_that_is_another_machine_is_refused_there_unless_it_was_set_up_anew() {
    let lab = lab(QUICK, &[("heron", "")]);
    lab.run_as_another_machine();
    let refused = lab.run(&["still", "--rig", "heron", "--laps", "1"]);
    assert_eq!(refused.status, Some(2), "{refused}");
    assert!(
        refused.stderr.contains("heron  error: laps of rig heron were recorded on another"),
        "{refused}"
    );
    lab.assert_clean();
    let rebuilt = lab.run(&["still", "--rig", "heron", "--laps", "1", "--rebuilt"]);
    assert_eq!(rebuilt.status, Some(0), "{rebuilt}");
    assert_eq!(lab.outcomes("heron-2").len(), 1, "{rebuilt}");
    lab.assert_clean();
}

#[test]
fn what_cannot_be_joined_is_lost_neither_here_nor_there() {
    let lab = lab(QUICK, &[("heron", "")]);
    // Its session begins once another machine has recorded under the same name here.
    let gate = lab.env.path().join("gate");
    let waits = format!(
        "versions = {{ gate = \"while [ ! -e {} ]; do sleep 0.05; done\" }}",
        gate.display()
    );
    let study = fs::read_to_string(lab.env.path().join("study.toml")).unwrap();
    lab.env.write("study.toml", &study.replace("limit =", &format!("{waits}\nlimit =")));
    let child = lab.env.start(&["run", "still", "--rig", "heron", "--laps", "3"]);
    let deadline = Instant::now() + Duration::from_secs(60);
    while there(&lab.env, &["sleep"]).is_empty() {
        assert!(Instant::now() < deadline, "no lap begins there");
        std::thread::sleep(Duration::from_millis(20));
    }
    lab.run_as_another_machine();
    fs::write(&gate, "").unwrap();
    let came = said(child);
    assert_eq!(came.status, Some(2), "{came}");
    let two = "error: heron: rig heron is one machine here and another in what came from heron";
    assert_eq!(came.stderr.matches(two).count(), 1, "{came}");
    assert!(came.stderr.contains(".lap/remote/heron.db"), "{came}");
    assert!(!files(&lab.homes[0].join(".cache")).is_empty(), "it stays there too");
    // Once it is said whose machine is whose, all of it comes home, and nothing stays.
    lab.env.lap_ok(&["merge", ".lap/remote/heron.db", "--same", "heron"]);
    let resumed = lab.run(&["--resume"]);
    assert_eq!(resumed.status, Some(0), "{resumed}");
    assert_eq!(lab.laps().len(), 4, "{resumed}");
    lab.env.lap_ok(&["verify"]);
    lab.assert_clean();
}

#[test]
fn what_does_not_work_is_told_with_its_remedy_and_leaves_nothing() {
    let lab = lab(QUICK, &[("heron", ""), ("wren", "")]);
    let study = fs::read_to_string(lab.env.path().join("study.toml")).unwrap();
    let with = |rig: &str, reach: &str| {
        lab.env.write("study.toml", &format!("{study}[rig.{rig}]\nreach = \"{reach}\"\n"));
    };
    let no_way = lab.run(&["--rig", "heron,osprey"]);
    assert_eq!(no_way.status, Some(2), "{no_way}");
    assert!(no_way.stderr.contains("does not say how rig osprey is reached"), "{no_way}");
    let retest = lab.run(&["--rig", "heron,wren", "--retest"]);
    assert!(retest.status == Some(2) && retest.stderr.contains("nothing is in doubt"), "{retest}");
    let root = lab.run(&["--rig", "heron", "--machine-root", "other"]);
    assert!(root.status == Some(2) && root.stderr.contains("machine that `lap` runs on"), "{root}");
    // Nobody answers; the others run all the same.
    with("osprey", "sh -c 'echo no route to it >&2; exit 255' sh");
    let unreached = lab.run(&["--rig", "osprey,heron", "--laps", "1"]);
    assert_eq!(unreached.status, Some(3), "{unreached}");
    assert!(unreached.stderr.contains("error: osprey: `sh -c"), "{unreached}");
    assert!(unreached.stderr.contains("no route to it"), "{unreached}");
    assert_eq!(lab.outcomes("heron-1").len(), 1);
    // Whatever holds a way there open, Ctrl-C ends it here.
    with("osprey", "sh -c 'sleep 30' sh");
    let child = lab.env.start(&["run", "--rig", "osprey"]);
    std::thread::sleep(Duration::from_secs(2));
    signal(child.id(), "-INT");
    let asked = Instant::now();
    assert_eq!(said(child).status, Some(3));
    assert!(asked.elapsed() < Duration::from_secs(12), "{:?}", asked.elapsed());
    // Another processor, and a program for it that is none.
    lab.env
        .write("arm.sh", "uname() { if [ $1 = -s ]; then echo Linux; else echo aarch64; fi; }\n");
    with("osprey", "sh arm-reach.sh");
    lab.env.write(
        "arm-reach.sh",
        "mkdir -p $TMPDIR/bin; printf '#!/bin/sh\\n[ $1 = -s ] && echo Linux || echo aarch64\\n' >$TMPDIR/bin/uname\n\
         chmod +x $TMPDIR/bin/uname; PATH=$TMPDIR/bin:$PATH XDG_CACHE_HOME=$TMPDIR/far sh -c \"$1\"\n",
    );
    let other = lab.run(&["--rig", "osprey"]);
    assert_eq!(other.status, Some(3), "{other}");
    assert!(
        other.stderr.contains("the machine is aarch64") && other.stderr.contains("--binary"),
        "{other}"
    );
    let none = lab.run(&["--rig", "osprey", "--binary", "render.sh"]);
    assert_eq!(none.status, Some(2), "{none}");
    // What arrives otherwise than it left is not run.
    lab.env.write(
        "flip.sh",
        // Another sum than that of what arrives.
        "there=$(echo \"$1\" | sed 's/cd \"$d\" ||/sum=$(echo y | sha256sum); cd \"$d\" ||/; s/$hash  lap/${sum%% *}  lap/')
         XDG_CACHE_HOME=$TMPDIR/far exec sh -c \"$there\"\n",
    );
    with("osprey", "sh flip.sh");
    let flipped = lab.run(&["--rig", "osprey"]);
    assert_eq!(flipped.status, Some(3), "{flipped}");
    assert!(flipped.stderr.contains("did not arrive as it left"), "{flipped}");
    assert_eq!(files(&lab.env.path().join("far")).len(), 0);
    lab.assert_clean();
}

/// Alters the laps of a logbook whose triggers forbid that, and leaves no trace of it in the schema.
fn behind_triggers(db: &Connection, sql: &str) {
    let query = "SELECT name, sql FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = 'lap'";
    let mut triggers = db.prepare(query).unwrap();
    let triggers = triggers.query_map([], |row| Ok((row.get(0)?, row.get(1)?))).unwrap();
    let triggers: Vec<(String, String)> = triggers.map(Result::unwrap).collect();
    let all = |sql: &dyn Fn(&(String, String)) -> String| {
        triggers.iter().for_each(|trigger| db.execute_batch(&sql(trigger)).unwrap());
    };
    all(&|(name, _)| format!("DROP TRIGGER {name}"));
    assert!(db.execute(sql, []).unwrap() > 0);
    all(&|(_, made)| made.clone());
}

#[test]
fn a_machine_that_means_no_good_changes_nothing_here() {
    let lab = lab(QUICK, &[("heron", "")]);
    assert_eq!(lab.run(&["--rig", "heron", "--laps", "1"]).status, Some(0));
    let study = fs::read_to_string(lab.env.path().join("study.toml")).unwrap();
    lab.env.write("study.toml", &format!("{study}[rig.osprey]\nreach = \"sh far.sh\"\n"));
    let before = fs::read(lab.env.path().join("logbook.db")).unwrap();
    // What a rig might send in place of laps: nothing of sense, somebody else's database, its own logbook altered.
    let altered = lab.env.path().join("laps");
    fs::copy(lab.env.path().join("logbook.db"), &altered).unwrap();
    let db = Connection::open(&altered).unwrap();
    behind_triggers(&db, "UPDATE lap SET wall_ns = 1");
    drop(db);
    let foreign = lab.env.path().join("foreign/laps");
    fs::create_dir(foreign.parent().unwrap()).unwrap();
    Connection::open(&foreign).unwrap().execute("CREATE TABLE letter (text)", []).unwrap();
    for (what, sends) in [
        ("noise", "head -c 100000 /dev/urandom"),
        ("an altered logbook", "tar -cf - laps; sleep 2"),
        ("a foreign database", "tar -C foreign -cf - laps"),
        ("a link", "mkdir link; ln -s nowhere link/said; tar -C link -cf - said"),
        (
            "too many words",
            "mkdir words; head -c 3000000 /dev/zero >words/said; tar -C words -cf - said",
        ),
        ("no word at all", "true"),
        ("another name", "echo x >letter; tar -cf - letter"),
    ] {
        let script = format!(
            "mark=$(echo \"$1\" | grep -o 'away-[0-9a-f]*' | head -n 1 | cut -c6-)\n\
             echo honest-lap $mark new Linux $(uname -m)\nread line; exec 3<&0; cat <&3 >/dev/null &\n{sends}\n"
        );
        lab.env.write("far.sh", &script);
        let came = lab.run(&["--rig", "osprey"]);
        assert!(matches!(came.status, Some(2 | 3)), "{what}: {came}");
        assert!(came.stderr.contains("error: osprey: "), "{what}: {came}");
        assert_eq!(fs::read(lab.env.path().join("logbook.db")).unwrap(), before, "{what}");
        let _ = fs::remove_dir_all(lab.env.path().join(".lap/remote"));
    }
}
