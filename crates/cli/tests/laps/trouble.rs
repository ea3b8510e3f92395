//! Every doubt, on laps where its trouble was really made.
//!
//! Runs for about 20 s on one core of two.

use honest_lap_testkit::TestEnv;
use std::process::{Command, Stdio};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// A command that does what `first` says in its first laps and counts them in a file.
fn counted(script: &str) -> String {
    format!("command = \"n=$(cat n 2>/dev/null || echo 0); echo $((n+1)) > n; {script}\"")
}

/// Runs `laps` laps and returns the doubts about them.
fn doubts(lines: &str, laps: &str) -> String {
    let env = TestEnv::with_workload(LAP, lines);
    let came = env.lap(&["run", "--laps", laps]);
    format!("{}\n{came}", env.lap(&["doubts", "--format", "csv"]).stdout)
}

#[test]
fn a_growing_delay_is_not_steady() {
    let said = doubts(&counted("sleep 0.$((100 + n * 120))"), "6");
    assert!(said.contains("not steady") && said.contains("rose by"), "{said}");
}

#[test]
fn a_first_lap_that_fills_a_cache_is_told_and_has_one_name() {
    let said = doubts(&counted("[ $n = 0 ] && sleep 2; sleep 0.2"), "6");
    assert!(said.contains("first lap") && said.contains("none warmed up"), "{said}");
    let odd = said.lines().find(|line| line.contains(",odd lap,"));
    assert!(odd.is_none_or(|line| !line.contains("here-1.1 ")), "{said}");
}

#[test]
fn a_lap_far_off_is_odd() {
    let said = doubts(&counted("[ $n = 4 ] && sleep 4; sleep 0.3"), "8");
    assert!(said.contains("odd lap") && said.contains("here-1.5"), "{said}");
}

#[test]
fn a_smaller_output_is_other_work() {
    let out = "head -c $((n == 2 ? 2000 : 9000)) /dev/zero > {lap_dir}/out";
    let lines = format!("{}\nproduces = [{{ file = \"{{lap_dir}}/out\" }}]", counted(out));
    let said = doubts(&lines, "4");
    assert!(said.contains("other work") && said.contains("is 2.00 kB in lap here-1.3"), "{said}");
}

#[test]
fn a_program_left_behind_is_told() {
    let said = doubts("command = \"setsid sleep 600 & true\"", "3");
    assert!(said.contains("left-overs") && said.contains("running, which was ended"), "{said}");
}

#[test]
fn two_laps_are_too_few() {
    assert!(
        doubts("command = [\"true\"]", "2").contains("here has 2 counted laps, and 3 are needed")
    );
}

#[test]
fn a_program_that_flatters_itself_is_told() {
    let lines = "command = \"sleep 0.3; echo took 100 ms\"\n\
                 readings = [{ name = \"own\", after = \"took\", unit = \"ms\", reports = \"time\" }]";
    let said = doubts(lines, "3");
    assert!(said.contains("own time differs") && said.contains("reports 100 ms"), "{said}");
}

#[test]
fn a_busy_neighbour_is_told_with_what_it_used() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"1\"]");
    let mut neighbour = Command::new("sh")
        .args(["-c", "while :; do :; done"])
        .stdin(Stdio::null())
        .spawn()
        .unwrap();
    let came = env.lap(&["run", "--laps", "3"]);
    neighbour.kill().unwrap();
    neighbour.wait().unwrap();
    assert!(came.stderr.contains("machine busy"), "ahead of the first lap: {came}");
    let said = env.lap(&["doubts", "--format", "csv"]).stdout;
    assert!(said.contains("machine busy"), "{said}");
    // The first lap is looked at ahead of it, so that its neighbour has a name; tests beside it may use more.
    let (_, named) = said.split_once("other programs (").expect(&said);
    let (named, _) = named.split_once(')').unwrap();
    let named: Vec<&str> = named.split([',', ' ']).filter(|word| !word.is_empty()).collect();
    assert!(named.contains(&"sh") || named.len() == 4, "three, or the neighbour: {named:?}");
}

#[test]
fn swapping_is_told_where_the_kernel_says_so() {
    let env = TestEnv::with_workload(
        LAP,
        "command = \"printf 'pswpin 90000\\npswpout 0\\n' > sim/proc/vmstat; sleep 0.7\"",
    );
    env.lap_ok(&["stand-in", "machine", "--out", "sim"]);
    env.lap_ok(&["run", "--laps", "1", "--machine-root", "sim"]);
    let said = env.lap(&["doubts", "--format", "csv"]).stdout;
    assert!(said.contains("swapped") && said.contains("369 MB were swapped"), "{said}");
}

#[test]
fn what_was_read_to_the_second_claims_no_difference_of_less() {
    let study = "[study]\n[workload.export]\nkind = \"task\"\nby_hand = \"press Export\"\n[rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["enter", "export", "--rig", "heron", "0:52", "0:52", "0:52", "0:52"]);
    env.lap_ok(&["enter", "export", "--rig", "wren", "0:53", "0:53", "0:53", "0:53"]);
    let compared = env.lap_ok(&["compare", "--explain"]);
    assert!(compared.contains("too close to call"), "{compared}");
    assert!(compared.contains("Doubt, read too coarsely: wren differs by 1.9 %"), "{compared}");
    assert_eq!(env.lap(&["doubts"]).status, Some(1));
}
