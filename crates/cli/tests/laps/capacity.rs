//! `kind = "capacity"`: a largest load searched for with real processes, told, compared, resumed.
//!
//! Runs for about 5 s on one core of two.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// A program that holds up to 41 layers, drops frames up to 45, and gives up beyond.
const LAYERS: &str = "\
[study]\nrest = \"0s\"\n[workload.sky-layers]\nkind = \"capacity\"\nload = { from = 1, to = 128, unit = \"layers\" }\n\
command = \"\"\"if [ {load} -le 41 ]; then echo dropped 0; elif [ {load} -le 45 ]; then echo dropped 7; else exit 3; fi\"\"\"\n\
strained = { pattern = \"dropped [1-9]\" }\nbroke = { exit_codes = [3] }\n[rig.heron]\n";

#[test]
fn a_sharp_edge_is_found_told_and_no_failure() {
    let env = TestEnv::with_study(LAP, LAYERS);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(0), "loads that broke are no failures: {came}");
    assert!(came.stderr.contains("broke at 64") && came.stderr.contains("held at 41"), "{came}");
    assert!(came.stderr.contains("strained at 42"), "{came}");
    // Lines are broken where the terminal ends.
    let said = came.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    let edge = "half of the laps hold at 41.5 layers";
    for words in [edge, "41 held 4 of 4", "42 held 0 of 4 (4 strained)"] {
        assert!(said.contains(words), "{words}: {came}");
    }
    let laps = env.lap_ok(&["export", "laps"]).lines().count() - 1;
    assert!(laps <= 16, "every lap is recorded, and no more than needed: {laps}");
    let readings = env.lap_ok(&["export", "readings"]);
    assert!(
        readings.contains(",load,layers,more,64") && readings.contains(",came,,more,0,"),
        "{readings}"
    );
    let shown = env.lap_ok(&["show", "heron-1.1"]);
    assert!(shown.contains("exit code 3"), "what broke says how: {shown}");
    // The next search begins where this one ended.
    let again = env.lap(&["run"]);
    assert!(again.stderr.contains("held at 41"), "{again}");
    let first = again.stderr.lines().find(|line| line.starts_with("heron-2.1")).unwrap();
    assert!(first.contains(" at 4"), "{first}");
}

#[test]
fn capacities_of_rigs_compare_like_any_measure() {
    let env = TestEnv::with_study(LAP, LAYERS);
    for session in 0..3 {
        for (rig, most) in [("heron", 41), ("wren", 30 + session % 2)] {
            let at = format!("if [ {{load}} -le {most}");
            let study = LAYERS
                .replace("if [ {load} -le 41", &at)
                .replace("[rig.heron]", "[rig.heron]\n[rig.wren]");
            // The program of each rig is its own; the study's task is the same.
            let program = format!("[ $1 -le {most} ] && exit 0; exit 3");
            env.write("layers", &program);
            let study = study.lines().map(|line| match line.starts_with("command") {
                true => "command = [\"sh\", \"{study_dir}/layers\", \"{load}\"]".to_owned(),
                false => line.to_owned(),
            });
            env.write("study.toml", &study.collect::<Vec<_>>().join("\n"));
            let came = env.lap(&["run", "--rig", rig, "--rebuilt"]);
            assert!(came.stdout.contains("half of the laps hold"), "{came}");
        }
    }
    let compared = env.lap_ok(&["compare"]);
    assert!(compared.contains("wren worse"), "{compared}");
    let row = compared.lines().find(|line| line.contains("wren") && line.contains('×')).unwrap();
    assert!(row.contains("worse"), "{row}");
}

#[test]
fn a_usage_error_is_no_load_that_broke_and_ends_the_search() {
    let study = LAYERS.replace("else exit 3", "else exit 64");
    let env = TestEnv::with_study(LAP, &study);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(3), "{came}");
    assert!(came.stderr.contains("failed twice in a row"), "{came}");
    assert!(!came.stderr.contains("broke at"), "{came}");
    assert!(!env.lap_ok(&["compare"]).contains("half of the laps"), "nothing is said of its edge");
}

#[test]
fn a_search_that_was_cut_short_goes_on_and_says_nothing_before() {
    let study =
        LAYERS.replace("else exit 3", "elif [ -e go ]; then exit 3; else touch go; sleep 30");
    let study = study.replace("command = \"\"\"", "command = \"\"\"cd {study_dir}; ");
    let env = TestEnv::with_study(LAP, &study);
    // The first load, 64, stands until the lap is killed from outside, as at Ctrl-C.
    let child = env.start(&["run", "--rig", "heron"]);
    while !env.path().join("go").exists() {
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
    let _ = std::process::Command::new("kill").args(["-INT", &child.id().to_string()]).status();
    let came = child.wait_with_output().unwrap();
    assert_eq!(came.status.code(), Some(3));
    let resumed = env.lap(&["run", "--resume"]);
    assert_eq!(resumed.status, Some(0), "{resumed}");
    assert!(resumed.stdout.contains("half of the laps hold at 41.5"), "{resumed}");
    assert!(resumed.stderr.contains("session heron-1"), "{resumed}");
}

#[test]
fn mistakes_about_loads_are_told_at_their_lines() {
    let study = "[workload.a]\nkind = \"capacity\"\ncommand = [\"x\"]\nload = { from = 9, to = 3 }\n\
                 strained = { reading = \"dropped\", above = 0 }\n\
                 [workload.b]\nkind = \"task\"\ncommand = [\"x\"]\nload = [\"half\", \"full\"]\n\
                 [workload.c]\nkind = \"capacity\"\ncommand = [\"x\", \"{load}\"]\n";
    let env = TestEnv::with_study(LAP, study);
    let came = env.lap(&["run"]);
    for words in [
        "leaves no loads to choose from",
        "the workload reads no `dropped`",
        "is given no load",
        "`load` belongs to another kind",
        "says no load",
    ] {
        assert!(came.stderr.contains(words), "{words}: {came}");
    }
}
