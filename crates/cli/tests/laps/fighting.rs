//! Programs that fight their end: each lap comes to one all the same, soon, and nothing of it is left.
//!
//! Runs for about 30 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a failing helper fails its test")]

use honest_lap_testkit::{TestEnv, has_root};
use std::fs;
use std::io::Read;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the processes whose command holds `word`, whatever they did to their environment.
fn alive(word: &str) -> Vec<String> {
    let command = |entry: fs::DirEntry| {
        let pid: u32 = entry.file_name().to_str()?.parse().ok()?;
        let command = fs::read(entry.path().join("cmdline")).ok()?;
        let command = String::from_utf8_lossy(&command).replace('\0', " ");
        let ended = fs::read_to_string(entry.path().join("stat")).ok()?.contains(") Z ");
        // Not the test itself, nor the tool that is told to run it.
        let ours = pid == std::process::id() || command.contains(LAP);
        (command.contains(word) && !ours && !ended).then(|| format!("{pid} {command}"))
    };
    fs::read_dir("/proc").unwrap().filter_map(|entry| command(entry.ok()?)).collect()
}

/// Programs, how each lap ends, and what is said of it. `NAP` is a sleep that is this test's own.
const FIGHTS: [(&str, &str, &str, &str); 20] = [
    ("child that stays", "NAP & exit 0", "done", "sleep"),
    ("double fork", "(NAP &) & exit 0", "done", "sleep"),
    ("daemon", "setsid NAP </dev/null >/dev/null 2>&1 & exit 0", "done", "sleep"),
    ("daemon without an environment", "env -i setsid NAP & exit 0", "done", "sleep"),
    ("deaf child", "sh -c 'trap \"\" TERM HUP INT; NAP; NAP' & sleep 0.1; exit 0", "done", "sh"),
    ("deaf program", "trap '' TERM HUP INT; NAP; NAP", "over-limit", "limit"),
    ("stopped child", "NAP & kill -STOP $!; exit 0", "done", "sleep"),
    ("stopped program", "kill -STOP $$; NAP", "over-limit", "limit"),
    ("stops its starter", "kill -STOP $PPID; sleep 0.1; exit 0", "done", ""),
    ("kills its group", "NAP & kill -KILL 0", "signal", "KILL"),
    ("writes for ever", "yes NAPPING & exit 0", "done", "yes"),
    ("writes for ever, over its limit", "yes NAPPING", "over-limit", "limit"),
    (
        "chain of forks",
        "cat >chain <<'END'\nsleep 0.002; sh \"$0\" NAPPING & exit 0\nEND\nsh ./chain NAPPING; exit 0",
        "done",
        "",
    ),
    (
        "chain of forks that goes on at its limit",
        "cat >chain <<'END'\ntrap '' TERM; sleep 0.002; sh \"$0\" NAPPING & exit 0\nEND\nsh ./chain NAPPING; NAP",
        "over-limit",
        "limit",
    ),
    ("many children", "for n in $(seq 200); do NAP & done; exit 0", "done", "sleep"),
    (
        "forks while it is asked to end",
        "trap 'NAP & NAP & NAP' TERM; NAP & wait; wait; NAP",
        "over-limit",
        "limit",
    ),
    (
        "child that is held by its tracer",
        "NAP & python3 -c 'import ctypes, signal, sys, time\n\
         signal.signal(signal.SIGTERM, signal.SIG_IGN)\n\
         ctypes.CDLL(None).ptrace(16, int(sys.argv[1]), 0, 0)\n\
         time.sleep(600)' $! NAPPING & sleep 0.3; exit 0",
        "done",
        "sleep",
    ),
    (
        "child of another user",
        "setpriv --reuid=65534 --clear-groups NAP & sleep 0.1; exit 0",
        "done",
        "sleep",
    ),
    (
        "program that becomes another user and is deaf",
        "exec setpriv --reuid=65534 --clear-groups sh -c 'trap \"\" TERM; NAP; NAP'",
        "over-limit",
        "limit",
    ),
    (
        "children that the kernel reaps itself",
        "python3 -c 'import os, signal, time\n\
         signal.signal(signal.SIGCHLD, signal.SIG_IGN)\n\
         for n in range(50):\n  if os.fork() == 0: time.sleep(600)\n' NAPPING; exit 0",
        "done",
        "python3",
    ),
];

#[test]
fn whatever_a_program_does_against_its_end_the_lap_ends_and_leaves_nothing() {
    for (at, (what, command, outcome, said)) in FIGHTS.iter().enumerate() {
        // Who is no other user cannot become one.
        if command.contains("--reuid") && !has_root(what) {
            continue;
        }
        let seconds = format!("{}.{at}", 400_000 + std::process::id() % 100_000);
        let command = command
            .replace("NAPPING", &format!("nap-{seconds}"))
            .replace("NAP", &format!("sleep {seconds}"));
        // What ends by itself may take its time on a busy machine.
        let limit = if *outcome == "over-limit" { "1s" } else { "15s" };
        let lines = format!("limit = \"{limit}\"\ncommand = '''{command}'''");
        let env = TestEnv::with_workload(LAP, &lines);
        let begun = Instant::now();
        let mut tool = env.start(&["run", "--laps", "1"]);
        // A starter that its own lap stopped is set going again, as a person would.
        if what.contains("starter") {
            std::thread::sleep(Duration::from_millis(500));
            Command::new("pkill").args(["-CONT", "-P", &tool.id().to_string()]).status().unwrap();
        }
        let mut stderr = String::new();
        tool.stderr.take().unwrap().read_to_string(&mut stderr).unwrap();
        tool.wait().unwrap();
        assert!(begun.elapsed() < Duration::from_secs(25), "{what}: {:?}", begun.elapsed());
        let laps = env.lap_ok(&["export", "laps"]);
        assert!(laps.lines().nth(1).unwrap().contains(&format!(",{outcome},")), "{what}: {laps}");
        let shown = env.lap_ok(&["show", "here-1.1"]);
        assert!(shown.contains(said), "{what}: {shown}");
        for word in [format!("sleep {seconds}"), format!("nap-{seconds}")] {
            assert_eq!(alive(&word), Vec::<String>::new(), "{what}");
        }
        env.assert_nothing_runs();
    }
}

#[test]
fn what_a_killed_tool_and_its_starter_left_is_found_by_the_next_run_without_its_environment() {
    let seconds = format!("{}.5", 500_000 + std::process::id() % 100_000);
    // One in the starter's session, one in a session of its own: that one only a control group finds.
    let commands = ["env -i sleep NAP", "env -i setsid sleep NAP"];
    for command in &commands[..1 + usize::from(has_root("leftovers in a session of their own"))] {
        let lines = format!(
            "limit = \"100s\"\ncommand = \"{} & sleep 600\"",
            command.replace("NAP", &seconds)
        );
        let env = TestEnv::with_workload(LAP, &lines);
        let mut tool = env.start(&["run", "--laps", "1"]);
        while alive(&format!("sleep {seconds}")).is_empty() {
            std::thread::sleep(Duration::from_millis(10));
        }
        let starter = Command::new("pgrep").args(["-P", &tool.id().to_string()]).output().unwrap();
        let starter: u32 = String::from_utf8(starter.stdout).unwrap().trim().parse().unwrap();
        // Neither may see the other go.
        for (signal, pid) in
            [("-STOP", starter), ("-STOP", tool.id()), ("-KILL", starter), ("-KILL", tool.id())]
        {
            send(signal, pid);
        }
        tool.wait().unwrap();
        assert!(!alive(&format!("sleep {seconds}")).is_empty());
        let mut next = env.start(&["run", "--laps", "1"]);
        while env.lap(&["show", "here-1.1"]).status != Some(0) {
            assert!(
                next.try_wait().unwrap().is_none(),
                "it writes down what was lost, first of all"
            );
            std::thread::sleep(Duration::from_millis(50));
        }
        // The run's own lap leaves one too, which it ends itself.
        send("-INT", next.id());
        next.wait().unwrap();
        assert_eq!(alive(&format!("sleep {seconds}")), Vec::<String>::new());
        let lost = env.lap_ok(&["show", "here-1.1"]);
        assert!(lost.contains("the tool was ended while this lap was under way"), "{lost}");
        assert!(lost.contains("sleep"), "what was ended is told: {lost}");
    }
}

#[test]
fn processor_time_of_children_that_the_kernel_reaps_is_counted_where_a_group_can_be_made() {
    if !has_root("processor time by a control group") {
        return;
    }
    let env = TestEnv::with_workload(
        LAP,
        "command = '''python3 -c 'import os, signal, time
signal.signal(signal.SIGCHLD, signal.SIG_IGN)
if os.fork() == 0:
  while time.process_time() < 0.6: pass
  os._exit(0)
time.sleep(1)
while True:
  try: os.wait()
  except ChildProcessError: break
' '''",
    );
    env.lap_ok(&["run", "--laps", "1"]);
    let lap: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["show", "here-1.1", "--format", "json"])).unwrap();
    let row = &lap["groups"][0]["rows"][0];
    let used = row["user_ns"].as_u64().unwrap() + row["system_ns"].as_u64().unwrap();
    assert!((600_000_000..2_000_000_000).contains(&used), "{used}");
    assert_eq!(row["tree"], "a control group");
}

#[test]
fn a_lap_has_no_terminal_and_cannot_reach_the_users() {
    let env = TestEnv::with_workload(
        LAP,
        "limit = \"5s\"\ncommand = \"stty -echo </dev/tty || exit 7; read answer </dev/tty\"",
    );
    // At a terminal of ours, as a person has one.
    let mut command = Command::new("script");
    command.args(["-qec", &format!("{LAP} run --laps 1; stty -a"), "/dev/null"]);
    for (name, value) in env.command(&[]).get_envs() {
        command.env(name, value.unwrap_or_default());
    }
    let said = command.current_dir(env.path()).stdin(Stdio::null()).output().unwrap();
    let said = String::from_utf8_lossy(&said.stdout);
    assert!(said.contains("exit code 7"), "{said}");
    assert!(
        said.contains(" echo ") && !said.contains("-echo "),
        "the terminal is as it was: {said}"
    );
    let shown = env.lap_ok(&["show", "here-1.1"]);
    assert!(shown.contains("/dev/tty: No such device or address"), "it says so at once: {shown}");
}

#[test]
fn a_lap_may_have_a_terminal_of_its_own() {
    let env = TestEnv::with_workload(
        LAP,
        "limit = \"5s\"\nterminal = true\n\
         command = '''test -t 0 -a -t 1 -a -t 2 || exit 7; stty size </dev/tty; tty; echo to errors >&2; \
         printf 'a\\nb'; stty -echo raw; trap 'exit 9' INT; sh -c 'echo from a job >/dev/tty'; exec >&- 2>&- <&-; \
         echo afterwards >/dev/tty; exit 0'''",
    );
    // At a terminal of ours, which stays as it is.
    let mut command = Command::new("script");
    command.args(["-qec", &format!("tty; {LAP} run --laps 1; stty -a"), "/dev/null"]);
    for (name, value) in env.command(&[]).get_envs() {
        command.env(name, value.unwrap_or_default());
    }
    let said = command.current_dir(env.path()).stdin(Stdio::null()).output().unwrap();
    let said = String::from_utf8_lossy(&said.stdout);
    let users = said.lines().next().unwrap().trim().to_owned();
    assert!(said.contains(" echo ") && said.contains(" icanon "), "{said}");
    let shown = env.lap_ok(&["show", "here-1.1"]);
    for wanted in ["done", "24 80", "/dev/pts/", "to errors", "from a job", "afterwards"] {
        assert!(shown.contains(wanted), "{wanted}: {shown}");
    }
    assert!(!shown.lines().any(|line| line.trim() == users), "not the user's: {users}: {shown}");
    let env = TestEnv::with_workload(
        LAP,
        "terminal = true\ncommand = \"true\"\nreadings = [{ name = \"n\", after = \"n\", in = \"errors\", better = \"more\" }]",
    );
    let refused = env.lap(&["run"]);
    assert!(refused.stderr.contains("at a terminal output and errors are one"), "{refused}");
}

/// Sends `signal` to a process.
fn send(signal: &str, pid: u32) {
    Command::new("kill").args([signal, &pid.to_string()]).status().unwrap();
}

/// Starts a run and waits until it is well under way.
fn under_way(env: &TestEnv) -> Child {
    let tool = env.start(&["run", "--laps", "3"]);
    // From then on it listens.
    while !env.path().join("logbook.db").exists() {
        std::thread::sleep(Duration::from_millis(10));
    }
    std::thread::sleep(Duration::from_millis(700));
    tool
}

/// Where the tool may be when Ctrl-C comes: the lines of a workload, and files beside the study.
const PLACES: [(&str, &str); 9] = [
    ("a sleep", "command = [\"sleep\", \"600\"]"),
    ("a deaf program", "command = \"trap '' TERM INT HUP; while :; do sleep 1; done\""),
    ("a starter that its lap stopped", "command = \"kill -STOP $PPID; sleep 600\""),
    ("a deaf step behind it", "command = \"sleep 600\"\nafter = [\"trap '' TERM; sleep 1\"]"),
    (
        "a deaf step before it",
        "before = [\"trap '' TERM INT; while :; do sleep 1; done\"]\ncommand = \"true\"",
    ),
    ("a large product", "command = \"truncate -s 400G big\"\nproduces = [{ file = \"big\" }]"),
    ("a large input", "command = \"sleep 600\"\ninputs = [\"huge\"]"),
    (
        "a check that takes for ever",
        "command = \"echo x >out\"\nproduces = [{ file = \"out\", check = \"sleep 600\" }]",
    ),
    ("a flood", "command = \"yes\""),
];

#[test]
fn ctrl_c_ends_everything_within_three_seconds_wherever_it_comes() {
    for (what, lines) in PLACES {
        let env = TestEnv::with_workload(LAP, lines);
        let huge = fs::File::create(env.path().join("huge")).unwrap();
        huge.set_len(400 << 30).unwrap();
        let mut tool = under_way(&env);
        let begun = Instant::now();
        send("-INT", tool.id());
        let status = tool.wait().unwrap();
        let took = begun.elapsed();
        // Three seconds, and what a busy machine adds.
        assert!(took < Duration::from_millis(4_500), "{what}: {took:?}");
        assert!(matches!(status.code(), Some(2 | 3)), "{what}: {status:?}");
        env.assert_nothing_runs();
        let laps = env.lap(&["export", "laps"]).stdout;
        assert!(!laps.contains(",done,") || what.contains("product"), "{what}: {laps}");
    }
}

#[test]
fn a_second_ctrl_c_ends_everything_at_once() {
    let lines = "command = \"trap '' TERM INT HUP; while :; do sleep 1; done\"";
    let env = TestEnv::with_workload(LAP, lines);
    let mut tool = under_way(&env);
    let begun = Instant::now();
    send("-INT", tool.id());
    std::thread::sleep(Duration::from_millis(100));
    send("-INT", tool.id());
    tool.wait().unwrap();
    // Asked once, it would have been given two seconds.
    assert!(begun.elapsed() < Duration::from_millis(1_900), "{:?}", begun.elapsed());
    env.assert_nothing_runs();
    let laps = env.lap_ok(&["export", "laps"]);
    assert!(laps.contains(",interrupted,"), "{laps}");
}

#[test]
fn files_that_are_no_plain_files_are_said_to_be_none() {
    for (lines, said) in [
        ("command = \"cat\"\nstdin = \"pipe\"", "standard input"),
        ("command = \"cat\"\nstdin = \"/dev/zero\"", "standard input"),
        (
            "command = \"true\"\nreadings = [{ name = \"score\", after = \"x\", file = \"pipe\", better = \"more\" }]",
            "pipe",
        ),
        ("command = \"true\"\nproduces = [{ file = \"pipe\" }]", "`pipe`"),
    ] {
        let env = TestEnv::with_workload(LAP, lines);
        let made = Command::new("mkfifo").arg(env.path().join("pipe")).status().unwrap();
        assert!(made.success());
        let begun = Instant::now();
        env.lap(&["run", "--laps", "1"]);
        assert!(begun.elapsed() < Duration::from_secs(5), "{lines}");
        let shown = env.lap_ok(&["show", "here-1.1"]);
        let shown = shown.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(shown.contains("not a plain file") && shown.contains(said), "{lines}: {shown}");
    }
}
