//! Laps under control: what is read from them, how they are divided, what they ran under.
//!
//! Runs for about 19 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{TestEnv, csv_column, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn rows(env: &TestEnv, args: &[&str]) -> Vec<Value> {
    let text = env.lap_ok(&[args, &["--format", "json"]].concat());
    let json: Value = serde_json::from_str(&text).unwrap();
    let groups = json["groups"].as_array().unwrap();
    groups.iter().flat_map(|group| group["rows"].as_array().unwrap().clone()).collect()
}

/// Returns the rows of a comparison.
fn compared(env: &TestEnv, args: &[&str]) -> Vec<Value> {
    let text = env.lap_ok(&[&["compare"], args, &["--format", "json"]].concat());
    rows_of(&serde_json::from_str(&text).unwrap())
}

fn suite(lines: &str) -> TestEnv {
    let study = format!("[study]\nwarm_up = 0\nlaps = 3\n[workload.w]\n{lines}\n");
    TestEnv::with_study(LAP, &study)
}

#[test]
fn a_failed_sub_test_leaves_the_others_standing() {
    let env = suite(
        "kind = \"score\"\n\
         command = \"n=$(cat n 2>/dev/null || echo 0); echo $((n+1)) > n; echo Sky score: 81$n; [ $n = 1 ] || echo Sea score: 7.5\"\n\
         readings = [{ name = \"sky\", after = \"Sky score\", better = \"more\" },\n\
                     { name = \"sea\", after = \"Sea score\", better = \"more\" }]",
    );
    let came = env.lap(&["run"]);
    assert_eq!(came.status, Some(3), "{came}");
    assert!(came.stderr.contains("sea: no line of standard output has `Sea score`"), "{came}");
    let rows = compared(&env, &[]);
    let counted = |measure: &str| {
        rows.iter().find(|row| row["measure"] == measure).unwrap()["counts"]["counted"].clone()
    };
    assert_eq!((counted("sky"), counted("sea")), (3.into(), 2.into()));
    assert!(!rows.iter().any(|row| row["measure"] == "time"), "a score is not about its time");
    let lap = env.lap_ok(&["show", "here-1.2"]);
    assert!(lap.contains("a reading failed") && lap.contains("sea not read"), "{lap}");
}

#[test]
fn a_number_in_the_midst_of_much_output_is_found_and_one_that_is_there_twice_is_none() {
    let env = suite(
        "kind = \"score\"\n\
         command = \"seq 1 60000; echo Total: 1,234.5 points; seq 1 60000\"\n\
         readings = [{ name = \"total\", after = \"Total\", unit = \"points\", better = \"more\" },\n\
                     { name = \"twice\", pattern = '^4711(.*)$', better = \"more\" }]",
    );
    let came = env.lap(&["run", "--laps", "1"]);
    assert!(
        came.stderr.contains("twice: a match of `^4711(.*)$` is in standard output twice"),
        "{came}"
    );
    let row = compared(&env, &["--measure", "total"]).remove(0);
    assert_eq!((&row["cell"]["most"], &row["measure"]), (&1234.5.into(), &"total".into()));
    assert!(!env.path().join(".lap/laps/spool/stdout").exists(), "spools are cleared away");
}

#[test]
fn marks_in_the_output_divide_a_lap_and_say_which_part_counts() {
    let env = suite(
        "kind = \"task\"\n\
         command = \"echo loading; sleep 0.05; echo scene loaded; sleep 0.2; echo saving\"\n\
         splits = [{ part = \"load\" }, { part = \"draw\", from = 'scene loaded' }, { part = \"save\", from = '^saving' }]\n\
         counts = [\"draw\"]",
    );
    env.lap_ok(&["run"]);
    let rows = compared(&env, &[]);
    let typical = |measure: &str| {
        let row = rows.iter().find(|row| row["measure"] == measure).unwrap();
        row["cell"]["typical"].as_f64().unwrap()
    };
    let (time, draw, load) = (typical("time"), typical("draw"), typical("load"));
    assert!((time - draw).abs() < 1e-9, "the time is the draw's: {time} {draw}");
    assert!((0.2..0.5).contains(&draw) && (0.05..0.2).contains(&load), "{draw} {load}");
    let lap = env.lap_ok(&["show", "here-1.1"]);
    assert!(lap.contains("of it counts"), "{lap}");
}

#[test]
fn marks_may_stand_in_a_file_that_the_lap_appends_to() {
    let env = suite(
        "kind = \"task\"\n\
         command = \"sleep 0.1; echo drawn >> {lap_dir}/marks; sleep 0.05\"\n\
         splits = [{ part = \"draw\" }, { part = \"save\", from = 'drawn' }]\n\
         splits_in = \"{lap_dir}/marks\"",
    );
    env.lap_ok(&["run"]);
    for row in compared(&env, &["--measure", "draw"]) {
        let draw = row["cell"]["typical"].as_f64().unwrap();
        assert!((0.1..0.4).contains(&draw), "{draw}");
    }
    let missing = suite(
        "kind = \"task\"\ncommand = \"true\"\n\
         splits = [{ part = \"draw\" }, { part = \"save\", from = 'drawn' }]\nsplits_in = \"{lap_dir}/marks\"",
    );
    let came = missing.lap(&["run", "--laps", "1"]);
    assert!(came.stderr.contains("no line of {lap_dir}/marks has a match of `drawn`"), "{came}");
}

#[test]
fn cold_and_warm_laps_are_two_variants_and_the_cache_is_emptied_for_the_cold_ones_only() {
    let env = suite(
        "kind = \"task\"\n\
         before = [\"rm\", \"-f\", \"cache\"]\n\
         command = \"[ -e cache ] || sleep 0.1; echo x >> cache; wc -l < cache\"\n\
         fills_cache = true",
    );
    env.lap_ok(&["run"]);
    let shown = env.lap_ok(&["show", "here-1", "--format", "csv"]);
    let order: Vec<&str> =
        shown.lines().skip(1).map(|line| line.split(',').nth(2).unwrap()).collect();
    assert_eq!(order, ["cache=cold", "cache=warm"].repeat(3));
    let warm = env.lap_ok(&["show", "here-1.2"]);
    assert!(warm.contains("standard output, 2 B:") && warm.contains("\n· 2"), "{warm}");
    let compared = env.lap_ok(&["compare"]);
    assert!(compared.contains("against cache=cold: cache=warm faster"), "{compared}");
    let doubts = env.lap(&["doubts"]);
    assert!(!doubts.stdout.contains("first lap"), "where it is declared it is no doubt: {doubts}");
}

#[test]
fn a_simulated_machine_is_watched_and_what_it_does_not_show_is_absent_and_no_zero() {
    let env = suite("kind = \"task\"\ncommand = [\"sleep\", \"3\"]");
    let machine = env.start(&[
        "stand-in",
        "machine",
        "--out",
        "sim",
        "--seconds",
        "8",
        "--trouble",
        "throttle",
    ]);
    while !env.path().join("sim/sys/class/drm/card0/gt_act_freq_mhz").exists() {
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    env.lap_ok(&[
        "run",
        "--laps",
        "1",
        "--machine-root",
        "sim",
        "--room",
        "21.5C",
        "--remark",
        "quiet",
    ]);
    let lap = &rows(&env, &["show", "here-1.1"])[0];
    assert!(lap["samples"].as_u64() >= Some(6), "{lap}");
    assert!(lap["power_w"].as_f64() > Some(5.0) && lap["energy_j"].as_f64() > Some(30.0), "{lap}");
    assert_eq!((&lap["on_mains"], &lap["governor"]), (&true.into(), &"performance".into()));
    let said = env.lap_ok(&["show", "here-1.1"]);
    assert!(said.contains("clock of the cores") && said.contains("°C"), "{said}");
    let doubted = env.lap(&["doubts"]);
    assert_eq!(doubted.status, Some(1));
    assert!(
        doubted.stdout.contains("throttled") && doubted.stdout.contains("saw its clock fall by"),
        "{doubted}"
    );
    let session = env.lap_ok(&["show", "here-1"]);
    assert!(session.contains("Room at 21.5 °C.") && session.contains("quiet"), "{session}");
    let bare = suite("kind = \"task\"\ncommand = [\"true\"]");
    std::fs::create_dir(bare.path().join("nothing")).unwrap();
    bare.lap_ok(&["run", "--laps", "1", "--machine-root", "nothing"]);
    let lap = &rows(&bare, &["show", "here-1.1"])[0];
    for key in ["clock_mhz", "temperature_c", "swapped_bytes", "others_cpu_ns", "battery"] {
        assert_eq!(lap[key], Value::Null, "{key}");
    }
    drop(machine.wait_with_output());
}

#[test]
fn an_outside_meter_is_read_while_laps_run_and_ends_with_the_session() {
    let env = suite("kind = \"task\"\ncommand = [\"sleep\", \"1.2\"]");
    let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    let meter =
        "[meter.wall]\ncommand = \"while :; do echo 41.5; sleep 0.1; done\"\nunit = \"W\"\n";
    env.write("study.toml", &format!("{study}{meter}"));
    env.lap_ok(&["run", "--laps", "2"]);
    let lap = env.lap_ok(&["show", "here-1.2"]);
    assert!(lap.contains("wall: 41.5 W in the mean, at most 41.5 W"), "{lap}");
    env.assert_nothing_runs();
}

#[test]
fn where_parts_count_their_power_counts_and_that_of_loading_does_not() {
    let study = "[study]\nlaps = 1\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n\
        command = \"sleep 1.5; touch drawing; echo draw; sleep 1.5; rm drawing\"\n\
        splits = [{ part = \"load\" }, { part = \"draw\", from = 'draw' }]\ncounts = [\"draw\"]\n\
        [meter.wall]\nunit = \"W\"\n\
        command = \"while :; do if [ -e drawing ]; then echo 80; else echo 20; fi; sleep 0.05; done\"\n";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["run", "--rig", "heron"]);
    let of = |measure: &str| -> f64 {
        let csv = env.lap_ok(&["compare", "--measure", measure, "--format", "csv"]);
        csv_column(&csv, "typical")[0].parse().expect("a number")
    };
    // What a meter says is read a moment later, so that the first look may be of loading: of three, on a busy machine. Of the
    // whole lap it is 50 W.
    let (power, energy) = (of("wall mean power"), of("wall energy"));
    assert!(power > 58.0, "{power}");
    assert!((energy / power - 1.5).abs() < 0.3, "of its own time: {energy} J at {power} W");
}

#[test]
fn a_meter_that_ended_is_absent_from_then_on() {
    let env = suite("kind = \"task\"\ncommand = [\"sleep\", \"1.2\"]");
    let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    let meter =
        "[meter.wall]\ncommand = \"echo watts: 41.5; sleep 0.9; echo 0.0425 kW\"\nunit = \"W\"\n";
    env.write("study.toml", &format!("{study}{meter}"));
    let run = env.lap(&["run", "--laps", "3"]);
    let said = "warning: meter wall: its command has ended; laps have no value of it";
    assert_eq!(run.stderr.matches(said).count(), 1, "{run}");
    assert!(run.stderr.find("here-1.1") < run.stderr.find(said), "after the first lap: {run}");
    assert!(env.lap_ok(&["show", "here-1.1"]).contains("wall: "));
    let last = env.lap_ok(&["show", "here-1.3"]);
    assert!(!last.contains("wall: 4"), "the last value is none of a later lap: {last}");
    env.assert_nothing_runs();
}

#[test]
fn a_meter_that_says_nothing_is_warned_of_before_the_first_lap() {
    for (command, why) in [
        ("sleep 60", "it prints nothing"),
        ("while :; do echo off; sleep 0.1; done", "it prints `off`, which is no value in W"),
        ("exit 3", "its command has ended"),
    ] {
        let env = suite("kind = \"task\"\ncommand = [\"true\"]");
        let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
        let meter = format!("[meter.wall]\ncommand = \"{command}\"\nunit = \"W\"\n");
        env.write("study.toml", &format!("{study}{meter}"));
        let run = env.lap(&["run", "--laps", "2"]);
        let said = format!("warning: meter wall: {why}; laps have no value of it");
        assert_eq!(run.stderr.matches(&said).count(), 1, "{run}");
        assert!(run.stderr.find(&said) < run.stderr.find("here-1.1"), "{run}");
        assert!(run.stderr.contains("try the command of [meter.wall] alone"), "{run}");
        env.assert_nothing_runs();
    }
}

#[test]
fn rig_says_what_it_is_and_check_what_would_spoil_a_lap() {
    let env = TestEnv::new(LAP);
    env.lap_ok(&["stand-in", "machine", "--out", "sim", "--trouble", "battery"]);
    insta::assert_snapshot!(env.lap_ok(&["rig", "--machine-root", "sim"]));
    let check = env.lap(&["rig", "check", "--machine-root", "sim", "--watch", "10ms"]);
    assert_eq!(check.status, Some(1));
    for said in ["on battery", "charged to 62 %", "governor `powersave`"] {
        assert!(check.stdout.contains(said), "{said}: {check}");
    }
    env.lap_ok(&["stand-in", "machine", "--out", "fine"]);
    let fine = env.lap(&["rig", "check", "--machine-root", "fine", "--watch", "10ms"]);
    assert!(fine.stdout.contains("Nothing that could distort a lap was seen"), "{fine}");
}

#[test]
fn the_whole_tree_is_accounted_even_what_moved_to_a_session_of_its_own() {
    // A worker that nobody waits for, in a session of its own, its parent gone: busy for a second.
    let env = suite(
        "kind = \"task\"\n\
         command = \"(setsid timeout 1 sh -c 'while :; do :; done' &) ; sleep 1.3\"",
    );
    env.lap_ok(&["run", "--laps", "1"]);
    let lap = &rows(&env, &["show", "here-1.1"])[0];
    let used = lap["user_ns"].as_u64().unwrap() + lap["system_ns"].as_u64().unwrap();
    assert!((200_000_000..1_500_000_000).contains(&used), "{used} ns");
    assert!(lap["tree_peak_bytes"].as_u64() >= lap["peak_bytes"].as_u64(), "{lap}");
    // Two at once hold more than the larger of them alone.
    let two = suite(
        "kind = \"task\"\n\
         command = \"{lap} stand-in hold-memory --mib 60 --seconds 1 & {lap} stand-in hold-memory --mib 60 --seconds 1; wait\"",
    );
    two.lap_ok(&["run", "--laps", "1"]);
    let lap = &rows(&two, &["show", "here-1.1"])[0];
    let (tree, one) =
        (lap["tree_peak_bytes"].as_u64().unwrap(), lap["peak_bytes"].as_u64().unwrap());
    assert!(one < 80_000_000 && tree > 120_000_000, "one {one}, tree {tree}");
    let groups = std::process::Command::new("find")
        .args(["/sys/fs/cgroup", "-name", &format!("honest-lap-{}", std::process::id())])
        .output()
        .unwrap();
    assert!(groups.stdout.is_empty(), "no group is left behind");
}

#[test]
fn a_card_that_only_its_makers_library_shows_is_read_through_it() {
    let env = suite("kind = \"task\"\ncommand = [\"sleep\", \"0.2\"]");
    // A library of the same name and calls, with one card that is always the same.
    env.write(
        "card.c",
        "typedef unsigned u; typedef unsigned long long l;\n\
         u nvmlInit_v2(void) { return 0; }\n\
         u nvmlDeviceGetCount_v2(u *n) { *n = 1; return 0; }\n\
         u nvmlDeviceGetHandleByIndex_v2(u i, void **card) { *card = (void *)(l)(i + 1); return 0; }\n\
         u nvmlDeviceGetUtilizationRates(void *card, u *both) { both[0] = 87; both[1] = 5; return 0; }\n\
         u nvmlDeviceGetMemoryInfo(void *card, l *three) { three[2] = 640000000; return 0; }\n\
         u nvmlDeviceGetClockInfo(void *card, u kind, u *mhz) { *mhz = 1500; return 0; }\n\
         u nvmlDeviceGetPowerUsage(void *card, u *mw) { return 3; }\n",
    );
    let built = std::process::Command::new("cc")
        .args(["-shared", "-fPIC", "-o", "libnvidia-ml.so.1", "card.c"])
        .current_dir(env.path())
        .status()
        .unwrap();
    assert!(built.success());
    let run =
        env.command(&["run", "--laps", "1"]).env("LD_LIBRARY_PATH", env.path()).output().unwrap();
    assert!(run.status.success(), "{run:?}");
    let lap = &rows(&env, &["show", "here-1.1"])[0];
    assert_eq!((&lap["graphics_use"], &lap["graphics_clock_mhz"]), (&0.87.into(), &1500.0.into()));
    assert_eq!(lap["power_w"], Value::Null, "what it does not tell is absent");
}
