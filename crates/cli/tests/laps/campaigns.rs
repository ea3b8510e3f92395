//! Campaigns: ended early, resumed, and kept to a budget.
//!
//! Runs for about 18 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::TestEnv;
use std::time::Duration;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns workload and variant of every lap of a session, in the order run, with its outcome.
fn driven(env: &TestEnv, session: &str) -> Vec<String> {
    let csv = env.lap_ok(&["show", session, "--format", "csv"]);
    let mut lines = csv.lines();
    let headings: Vec<&str> = lines.next().unwrap().split(',').collect();
    let at = |name: &str| headings.iter().position(|heading| *heading == name).unwrap();
    let (variant, round, outcome) = (at("variant"), at("round"), at("outcome"));
    lines
        .map(|line| {
            let cells: Vec<&str> = line.split(',').collect();
            format!("{} {} {}", cells[variant], cells[round], cells[outcome])
        })
        .collect()
}

#[test]
fn an_interrupted_run_goes_on_exactly_where_it_stood() {
    // The fifth lap stands still until it is told to go on, so that it is killed under way.
    let command = "echo {n} >> begun; sleep 0.{n}; \
                   while [ $(wc -l < begun) = 5 ] && [ ! -e go ]; do sleep 0.05; done";
    let lines = format!("command = \"{command}\"\nvary = {{ n = [10, 11, 12] }}\nlaps = 4");
    let whole = TestEnv::with_workload(LAP, &lines);
    whole.write("go", "");
    whole.lap_ok(&["run", "--seed", "5"]);
    let env = TestEnv::with_workload(LAP, &lines);
    let mut child = env.start(&["run", "--seed", "5"]);
    let begun = || std::fs::read_to_string(env.path().join("begun")).unwrap_or_default();
    while begun().lines().count() < 5 {
        std::thread::sleep(Duration::from_millis(20));
    }
    child.kill().unwrap();
    child.wait().unwrap();
    let preview = env.lap_ok(&["run", "--resume", "--preview"]);
    assert!(preview.contains("n=") && !preview.contains("On rig here: 12 laps"), "{preview}");
    let came = env.lap(&["run", "--resume"]);
    assert_eq!(came.status, Some(0), "{came}");
    let mut resumed = driven(&env, "here-1");
    let lost = resumed.iter().position(|lap| lap.ends_with("lost"));
    assert!(lost.is_some(), "it stays on record: {resumed:?}");
    resumed.retain(|lap| !lap.ends_with("lost"));
    assert_eq!(resumed, driven(&whole, "here-1"));
    assert!(env.lap_ok(&["show", "here-1"]).contains("resumed after an interruption"));
    assert_eq!(env.lap_ok(&["verify"]).matches("as it was written").count(), 1);
    let again = env.lap(&["run", "--resume"]);
    assert!(again.stderr.contains("has run everything that it was to run"), "{again}");
}

#[test]
fn failed_laps_are_driven_again_only_when_asked_and_stay_on_record() {
    let lines = "command = \"[ -e ready ] || exit 4\"\nlaps = 3";
    let env = TestEnv::with_workload(LAP, lines);
    assert_eq!(env.lap(&["run"]).status, Some(3));
    assert_eq!(driven(&env, "here-1"), [" 1 exit-code", " 2 exit-code"], "given up after two");
    env.write("ready", "");
    let came = env.lap(&["run", "--resume", "--again"]);
    assert_eq!(came.status, Some(3), "{came}");
    let laps = driven(&env, "here-1");
    assert_eq!(laps[..2], [" 1 exit-code", " 2 exit-code"]);
    assert_eq!(laps[2..], [" 1 done", " 2 done", " 3 done"]);
    env.write("study.toml", "[workload.w]\nkind = \"task\"\ncommand = \"true\"\nlaps = 3\n");
    let changed = env.lap(&["run", "--resume", "here-1", "--again"]);
    assert!(changed.stderr.contains("workload w has changed since here-1"), "{changed}");
}

#[test]
fn a_run_ends_by_itself_at_an_announced_look_and_says_so_in_its_intervals() {
    let env = TestEnv::with_workload(LAP, "command = [\"sleep\", \"0.5\"]");
    // So wide a target that only a host which holds laps up by half would miss it.
    let came = env.lap(&["run", "--until", "99%", "--laps", "12"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(
        came.stderr.contains("at most 12 laps; looked at for ±99 %: w after 4, 8, 12 laps"),
        "{came}"
    );
    assert!((4..12).contains(&driven(&env, "here-1").len()), "{came}");
    assert!(came.stdout.contains("looked at most three times"), "{came}");
    assert!(env.lap_ok(&["compare", "--explain"]).contains("looked at most three times"));
    let both = env.lap(&["run", "--until", "1%", "--budget", "5s"]);
    assert_eq!(both.status, Some(2));
}

#[test]
fn a_budget_is_spent_on_what_is_known_least_and_is_not_passed() {
    let study = "[study]\nwarm_up = 0\n\
        [workload.steady]\nkind = \"task\"\ncommand = [\"sleep\", \"0.2\"]\n\
        [workload.wild]\nkind = \"task\"\n\
        command = \"echo >>count; sleep $(( $(wc -l <count) % 2 )).1\"\n";
    let env = TestEnv::with_study(LAP, study);
    let begun = std::time::Instant::now();
    env.lap_ok(&["run", "--budget", "8s"]);
    assert!(begun.elapsed() < Duration::from_secs(20), "{:?}", begun.elapsed());
    let csv = env.lap_ok(&["show", "here-1", "--format", "csv"]);
    let of = |name: &str| csv.lines().filter(|line| line.contains(&format!(",{name},"))).count();
    assert!(of("steady") >= 3 && of("wild") > of("steady"), "{csv}");
}

#[test]
fn a_rest_waits_until_the_machine_is_cool_and_no_longer_than_it_may() {
    let lines =
        "command = [\"true\"]\nlaps = 2\nrest = { until_below = \"60 °C\", at_most = \"1s\" }";
    let env = TestEnv::with_workload(LAP, lines);
    env.lap_ok(&["stand-in", "machine", "--out", "cool"]);
    let cool = env.lap(&["run", "--machine-root", "cool"]);
    assert!(!cool.stderr.contains("still"), "{cool}");
    std::fs::write(env.path().join("cool/sys/class/hwmon/hwmon0/temp1_input"), "71000\n").unwrap();
    let warm = env.lap(&["run", "--machine-root", "cool", "--rig", "here"]);
    assert!(warm.stderr.contains("still 71 °C and not 60 °C after a rest of 1"), "{warm}");
}
