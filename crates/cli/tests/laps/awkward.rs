//! The built `lap` on programs that do everything but behave.
//!
//! Runs for about 14 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_core::record::{LapBody, LapHead, LapName, Outcome};
use honest_lap_logbook::Logbook;
use honest_lap_testkit::{TestEnv, csv_column};
use std::time::{Duration, Instant};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Runs one lap of workload `w` and returns what the logbook has of it.
fn one_lap(env: &TestEnv) -> (LapHead, LapBody) {
    env.lap(&["run", "--laps", "1"]);
    env.assert_nothing_runs();
    let logbook = Logbook::open(&env.path().join("logbook.db")).unwrap();
    let page = logbook.lap(&LapName::parse("here-1.1").unwrap()).unwrap().expect("a recorded lap");
    (page.head, page.body)
}

fn lap_of(lines: &str) -> (LapHead, LapBody) {
    one_lap(&TestEnv::with_workload(LAP, lines))
}

fn reason(body: &LapBody) -> &str {
    body.reason.as_deref().unwrap_or_default()
}

#[test]
fn a_good_lap_is_done_with_all_its_facts() {
    let (head, body) = lap_of("command = \"echo out; echo err >&2; sleep 0.05\"");
    assert_eq!((head.outcome, body.exit_code), (Outcome::Done, Some(0)));
    assert!((50_000_000..5_000_000_000).contains(&head.wall.unwrap().0), "{head:?}");
    assert_eq!(
        (body.stdout.head.as_slice(), body.stderr.head.as_slice()),
        (&b"out\n"[..], &b"err\n"[..])
    );
    let usage = body.usage.unwrap();
    assert!(usage.peak_bytes > 500_000 && usage.peak_floor_bytes < 12_000_000, "{usage:?}");
    assert!(body.conditions.memory_available_bytes.unwrap() > 1_000_000);
    assert_eq!(body.command[..2], ["/bin/sh", "-c"]);
}

#[test]
fn an_exit_code_is_a_failure_unless_the_study_accepts_it() {
    let (head, body) = lap_of("command = \"echo last words; exit 3\"");
    assert_eq!((head.outcome, head.counted(), body.exit_code), (Outcome::ExitCode, None, Some(3)));
    assert_eq!(reason(&body), "exit code 3, and 0 is wanted; it last said: last words");
    let (head, _) = lap_of("command = \"exit 3\"\nexit_codes = [0, 3]");
    assert_eq!(head.outcome, Outcome::Done);
}

#[test]
fn a_failed_lap_is_told_with_its_last_lines_and_exit_status_3() {
    let env = TestEnv::with_workload(LAP, "command = \"echo the disk is full >&2; exit 9\"");
    let came = env.lap(&["run", "--laps", "4"]);
    assert_eq!(came.status, Some(3));
    assert!(came.stderr.contains("  | the disk is full"), "{came}");
    assert!(came.stderr.contains("has failed twice in a row"), "{came}");
    let compared = env.lap_ok(&["compare"]);
    assert!(compared.contains("Not counted: here 2 laps (wrong exit code)"), "{compared}");
}

#[test]
fn a_signal_is_named() {
    for (signal, name) in [("SEGV", "SEGV"), ("KILL", "KILL"), ("ABRT", "ABRT")] {
        let (head, body) = lap_of(&format!("command = [\"sh\", \"-c\", \"kill -{signal} $$\"]"));
        assert_eq!((head.outcome, body.exit_code), (Outcome::Signal, None));
        assert_eq!(reason(&body), format!("ended by signal {name}"));
    }
}

#[test]
fn a_hanging_lap_is_ended_at_its_limit_even_if_it_will_not_listen() {
    let begun = Instant::now();
    let (head, body) = lap_of("command = [\"sleep\", \"600\"]\nlimit = \"200ms\"");
    assert_eq!(head.outcome, Outcome::OverLimit);
    assert_eq!(reason(&body), "ended at its limit of 200 ms");
    assert_eq!(head.counted(), None);
    let stubborn =
        "command = \"trap '' TERM INT HUP; while :; do sleep 0.01; done\"\nlimit = \"200ms\"";
    let (head, body) = lap_of(stubborn);
    assert_eq!((head.outcome, body.signal), (Outcome::OverLimit, Some(9)));
    assert!(begun.elapsed() < Duration::from_secs(60));
}

#[test]
fn a_grandchild_that_holds_the_output_open_is_not_waited_for() {
    let begun = Instant::now();
    let (head, body) = lap_of("command = \"sleep 600 & sleep 0.2; echo done\"");
    assert_eq!(head.outcome, Outcome::Done);
    assert!(begun.elapsed() < Duration::from_secs(60));
    assert_eq!(body.left_behind, ["sleep"]);
    assert_eq!(body.stdout.head, b"done\n");
}

#[test]
fn a_grandchild_in_a_session_of_its_own_is_found_and_ended() {
    let (head, body) =
        lap_of("command = \"setsid sh -c 'trap \\\"\\\" TERM; sleep 600; sleep 600' & sleep 0.1\"");
    assert_eq!(head.outcome, Outcome::Done);
    assert!(body.left_behind.contains(&"sh".to_owned()), "{:?}", body.left_behind);
}

#[test]
fn two_hundred_megabytes_are_drained_and_both_ends_kept() {
    let (head, body) =
        lap_of("command = \"echo first; head -c 200000000 /dev/zero | tr '\\\\0' x; echo last\"");
    assert_eq!(head.outcome, Outcome::Done);
    assert_eq!(body.stdout.total, 200_000_011);
    assert!(body.stdout.head.starts_with(b"first\nxxx"));
    assert!(body.stdout.tail.ends_with(b"xxxlast\n"));
    assert!(body.stdout.head.len() + body.stdout.tail.len() <= 65_536);
}

#[test]
fn standard_input_is_nothing_or_the_file_afresh() {
    let (head, body) = lap_of("command = \"wc -c\"");
    assert_eq!((head.outcome, body.stdout.head.as_slice()), (Outcome::Done, &b"0\n"[..]));
    let env = TestEnv::with_workload(LAP, "command = \"cat\"\nstdin = \"in.txt\"");
    env.write("in.txt", "hello");
    env.lap_ok(&["run", "--laps", "3"]);
    let logbook = Logbook::open(&env.path().join("logbook.db")).unwrap();
    for number in 1..=3 {
        let name = LapName::parse(&format!("here-1.{number}")).unwrap();
        assert_eq!(logbook.lap(&name).unwrap().unwrap().body.stdout.head, b"hello");
    }
    let (head, body) = lap_of("command = \"cat\"\nstdin = \"missing.txt\"");
    assert_eq!(head.outcome, Outcome::NotStarted);
    assert!(reason(&body).contains("missing.txt"), "{body:?}");
}

#[test]
fn what_cannot_start_is_recorded_as_that() {
    let (head, body) = lap_of("command = [\"no-such-program-anywhere\"]");
    assert_eq!((head.outcome, head.wall), (Outcome::NotStarted, None));
    assert_eq!(reason(&body), "no program `no-such-program-anywhere` was found");
    let env = TestEnv::with_workload(LAP, "command = [\"./notes.txt\"]");
    env.write("notes.txt", "not a program");
    assert_eq!(one_lap(&env).1.reason.unwrap(), "`./notes.txt` may not be executed");
    let (_, body) = lap_of("command = [\"true\"]\nfolder = \"nowhere\"");
    assert!(reason(&body).starts_with("its folder"), "{body:?}");
}

#[test]
fn a_lap_may_delete_its_own_folder() {
    let (head, _) = lap_of("command = \"rm -rf \\\"$PWD\\\"\"\nfolder = \"{lap_dir}\"");
    assert_eq!(head.outcome, Outcome::Done);
}

#[test]
fn a_lap_that_deletes_the_study_is_noticed_and_named() {
    let env = TestEnv::with_workload(LAP, "command = \"rm -f logbook.db\"");
    let came = env.lap(&["run", "--laps", "2"]);
    assert_eq!(came.status, Some(3));
    assert!(came.stderr.contains("was removed or replaced while laps were run"), "{came}");
    assert!(came.stderr.contains("folder = \"{lap_dir}\""), "{came}");
    env.assert_nothing_runs();
}

#[test]
fn nothing_a_program_prints_reaches_the_terminal_raw() {
    let lines = "command = [\"printf\", '\\033[31mred\\033]0;title\\007\\377\\376\\nend\\n']";
    let env = TestEnv::with_workload(LAP, lines);
    env.lap_ok(&["run", "--laps", "1"]);
    let shown = env.lap(&["show", "here-1.1"]);
    assert!(!shown.stdout.contains('\x1b') && !shown.stdout.contains('\x07'), "{shown}");
    assert!(shown.stdout.contains("\\x1b[31mred\\x1b]0;title\\x07\\xff\\xfe"), "{shown}");
}

#[test]
fn products_are_checked() {
    let write = "command = \"printf 12345 > out.bin\"\n";
    let with = |product: &str| lap_of(&format!("{write}produces = [{product}]"));
    let (head, body) = with("{ file = \"out.bin\", at_least = \"5 B\" }");
    assert_eq!((head.outcome, body.produced[0].bytes), (Outcome::Done, Some(5)));
    let (head, body) = with("{ file = \"out.bin\", at_least = \"6 B\" }");
    assert_eq!(head.outcome, Outcome::WrongOutput);
    assert_eq!(reason(&body), "`out.bin` has 5 B, and at least 6 B is wanted");
    let (head, body) = with("{ file = \"other.bin\" }");
    assert_eq!((head.outcome, reason(&body)), (Outcome::WrongOutput, "`other.bin` is missing"));
    let (head, body) =
        with("{ file = \"out.bin\", check = [\"grep\", \"-q\", \"9\", \"out.bin\"] }");
    assert_eq!(head.outcome, Outcome::WrongOutput);
    assert!(reason(&body).contains("the check of `out.bin`"), "{body:?}");
}

#[test]
fn a_file_left_by_an_earlier_lap_does_not_pass_for_this_ones() {
    let lines =
        "command = \"test -e out.bin || echo x > out.bin\"\nproduces = [{ file = \"out.bin\" }]";
    let env = TestEnv::with_workload(LAP, lines);
    env.lap(&["run", "--laps", "2"]);
    let shown = env.lap_ok(&["show", "here-1.2"]);
    assert!(shown.contains("is an old file: this lap did not write it"), "{shown}");
}

#[test]
fn a_step_that_fails_ahead_of_a_lap_keeps_it_from_starting() {
    let lines = "command = [\"true\"]\nbefore = [[\"true\"], [\"sh\", \"-c\", \"echo no room >&2; exit 4\"]]";
    let (head, body) = lap_of(lines);
    assert_eq!((head.outcome, head.wall), (Outcome::BeforeFailed, None));
    assert!(reason(&body).contains("exit code 4, saying `no room`"), "{body:?}");
    let (head, body) = lap_of("command = [\"true\"]\nafter = \"exit 5\"");
    assert_eq!(head.outcome, Outcome::Done);
    assert!(reason(&body).contains("step behind it"), "{body:?}");
}

#[test]
fn ctrl_c_ends_the_lap_keeps_the_others_and_leaves_nothing() {
    let lines = "command = \"sleep 0.1; test -e go && {{ sleep 600 & sleep 600; }}; touch go\"\n\
                 after = \"echo behind >> behind.txt\"";
    let env = TestEnv::with_workload(LAP, lines);
    let child = env.start(&["run", "--laps", "5"]);
    let deadline = Instant::now() + Duration::from_secs(30);
    while !env.path().join("go").exists() && Instant::now() < deadline {
        std::thread::sleep(Duration::from_millis(10));
    }
    std::thread::sleep(Duration::from_millis(400));
    let pid = child.id().to_string();
    std::process::Command::new("kill").args(["-INT", &pid]).status().unwrap();
    let came = honest_lap_testkit::CommandResult::from(child.wait_with_output().unwrap());
    assert_eq!(came.status, Some(3), "{came}");
    env.assert_nothing_runs();
    let logbook = Logbook::open(&env.path().join("logbook.db")).unwrap();
    let outcomes: Vec<Outcome> = logbook.laps().unwrap().iter().map(|lap| lap.outcome).collect();
    assert_eq!(outcomes, [Outcome::Done, Outcome::Interrupted], "{came}");
    assert!(!env.path().join(".lap/laps").exists(), "the laps' folders are gone");
    let behind = std::fs::read_to_string(env.path().join("behind.txt")).unwrap();
    assert_eq!(behind, "behind\nbehind\n", "the step behind runs after Ctrl-C too");
}

#[test]
fn a_suite_of_which_a_part_crashes_counts_with_the_rest_and_says_its_last_words() {
    let env = TestEnv::with_workload(
        LAP,
        "command = \"echo sea: 420; test -e sky && echo sky: 7 || echo 'sky crashed: no such shader'\"\n\
         readings = [{ name = \"sea\", after = \"sea:\", better = \"more\" }, \
         { name = \"sky\", after = \"sky:\", better = \"more\", optional = true }]",
    );
    env.lap_ok(&["run", "--rig", "heron", "--laps", "3"]);
    env.write("sky", "");
    env.lap_ok(&["run", "--rig", "wren", "--laps", "3"]);
    let shown = env.lap_ok(&["show", "heron-1.1"]);
    assert!(shown.contains("counted") && shown.contains("no such shader"), "{shown}");
    let sky = env.lap_ok(&["compare", "--measure", "sky", "--explain"]);
    let words = sky.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(words.contains("it last said: sky crashed: no such shader"), "{sky}");
    let counted = |measure: &str| {
        let csv = env.lap_ok(&["compare", "--measure", measure, "--format", "csv"]);
        csv_column(&csv, "laps_counted")
    };
    assert_eq!(counted("sea"), ["3", "3"]);
    assert_eq!(counted("sky"), ["3", "0"]);
}
