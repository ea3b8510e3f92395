//! `kind = "endurance"`: a task repeated, a program that draws, an idle wait, on a battery and on mains.
//!
//! Runs for about 19 s on one core of two.

use honest_lap_testkit::{CommandResult, TestEnv};
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const CLOCK: &str = "m/sys/devices/system/cpu/cpu0/cpufreq/scaling_cur_freq";
const HEAT: &str = "m/sys/class/hwmon/hwmon0/temp1_input";
const ENERGY: &str = "m/sys/class/power_supply/BAT0/energy_now";

/// A study of one endurance workload, with a program in the file `step` and a simulated machine in `m`.
fn study(trouble: &str, lines: &str, step: &str) -> TestEnv {
    let study = format!(
        "[study]\n[workload.shift]\nkind = \"endurance\"\ncommand = [\"sh\", \"step\"]\n{lines}\n[rig.wren]\n"
    );
    let env = TestEnv::with_study(LAP, &study);
    env.write("step", step);
    env.lap_ok(&["stand-in", "machine", "--out", "m", "--trouble", trouble]);
    env
}

fn driven(env: &TestEnv) -> CommandResult {
    env.lap(&["run", "--rig", "wren", "--machine-root", "m"])
}

/// Returns the value of a reading of the lap called `lap`.
fn reading(env: &TestEnv, lap: &str, name: &str) -> Option<f64> {
    let all = env.lap_ok(&["export", "readings", "--format", "json-lines"]);
    let rows =
        all.lines().map(|line| serde_json::from_str::<serde_json::Value>(line).expect("JSON"));
    let row = rows.into_iter().find(|row| row["lap"] == lap && row["measure"] == name);
    row.unwrap_or_else(|| panic!("no {name} of {lap}: {all}"))["value"].as_f64()
}

#[test]
fn a_machine_that_falls_in_the_heat_is_told_drawn_and_doubted() {
    // The twenty-third repetition finds the machine hot: its clock falls, and the work takes longer.
    let step = format!(
        "n=$(cat n 2>/dev/null || echo 0); n=$((n+1)); echo $n >n\n\
         [ $n -le 22 ] && exec sleep 0.1\n\
         for core in 0 1 2 3; do echo 000003000000 >$(echo {CLOCK} | sed s/cpu0/cpu$core/); done\n\
         echo 000000091000 >{HEAT}; exec sleep 0.5\n"
    );
    let env = study("none", "lasts = \"9s\"\nlook_every = \"50ms\"\nwork = \"2 still\"", &step);
    let came = driven(&env);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(
        came.stderr.contains("settles at") && came.stderr.contains("below its first"),
        "{came}"
    );
    let (first, settled) =
        (reading(&env, "wren-1.1", "first rate"), reading(&env, "wren-1.1", "settled rate"));
    let (first, settled) = (first.unwrap(), settled.unwrap());
    // Two stills in 100 ms and in 500 ms, and what starting a shell takes.
    assert!(first > 10.0 && first < 20.0 && settled > 2.5 && settled < 4.0, "{first} {settled}");
    assert!(
        reading(&env, "wren-1.1", "settled after").is_some_and(|after| after > 2.0 && after < 4.5)
    );
    let repeats = env.lap_ok(&["export", "repeats"]);
    let rows: Vec<Vec<&str>> = repeats.lines().map(|row| row.split(',').collect()).collect();
    assert_eq!(rows[0], ["lap", "rig", "workload", "repeat", "began_ns", "took_ns"]);
    let took = |row: &[&str]| row[5].parse::<f64>().unwrap() / 1e9;
    assert!(took(&rows[1]) > 0.1 && took(&rows[rows.len() - 1]) > 0.5, "{repeats}");
    let doubts = env.lap(&["doubts"]).stdout;
    let doubts = doubts.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(doubts.contains("throttled") && doubts.contains("and not 4200 MHz"), "{doubts}");
    env.lap_ok(&["plot", "--figure", "rate", "--out", "rate.svg"]);
    let figure = std::fs::read_to_string(env.path().join("rate.svg")).unwrap();
    for words in ["clock, MHz", "hottest part, °C", "power, W", "fan, rpm", "still/s"] {
        assert!(figure.contains(words), "{words}");
    }
    env.lap_ok(&["report", "--out", "report.html"]);
    let page = std::fs::read_to_string(env.path().join("report.html")).unwrap();
    assert!(page.contains("shift: the rate over the time"));
    assert!(env.lap_ok(&["verify"]).contains("as they were written"));
}

#[test]
fn a_battery_is_held_against_the_time_and_refused_on_mains() {
    // 0.1 of 52 Wh with each repetition.
    let step = format!(
        "e=$(sed 's/^0*//' {ENERGY}); printf '%012d\\n' $((e-100000)) >{ENERGY}; exec sleep 0.1"
    );
    let lines = "lasts = \"4s\"\nlook_every = \"20ms\"\non_battery = true";
    let env = study("battery", lines, &step);
    let came = driven(&env);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("h of a full charge"), "{came}");
    let (an_hour, hours) = (
        reading(&env, "wren-1.1", "charge an hour"),
        reading(&env, "wren-1.1", "hours on battery"),
    );
    let (an_hour, hours) = (an_hour.unwrap(), hours.unwrap());
    assert!((hours * an_hour - 100.0).abs() < 1e-6, "{hours} {an_hour}");
    let rate = reading(&env, "wren-1.1", "settled rate").unwrap();
    // Repetitions a minute, each 0.1 of 52 Wh: fewer in truth, by what lies between them, which on a machine that is
    // busy with other tests may be as long again as they are.
    let most = rate * 60.0 * 100.0 * 0.1 / 52.0;
    assert!(an_hour < most * 1.05 && an_hour > most * 0.3, "{an_hour} of {most}");
    // The charge counts 52 Wh, and its fall is that energy.
    let watts = reading(&env, "wren-1.1", "power from battery").unwrap();
    assert!((watts / (an_hour / 100.0 * 52.0) - 1.0).abs() < 0.02, "{watts} {an_hour}");
    let shown = env.lap_ok(&["show", "wren-1.1"]);
    let shown = shown.split_whitespace().collect::<Vec<_>>().join(" ");
    for words in [
        "screen brightness",
        "60 %",
        "power profile",
        "balanced",
        "taken from the battery",
        "hours on battery",
    ] {
        assert!(shown.contains(words), "{words}: {shown}");
    }
    let compared = env.lap_ok(&["compare", "--explain"]);
    let compared = compared.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(compared.contains("h of a full charge"), "with its interval: {compared}");
    let idle = "[study]\n[workload.rest]\nkind = \"endurance\"\nidle = true\non_battery = true\nlasts = \"1s\"\n[rig.wren]\n";
    env.write("study.toml", idle);
    let came = driven(&env);
    assert!(came.stdout.contains("rest · hours on battery"), "an idle wait has no rate: {came}");
    let said = env.lap_ok(&["show", "wren-2.1"]);
    let said = said.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(said.contains("refused (the charge fell by 0.0 %"), "{said}");
    env.lap_ok(&["stand-in", "machine", "--out", "m", "--trouble", "none"]);
    let refused = driven(&env);
    assert_eq!(refused.status, Some(2), "{refused}");
    assert!(
        refused.stderr.contains("this machine runs on mains")
            && refused.stderr.contains("unplug it"),
        "{refused}"
    );
    assert!(!env.lap_ok(&["show"]).contains("wren-3"), "nothing was begun");
}

#[test]
fn what_is_cut_short_keeps_what_it_has_and_a_failure_says_in_which_repetition() {
    let env = study("none", "lasts = \"1h\"", "touch going; exec sleep 0.05");
    let child = env.start(&["run", "--rig", "wren"]);
    while !env.path().join("going").exists() {
        std::thread::sleep(Duration::from_millis(10));
    }
    std::thread::sleep(Duration::from_millis(400));
    let _ = std::process::Command::new("kill").args(["-INT", &child.id().to_string()]).status();
    assert_eq!(child.wait_with_output().unwrap().status.code(), Some(3));
    env.assert_nothing_runs();
    let shown = env.lap_ok(&["show", "wren-1.1"]);
    assert!(shown.contains("interrupted") && shown.contains("in repetition"), "{shown}");
    env.write("step", "n=$(cat n 2>/dev/null || echo 0); echo $((n+1)) >n; [ $n -lt 4 ]");
    let came = env.lap(&["run"]);
    assert_eq!(came.status, Some(3), "{came}");
    let failed = env.lap_ok(&["show", "wren-2.1"]);
    assert!(failed.contains("in repetition 5: exit code 1, and 0 is wanted"), "{failed}");
    assert!(env.lap_ok(&["compare"]).contains("no lap counts"));
}

#[test]
fn a_program_that_draws_is_told_how_long_and_has_a_rate_of_its_frames() {
    let study = "[study]\n[workload.rings]\nkind = \"endurance\"\nlasts = \"1500ms\"\nframes = { file = \"{lap_dir}/f.csv\" }\n\
                 command = \"echo lasts {seconds}; {lap} stand-in fly-through --frames 600 --log {lap_dir}/f.csv\"\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    let came = env.lap(&["run", "--rig", "wren"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(env.lap_ok(&["show", "wren-1.1"]).contains("lasts 1.5"));
    assert!(reading(&env, "wren-1.1", "settled rate").is_some_and(|fps| fps > 20.0));
    assert!(
        came.stdout.contains("rings · settled rate") && came.stdout.contains("[fps]"),
        "{came}"
    );
}

#[test]
fn mistakes_about_long_hauls_are_told_at_their_lines() {
    let study = "[workload.a]\nkind = \"endurance\"\ncommand = [\"x\"]\nlook_every = \"10ns\"\n\
                 [workload.b]\nkind = \"task\"\ncommand = [\"x\"]\nlasts = \"2h\"\n\
                 [workload.c]\nkind = \"endurance\"\nlasts = \"2h\"\nidle = true\n\
                 [workload.d]\nkind = \"endurance\"\nlasts = \"2h\"\nby_hand = \"do it\"\n\
                 [workload.e]\nkind = \"endurance\"\nlasts = \"2h\"\ncommand = [\"x\"]\nsplits = [{ part = \"a\" }]\n";
    let env = TestEnv::with_study(LAP, study);
    let came = env.lap(&["run"]);
    for words in [
        "does not say how long it lasts",
        "`look_every` is too short",
        "`lasts` belongs to another kind",
        "an idle wait on mains yields nothing",
        "nobody can repeat a task by hand for hours",
        "`splits` belongs to another kind",
    ] {
        assert!(came.stderr.contains(words), "{words}: {came}");
    }
}
