//! The command reference is what the tool says of itself.
//!
//! Runs in under a second.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const REFERENCE: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/reference/commands.md");

/// Every command but `help`, in the order in which people meet them; the whole of `lap` first.
const COMMANDS: [&str; 25] = [
    "",
    "demo",
    "init",
    "rig",
    "run",
    "enter",
    "clock",
    "mark",
    "import",
    "frames",
    "trim",
    "export",
    "show",
    "compare",
    "plot",
    "doubts",
    "claim",
    "value",
    "set-aside",
    "note",
    "verify",
    "merge",
    "completions",
    "man",
    "rig check",
];

#[test]
fn the_command_reference_is_current() {
    let env = TestEnv::new(LAP);
    let mut text = String::from("# Commands\n\nGenerated from `--help`; see CONTRIBUTING.md.\n");
    for command in COMMANDS {
        let args: Vec<&str> = command.split_whitespace().chain(["--help"]).collect();
        let title = format!("lap {command}");
        text += &format!("\n## `{}`\n\n```text\n{}```\n", title.trim(), env.lap_ok(&args));
    }
    if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
        std::fs::write(REFERENCE, &text).unwrap();
    }
    let kept = std::fs::read_to_string(REFERENCE).unwrap();
    assert!(kept == text, "docs/reference/commands.md is out of date: see CONTRIBUTING.md");
}
