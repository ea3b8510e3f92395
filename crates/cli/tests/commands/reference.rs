//! The command reference is what the tool says of itself.
//!
//! Runs in under a second.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const REFERENCE: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/reference/commands.md");

/// Returns the commands below `command` that its help lists, in that order, each ahead of its own; `help` of a command is none.
fn below(env: &TestEnv, command: &str) -> Vec<(String, String)> {
    let args: Vec<&str> = command.split_whitespace().chain(["--help"]).collect();
    let help = env.lap_ok(&args);
    let listed = help.split_once("Commands:\n").map_or("", |(_, behind)| behind);
    let lines = listed.lines().take_while(|line| !line.is_empty());
    // What a command does may take a second line, which is indented further.
    let names = lines.filter_map(|line| {
        line.strip_prefix("  ")?.split_whitespace().next().filter(|_| !line.starts_with("   "))
    });
    let names: Vec<String> = names
        // That of a command of commands lists these again.
        .filter(|name| command.is_empty() || *name != "help")
        .map(|name| format!("{command} {name}").trim().to_owned())
        .collect();
    let all = names.iter().flat_map(|name| below(env, name));
    std::iter::once((command.to_owned(), help.clone())).chain(all).collect()
}

#[test]
fn the_command_reference_is_current() {
    let env = TestEnv::new(LAP);
    let mut text = String::from("# Commands\n\nGenerated from `--help`; see CONTRIBUTING.md.\n");
    let all = below(&env, "");
    for named in ["report", "mark", "store init", "sync", "rig check", "run"] {
        assert!(all.iter().any(|(command, _)| command == named), "{named}");
    }
    for (command, help) in &all {
        let title = format!("lap {command}");
        text += &format!("\n## `{}`\n\n```text\n{help}```\n", title.trim());
    }
    if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
        std::fs::write(REFERENCE, &text).unwrap();
    }
    let kept = std::fs::read_to_string(REFERENCE).unwrap();
    assert!(kept == text, "docs/reference/commands.md is out of date: see CONTRIBUTING.md");
}
