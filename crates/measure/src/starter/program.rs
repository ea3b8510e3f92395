//! Which program a starter is: a small one that lies beside the tool, or the tool itself.
//!
//! Until a child becomes its own program it shares the memory of the process that starts it, so a small
//! program keeps the recorded peak memory of a lap low. Nothing else differs: both call [`super::serve`].

use crate::os::own_program;
use std::ffi::OsStr;
use std::fs::File;
use std::os::fd::AsRawFd;
use std::path::PathBuf;
use std::process::{Command, ExitCode, Stdio};
use std::sync::OnceLock;

/// The file name of the small program.
pub const NAME: &str = "lap-starter";
/// What comes before the build in the argument that the tool gives to a starter.
const PREFIX: &str = "starter:";
/// What comes before the build where it is only asked for.
const QUESTION: &str = "build:";
/// The sources of this crate in one number (build.rs): what two builds say to each other may differ.
const BUILD: &str = env!("HONEST_LAP_MEASURE_BUILD");

/// Returns whether `argument` asks a program of ours to be a starter.
pub fn is_starter_argument(argument: &OsStr) -> bool {
    argument.as_encoded_bytes().starts_with(PREFIX.as_bytes())
}

/// Returns the argument by which this build asks for a starter.
pub(super) fn argument() -> String {
    format!("{PREFIX}{BUILD}")
}

/// Returns how a program ends that is not asked for a lap by a tool of its own build; `None` if it is.
pub(super) fn declined() -> Option<ExitCode> {
    let asked = std::env::args().nth(1).unwrap_or_default();
    if asked == argument() {
        return None;
    }
    let same = asked.strip_prefix(QUESTION) == Some(BUILD);
    Some(if same { ExitCode::SUCCESS } else { ExitCode::FAILURE })
}

/// The small program, held open: it stays what it was at the first lap even if its file is replaced meanwhile.
static HELD: OnceLock<Option<File>> = OnceLock::new();

/// Returns the path by which a starter is started.
pub(super) fn path() -> PathBuf {
    match HELD.get_or_init(beside) {
        Some(file) => held(file),
        None => own_program(),
    }
}

/// Opens the small program that lies beside the tool, if one of the same build does.
fn beside() -> Option<File> {
    let file = File::open(std::env::current_exe().ok()?.with_file_name(NAME)).ok()?;
    let mut question = Command::new(held(&file));
    question.arg(format!("{QUESTION}{BUILD}")).stdin(Stdio::null()).stdout(Stdio::null());
    let same = question.stderr(Stdio::null()).status().is_ok_and(|status| status.success());
    same.then_some(file)
}

/// Returns the path of a file that is held open.
fn held(file: &File) -> PathBuf {
    PathBuf::from(format!("/proc/self/fd/{}", file.as_raw_fd()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_starter_is_asked_for_by_one_argument_that_names_its_build() {
        assert!(is_starter_argument(argument().as_ref()));
        assert!(!is_starter_argument("run".as_ref()));
        assert!(BUILD.len() == 16 && BUILD.bytes().all(|byte| byte.is_ascii_hexdigit()));
        // The test program itself was not asked to be one.
        assert!(declined().is_some());
    }
}
