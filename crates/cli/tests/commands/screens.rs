//! What fits a screen: answers at 80 columns, and how long they are.
//!
//! Runs for about 5 s on one core of two.

use honest_lap_testkit::TestEnv;
use textwrap::core::display_width;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns what `lap` prints on a terminal of `columns` columns, none of its lines longer than that.
fn at(columns: usize, env: &TestEnv, args: &[&str]) -> String {
    let came = env.lap_at(columns, args);
    assert!(matches!(came.status, Some(0 | 1)), "{came}");
    for line in came.stdout.lines() {
        assert!(display_width(line) <= columns, "{} columns: {line}", display_width(line));
    }
    came.stdout
}

fn lab(columns: usize, env: &TestEnv, args: &[&str]) -> String {
    at(columns, env, &[&["--study", "lab"], args].concat())
}

#[test]
fn the_overview_of_the_demos_lab_is_one_screen() {
    let env = TestEnv::harbour(LAP);
    let overview = lab(80, &env, &["compare"]);
    assert!(overview.lines().count() <= 24, "{overview}");
    insta::assert_snapshot!(overview);
    for columns in [100, 140] {
        assert!(lab(columns, &env, &["compare"]).lines().count() <= 24);
    }
}

#[test]
fn one_table_has_both_intervals_and_what_limits_it_in_sixteen_lines() {
    let env = TestEnv::harbour(LAP);
    let table = lab(80, &env, &["compare", "dome-still", "--with", "threads=2"]);
    insta::assert_snapshot!(table);
    for args in [
        &["compare", "dome-still", "--with", "threads=2"][..],
        &["compare", "dome-still", "--with", "threads=1"],
        &["compare", "catalogue-build"],
        &["compare", "sky-layers"],
    ] {
        let table = lab(80, &env, args);
        assert!(table.lines().count() <= 16, "{} lines: {table}", table.lines().count());
    }
    let beside = ["compare", "dome-still", "--with", "threads=1", "--columns", "use,clock,watts"];
    let beside = lab(80, &env, &beside);
    let heading = beside.lines().find(|line| line.starts_with("rank")).unwrap();
    let columns = ["use", "clock", "watts", "speed", "verdict"];
    assert!(columns.iter().all(|name| heading.contains(name)), "still a table: {beside}");
    assert!(beside.lines().count() <= 17, "{beside}");
    let explained = lab(80, &env, &["compare", "catalogue-build", "--explain"]);
    assert!(explained.contains("Typical is the geometric mean"), "{explained}");
}

#[test]
fn the_doubts_of_the_demos_lab_are_forty_lines_and_each_is_told_in_full_where_asked() {
    let env = TestEnv::harbour(LAP);
    let doubts = lab(80, &env, &["doubts"]);
    assert!(doubts.lines().count() <= 40, "{doubts}");
    insta::assert_snapshot!(doubts);
    let each = lab(80, &env, &["doubts", "--explain"]);
    assert!(each.matches("could change").count() > 10, "{each}");
}

/// A lab of cards: one lap of four tests on each of 26 rigs.
fn many_rigs() -> TestEnv {
    let mut study = "[study]\nquestion = \"Which card?\"\nbaseline = \"card-01\"\n".to_owned();
    let mut sheet = "rig,sky [s],dome [s],reel [s],still [s]\n".to_owned();
    for test in ["sky", "dome", "reel", "still"] {
        study += &format!("[workload.{test}]\nkind = \"task\"\nby_hand = \"run it\"\n");
    }
    for rig in 1..=26 {
        study += &format!("[rig.card-{rig:02}]\n");
        let times: Vec<String> = [10.0, 42.0, 77.7, 120.0]
            .iter()
            .map(|s| format!("{:.2}", s + f64::from(rig)))
            .collect();
        sheet += &format!("card-{rig:02},{}\n", times.join(","));
    }
    let env = TestEnv::with_study(LAP, &study);
    env.write("cards.csv", &sheet);
    env.lap_ok(&["enter", "--table", "cards.csv", "--sure"]);
    env
}

#[test]
fn of_many_rigs_the_overview_turns_and_neighbours_can_be_asked_for() {
    let env = many_rigs();
    let overview = at(80, &env, &["compare"]);
    assert!(overview.lines().count() <= 45, "{overview}");
    assert!(overview.contains("card-26") && overview.contains("too few laps"), "{overview}");
    let near = at(80, &env, &["compare", "sky", "--near", "card-13"]);
    for (rig, shown) in
        [("card-01", true), ("card-10", true), ("card-16", true), ("card-20", false)]
    {
        assert_eq!(near.contains(rig), shown, "{rig}: {near}");
    }
    let odd = env.lap(&["compare", "sky", "--near", "owl"]);
    assert_eq!(odd.status, Some(2), "{odd}");
}

#[test]
fn of_many_rigs_and_workloads_a_ranked_list_counts_every_workload() {
    let tests: Vec<String> = (1..=70).map(|test| format!("test-{test:02}")).collect();
    let mut study = "[study]\nbaseline = \"card-01\"\n".to_owned();
    for test in &tests {
        study += &format!("[workload.{test}]\nkind = \"task\"\nby_hand = \"run it\"\n");
    }
    let head: Vec<String> = tests.iter().map(|test| format!("{test} [s]")).collect();
    let mut sheet = format!("rig,{}\n", head.join(","));
    for rig in 1..=12 {
        study += &format!("[rig.card-{rig:02}]\n");
        let times = vec![format!("{}", 10 + rig); tests.len()];
        sheet += &format!("card-{rig:02},{}\n", times.join(","));
    }
    let env = TestEnv::with_study(LAP, &study);
    env.write("cards.csv", &sheet);
    env.lap_ok(&["enter", "--table", "cards.csv", "--sure"]);
    let list = at(80, &env, &["compare"]);
    let row = list.lines().find(|line| line.starts_with("card-07")).expect("a line a rig");
    assert!(row.trim_end().ends_with(" 70"), "all 70 without a verdict: {list}");
    // Side by side, of so many lines a part is shown and the rest is counted.
    let wide = at(1000, &env, &["compare", "--rig", "card-01", "--rig", "card-02"]);
    assert!(wide.contains("10 further lines: name a workload"), "{wide}");
}

#[test]
fn variants_are_ranked_and_the_winner_of_each_test_is_named() {
    let study = "[workload.film]\nkind = \"task\"\nby_hand = \"export\"\nvary = { codec = [\"a\", \"b\"] }\n\
                 [workload.short]\nkind = \"task\"\nby_hand = \"export\"\nvary = { codec = [\"a\", \"b\"] }\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    for (workload, codec, times) in [
        ("film", "codec=a", ["10.0s", "10.1s", "10.2s"]),
        ("film", "codec=b", ["20.0s", "20.1s", "20.2s"]),
        ("short", "codec=a", ["9.0s", "9.1s", "9.05s"]),
        ("short", "codec=b", ["3.0s", "3.01s", "3.02s"]),
    ] {
        let head = ["enter", workload, "--rig", "wren", "--with", codec];
        env.lap_ok(&[&head[..], &times[..]].concat());
    }
    insta::assert_snapshot!(at(80, &env, &["compare"]));
}

#[test]
fn text_is_as_wide_as_the_terminal_even_behind_a_pager() {
    let env = TestEnv::harbour(LAP);
    let widest = |columns: u32, command: &str| {
        let shell = format!("stty rows 24 cols {columns}; {LAP} --study lab {command} | cat");
        // A terminal of its own: `script` gives one, and standard output is none.
        let mut script = std::process::Command::new("script");
        let sealed = env.command(&[]);
        script.args(["-qec", &shell, "/dev/null"]).current_dir(env.path()).env_clear();
        script.envs(sealed.get_envs().filter_map(|(name, value)| Some((name, value?))));
        let came = script.stdin(std::process::Stdio::null()).output().expect("script runs");
        let text = String::from_utf8_lossy(&came.stdout).into_owned();
        text.lines().map(|line| display_width(line.trim_end())).max().unwrap_or(0)
    };
    // COLUMNS says 1000 here: the terminal knows better.
    let explained = "compare catalogue-build --explain";
    let (narrow, wide) = (widest(80, explained), widest(130, explained));
    assert!((70..=80).contains(&narrow), "{narrow}");
    assert!((100..=130).contains(&wide), "{wide}");
}
