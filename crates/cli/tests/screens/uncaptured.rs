//! When nothing was captured: each cause is found by looking, and told in words.
//!
//! One of these needs what only the administrator may do, by `sudo` where the test's user is another:
//! a program that is somebody else's.
//!
//! Runs for about 12 s on one core of two.

use honest_lap_testkit::{TestEnv, as_root, compiled, has_root};
use std::os::unix::fs::PermissionsExt;
use std::process::Command;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const PROGRAMS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/screens/programs");

/// Runs `command` until its limit, and returns what the lap says; with `prepare` ahead of it.
fn said(command: &str, prepare: impl Fn(&TestEnv)) -> String {
    let study = format!(
        "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"frames\"\nlimit = \"1500ms\"\n\
         command = {command}\nframes = \"presented\"\n"
    );
    let env = TestEnv::with_study(LAP, &study);
    prepare(&env);
    let came = env.lap(&["run", "--unwatched"]);
    assert_eq!(came.status, Some(3), "{came}");
    env.assert_nothing_runs();
    came.stderr
}

fn says(command: &str, prepare: impl Fn(&TestEnv), wanted: &str) {
    let said = said(command, prepare);
    assert!(said.contains(wanted), "{command}: {said}");
}

fn still(env: &TestEnv, more: &[&str]) {
    compiled(&format!("{PROGRAMS}/still.c"), &env.path().join("still"), more);
}

#[test]
fn a_static_program_is_known_by_its_file() {
    says("[\"./still\"]", |env| still(env, &["-static"]), "`still` is linked statically");
}

#[test]
fn a_static_32_bit_program_is_known_by_its_file() {
    let assembled = |env: &TestEnv| {
        let (source, object) = (format!("{PROGRAMS}/narrow.s"), env.path().join("narrow.o"));
        let assembler = Command::new("as").args(["--32", "-o"]).arg(&object).arg(source).status();
        assert!(assembler.is_ok_and(|status| status.success()));
        let to = env.path().join("narrow");
        let linker = Command::new("ld").args(["-m", "elf_i386", "-o"]).arg(to).arg(object).status();
        assert!(linker.is_ok_and(|status| status.success()));
    };
    says("[\"./narrow\"]", assembled, "`narrow` is linked statically");
}

#[test]
fn a_program_with_other_rights_is_known_by_what_the_system_told_it() {
    if !has_root("a program with other rights is known") {
        return;
    }
    let guarded = |env: &TestEnv| {
        still(env, &[]);
        let path = env.path().join("still").display().to_string();
        assert!(as_root(&["chown", "nobody", &path]) && as_root(&["chmod", "4755", &path]));
        assert!(std::fs::set_permissions(env.path(), PermissionsExt::from_mode(0o755)).is_ok());
    };
    says("[\"./still\"]", guarded, "`still` runs with other rights than its user's");
}

#[test]
fn a_launcher_that_clears_the_environment_is_found_out() {
    let clears = "[\"env\", \"-i\", \"./still\"]";
    says(clears, |env| still(env, &[]), "`still` ran without the environment it was given");
}

#[test]
fn a_program_that_never_presents_is_told_from_one_that_was_not_reached() {
    says(
        "[\"./still\"]",
        |env| still(env, &[]),
        "`still` had the recorder in it and never presented",
    );
    let at_once = "[\"true\"]";
    says(at_once, |_| {}, "`true` had the recorder in it and ended without presenting a frame");
}

#[test]
fn a_container_is_known_by_its_file_systems() {
    let apart =
        "[\"unshare\", \"-rm\", \"sh\", \"-c\", \"mount -t tmpfs none .lap && exec ./still\"]";
    says(apart, |env| still(env, &[]), "`still` ran in a container");
}
