//! Writing, finding and misreading studies; planning; naming rigs.
//!
//! Runs for about 8 s on one core of two.

use honest_lap_testkit::{TestEnv, rows_of};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

#[test]
fn init_writes_a_study_that_runs_as_it_stands_and_refuses_to_overwrite() {
    let env = TestEnv::new(LAP);
    insta::assert_snapshot!(env.lap(&["init", "mine"]), @"
    wrote mine/study.toml; it runs as it stands

      cd mine
      lap run --preview   what would be run, and in which order
      lap run             run the laps
      lap compare         compare rigs
    [exit status: 0]
    ");
    let before = std::fs::read(env.path().join("mine/study.toml")).unwrap();
    insta::assert_snapshot!(env.lap(&["init", "mine"]), @"
    ! error: mine/study.toml is there already, and stays as it is
    ! help: name another folder, `lap init DIR`, or move the file away first
    [exit status: 2]
    ");
    assert_eq!(std::fs::read(env.path().join("mine/study.toml")).unwrap(), before);
    let came = env.lap(&["--study", "mine", "run", "--laps", "2", "--warm-up", "0"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stdout.contains("no verdict: 2 laps"), "two pairs allow no verdict: {came}");
    assert!(came.stdout.contains("3 laps of each for a verdict"), "{came}");
}

#[test]
fn every_mistake_is_told_with_its_line_and_nothing_is_driven() {
    let env = TestEnv::with_study(
        LAP,
        "[study]\nmargin = \"2\"\nlapse = 3\n\n[workload.still]\nkind = \"task\"\n\
         command = [\"still\", \"{thread}\"]\nvary = { threads = [1, 2] }\nlimit = \"10 parsecs\"\n",
    );
    insta::assert_snapshot!(env.lap(&["run"]), @r#"
    ! error: `margin`: `2` is not a share in per cent
    !  --> study.toml:2:10
    !   |
    ! 2 | margin = "2"
    !   |          ^^^
    !   |
    !   = help: write it with its sign, such as "2%"
    ! 
    ! error: unknown key `lapse` in [study]
    !  --> study.toml:3:1
    !   |
    ! 3 | lapse = 3
    !   | ^^^^^
    !   |
    !   = help: did you mean `laps`?
    ! 
    ! error: placeholder `{thread}` has no value
    !  --> study.toml:7:11
    !   |
    ! 7 | command = ["still", "{thread}"]
    !   |           ^^^^^^^^^^^^^^^^^^^^^
    !   |
    !   = help: did you mean `{threads}`?
    ! 
    ! error: `threads` is varied and used nowhere, so its variants would do the same work
    !  --> study.toml:8:10
    !   |
    ! 8 | vary = { threads = [1, 2] }
    !   |          ^^^^^^^
    !   |
    !   = help: put {threads} into the command, the environment or a file name
    ! 
    ! error: `limit`: `10 parsecs` is not a span of time: `parsecs` is not a unit of time
    !  --> study.toml:9:9
    !   |
    ! 9 | limit = "10 parsecs"
    !   |         ^^^^^^^^^^^^
    !   |
    !   = help: write a time with its unit, such as "5s", "250ms", "10min", "1h45m", or on a clock as minutes:seconds, "5:41"
    ! 
    ! 5 mistakes in study.toml; nothing was run
    [exit status: 2]
    "#);
    assert!(!env.path().join("logbook.db").exists());
}

#[test]
fn a_study_is_found_from_below_and_missed_with_a_remedy() {
    let env = TestEnv::with_workload(LAP, "command = [\"true\"]");
    std::fs::create_dir_all(env.path().join("a/b")).unwrap();
    let below =
        env.command(&["run", "--preview"]).current_dir(env.path().join("a/b")).output().unwrap();
    assert!(below.status.success());
    let elsewhere = TestEnv::new(LAP);
    insta::assert_snapshot!(elsewhere.lap(&["run"]), @"
    ! error: no study.toml here, nor in any folder above
    ! help: `lap init` writes one; `--study DIR` names the folder of another
    [exit status: 2]
    ");
    insta::assert_snapshot!(env.lap(&["compare"]).stderr.replace(env.path().to_str().unwrap(), "DIR"), @"
    error: there is no logbook at DIR/logbook.db
    help: run a lap first: `lap run`
    ");
    env.write("study.toml", "[study]\ntitle = \"\u{1}\"");
    assert_eq!(env.lap(&["run"]).status, Some(2));
    std::fs::write(env.path().join("study.toml"), b"title = \"\xff\"").unwrap();
    assert!(env.lap(&["run"]).stderr.contains("line 1: not valid UTF-8"));
}

#[test]
fn a_preview_drives_nothing_and_the_seed_repeats_its_order() {
    let lines = "command = [\"touch\", \"run-{n}\"]\nvary = { n = [1, 2, 3] }\nlaps = 4";
    let env = TestEnv::with_workload(LAP, lines);
    let preview = |seed| env.lap_ok(&["run", "--preview", "--seed", seed]);
    insta::assert_snapshot!(preview("7"), @"
    What would be run
    On rig here: 12 laps (0 to warm up), how long they take is not known yet.

    lap  workload  round  kind
      1  w n=1         1  counted
      2  w n=2         1  counted
      3  w n=3         1  counted
      4  w n=2         2  counted
      5  w n=3         2  counted
      6  w n=1         2  counted
      7  w n=1         3  counted
      8  w n=2         3  counted
      9  w n=3         3  counted
     10  w n=1         4  counted
     11  w n=2         4  counted
     12  w n=3         4  counted

    Order seeded with 7; the same order again: --seed 7
    ");
    assert_eq!(preview("7"), preview("7"));
    assert_ne!(preview("7"), preview("8"));
    assert_eq!(std::fs::read_dir(env.path()).unwrap().count(), 1, "only study.toml is there");
    env.lap_ok(&["run", "--seed", "7"]);
    let after = preview("7");
    assert!(after.contains("12 laps (0 to warm up), about"), "earlier laps say how long: {after}");
    let order = |text: &str| -> Vec<String> {
        text.lines()
            .filter_map(|line| line.split("n=").nth(1)?.get(..1).map(str::to_owned))
            .collect()
    };
    let driven = env.lap(&["show", "here-1"]);
    assert_eq!(order(&driven.stdout), order(&after));
}

#[test]
fn a_rig_is_asked_for_once_and_remembered() {
    let study = "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"task\"\ncommand = [\"true\"]\n[rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    insta::assert_snapshot!(env.lap(&["run"]), @"
    ! error: which rig is this machine? The study knows heron, wren
    ! help: say it once: lap run --rig heron (any new name will do)
    [exit status: 2]
    ");
    env.lap_ok(&["run", "--rig", "wren"]);
    env.lap_ok(&["run"]);
    assert!(env.lap_ok(&["show"]).contains("2 sessions on 1 rig"));
    assert_eq!(env.lap(&["run", "--rig", "../heron"]).status, Some(2));
    assert_eq!(env.lap(&["run", "ww"]).status, Some(2));
}

#[test]
fn one_rig_alone_says_that_nothing_is_beside_it() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"0.01\"]");
    env.lap_ok(&["run", "--laps", "1"]);
    let one = env.lap_ok(&["compare"]);
    assert!(one.contains("nothing to compare with"), "{one}");
    assert!(one.contains("one lap has no interval"), "{one}");
    let row: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["compare", "--format", "json"])).unwrap();
    let cell = &rows_of(&row)[0]["cell"];
    assert!(cell["typical"].is_number(), "{cell}");
    assert!(cell["interval"].is_null() && cell["cv"].is_null(), "one lap has no spread: {cell}");
}

#[test]
fn a_changed_workload_is_not_mixed_with_what_it_was() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"0.01\"]");
    env.lap_ok(&["run", "--laps", "3"]);
    env.write(
        "study.toml",
        "[workload.w]\nkind = \"task\"\nwarm_up = 0\nlimit = \"30s\"\ncommand = [\"sleep\", \"0.02\"]\n",
    );
    let before = env.lap_ok(&["compare"]);
    assert!(!before.contains("Not counted"), "not run yet: the form run last counts: {before}");
    env.lap_ok(&["run", "--laps", "3"]);
    let after = env.lap_ok(&["compare"]);
    assert!(after.contains("Not counted: here 3 laps (under another definition)"), "{after}");
}

#[test]
fn a_program_that_changed_between_two_sessions_is_a_doubt_on_one_rig_alone_too() {
    let lines = "command = [\"sleep\", \"{s}\"]\nvary = { s = [0.01, 0.02] }\n\
                 versions = { sleeper = [\"cat\", \"version.txt\"] }";
    let env = TestEnv::with_workload(LAP, lines);
    for version in ["1.0", "1.1"] {
        env.write("version.txt", version);
        env.lap_ok(&["run", "--laps", "2"]);
    }
    let said = env.lap_ok(&["compare", "--explain"]);
    assert!(
        said.contains("Doubt, other version: the sleeper differs: 1.0 on here; 1.1 on here."),
        "{said}"
    );
}

#[test]
fn laps_that_all_failed_are_a_row_that_says_so() {
    let lines = "command = \"echo no scene >&2; exit {code}\"\nvary = { code = [0, 3] }";
    let env = TestEnv::with_workload(LAP, lines);
    let came = env.lap(&["run", "--laps", "2"]);
    assert_eq!(came.status, Some(3));
    let said = env.lap_ok(&["compare"]);
    let csv = env.lap_ok(&["compare", "--format", "csv"]);
    assert!(csv.contains(",failed,"), "{csv}");
    assert!(said.contains("Not counted: here code=3 2 laps (wrong exit code)"), "{said}");
    let why = "here code=3: no lap counts: exit code 3, and 0 is wanted; it last said: no scene";
    assert!(said.contains(why), "{said}");
}
