//! What a test needs of the machine that not every machine has.

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

/// Returns the Python that has engines for tables (DuckDB), which `scripts/test` sets up; says so where there is none.
///
/// CI has them: there it fails.
pub fn engines(test: &str) -> Option<std::path::PathBuf> {
    let python = std::env::var_os("LAP_TEST_ENGINES").map(std::path::PathBuf::from);
    assert!(
        python.is_some() || std::env::var_os("CI").is_none(),
        "{test} needs DuckDB, which scripts/test sets up"
    );
    if python.is_none() {
        let word = format!("{test}: skipped, needs DuckDB, which scripts/test sets up\n");
        let _ = std::io::stderr().write_all(word.as_bytes());
    }
    python
}
