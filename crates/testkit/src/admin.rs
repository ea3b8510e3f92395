//! What only the administrator may do.

use std::io::Write;
use std::process::Command;

/// Returns the words of `command` as the administrator runs them: by `sudo` where the test's user is another.
pub(crate) fn administrator(command: &[&str]) -> Command {
    let sudo = if is_administrator() { &[][..] } else { &["sudo", "-n"][..] };
    let words = [sudo, command].concat();
    let mut administrator = Command::new(words[0]);
    administrator.args(&words[1..]);
    administrator
}

pub(crate) fn is_administrator() -> bool {
    Command::new("id").arg("-u").output().unwrap().stdout == b"0\n"
}

/// Does what only the administrator may do, by `sudo` where the test's user is another; returns
/// whether it was done.
pub fn as_root(words: &[&str]) -> bool {
    administrator(words).status().is_ok_and(|status| status.success())
}

/// Returns whether `test` may go on, which needs the administrator; where there is none, says so.
///
/// CI has one: there it fails. The word goes past what the test runner keeps to itself.
pub fn has_root(test: &str) -> bool {
    let has = as_root(&["true"]);
    assert!(
        has || std::env::var_os("CI").is_none(),
        "{test} needs root, or sudo without a password"
    );
    if !has {
        let word = format!("{test}: skipped, needs root or sudo without a password\n");
        let _ = std::io::stderr().write_all(word.as_bytes());
    }
    has
}
