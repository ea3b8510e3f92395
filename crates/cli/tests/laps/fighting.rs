//! Programs that fight their end: each lap comes to one all the same, soon, and nothing of it is left.
//!
//! Runs for about 30 s on one core of two.

use honest_lap_testkit::TestEnv;
use std::fs;
use std::io::Read;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the processes whose command holds `word`, whatever they did to their environment.
fn alive(word: &str) -> Vec<String> {
    let command = |entry: fs::DirEntry| {
        let pid: u32 = entry.file_name().to_str()?.parse().ok()?;
        let command = fs::read(entry.path().join("cmdline")).ok()?;
        let command = String::from_utf8_lossy(&command).replace('\0', " ");
        let ended = fs::read_to_string(entry.path().join("stat")).ok()?.contains(") Z ");
        // Not the test itself, nor the tool that is told to drive it.
        let ours = pid == std::process::id() || command.contains(LAP);
        (command.contains(word) && !ours && !ended).then(|| format!("{pid} {command}"))
    };
    fs::read_dir("/proc").unwrap().filter_map(|entry| command(entry.ok()?)).collect()
}

/// Programs, how each lap ends, and what is said of it. `NAP` is a sleep that is this test's own.
const FIGHTS: [(&str, &str, &str, &str); 16] = [
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
];

#[test]
fn whatever_a_program_does_against_its_end_the_lap_ends_and_leaves_nothing() {
    for (at, (what, command, outcome, said)) in FIGHTS.iter().enumerate() {
        let seconds = format!("{}.{at}", 400_000 + std::process::id() % 100_000);
        let command = command
            .replace("NAPPING", &format!("nap-{seconds}"))
            .replace("NAP", &format!("sleep {seconds}"));
        let lines = format!("limit = \"1s\"\ncommand = '''{command}'''");
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
        assert!(begun.elapsed() < Duration::from_secs(20), "{what}: {:?}", begun.elapsed());
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
