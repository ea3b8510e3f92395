//! Programs with habits of their own, and the recorder in them: each prints, and ends, as it does without it, and what it
//! presented is recorded to the frame.
//!
//! As they are, of glibc, of musl and of 32 bits. Runs for about 25 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_measure::RECORDS_NARROW;
use honest_lap_testkit::{TestEnv, compiled, compiled_by};
use serde_json::Value;
use std::io::Write;
use std::path::Path;
use std::process::Command;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const PROGRAMS: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/screens/programs");

/// The hosts, and how many presents of each are recorded; `None` where threads are ended at some moment or other.
const HOSTS: [(&str, Option<u64>); 25] = [
    ("sandbox", Some(100)),
    ("two-libraries", Some(102)),
    ("plug-ins", None),
    ("one-plug-in", None),
    ("same-function", Some(1)),
    ("many-libraries", Some(29)),
    ("looking-up-at-once", Some(8_000)),
    ("unloading", Some(20)),
    ("jumping-out", Some(30)),
    ("presenting-in-signals", Some(21)),
    ("threads-that-end", Some(10)),
    ("cleared", Some(25)),
    ("another-user", Some(20)),
    ("another-root", Some(20)),
    ("closing", Some(20)),
    ("forks", Some(104)),
    ("once", Some(1)),
    ("vforks", Some(10)),
    ("limits", Some(50)),
    ("error-number", Some(1)),
    ("locked", Some(20)),
    ("another-stack", Some(40)),
    ("cancelled", None),
    ("small-stack", Some(10)),
    ("nobody", Some(0)),
];

/// A compiler, and what it is told besides.
type Compiler = (&'static str, &'static [&'static str]);

/// Builds all of it by `compiler` in a study of a workload for each host.
fn built((compiler, width): Compiler) -> TestEnv {
    let mut study = "[study]\nwarm_up = 0\nlaps = 1\n".to_owned();
    for (host, _) in HOSTS {
        study += &format!(
            "[workload.{host}]\nkind = \"frames\"\nlimit = \"30s\"\ncommand = [\"./hosts\", \"{host}\"]\nframes = \"presented\"\n"
        );
    }
    let env = TestEnv::with_study(LAP, &study);
    let library = |source: &str, name: &str, more: &[&str]| {
        let more = [&["-shared", "-fPIC"], width, more].concat();
        compiled_by(compiler, &format!("{PROGRAMS}/{source}"), &env.path().join(name), &more);
    };
    let here = format!("-L{}", env.path().display());
    let beside = "-Wl,-rpath,$ORIGIN";
    library("moody_driver.c", "libempty.so", &[]);
    for (which, name) in [("1", "one"), ("2", "two")] {
        library("egl.c", &format!("lib{name}.so"), &[&format!("-DWHICH={which}")]);
        library("plug_in.c", &format!("plug{name}.so"), &[&here, &format!("-l{name}"), beside]);
    }
    for number in 0..30 {
        library("egl.c", &format!("many{number}.so"), &[&format!("-DWHICH={number}")]);
    }
    let linked = [width, &[&here, "-lempty", beside, "-lpthread", "-ldl"]].concat();
    compiled_by(compiler, &format!("{PROGRAMS}/hosts.c"), &env.path().join("hosts"), &linked);
    env
}

fn lines(value: &Value) -> Vec<String> {
    let all = value.as_array().into_iter().flatten();
    all.map(|line| line.as_str().unwrap().to_owned()).collect()
}

/// Returns how many presents a lap has, of all its windows together, by what it says of them.
fn presents(lap: &Value) -> u64 {
    let of = |words: &str| {
        let frames = words.split(" frame").next()?.rsplit(' ').next()?;
        frames.replace(',', "").parse::<u64>().ok()
    };
    if let Some(taken) = lap["frames_read_as"].as_str() {
        return std::iter::once(taken.to_owned())
            .chain(lines(&lap["also_presented"]))
            .filter_map(|words| of(&words))
            .sum();
    }
    // One present is no frame time; how many windows had one is said all the same.
    let reason = lap["reason"].as_str().unwrap_or_default();
    u64::from(reason.contains("presented 1 frame"))
}

/// Holds a lap against what the program in `folder` does by itself.
fn held_against(folder: &Path, command: &[&str], lap: &Value) {
    let alone = Command::new(command[0]).args(&command[1..]).current_dir(folder).output().unwrap();
    let printed = |bytes: &[u8]| -> Vec<String> {
        String::from_utf8_lossy(bytes).lines().map(str::to_owned).collect()
    };
    assert_eq!(lines(&lap["stdout_lines"]), printed(&alone.stdout), "{command:?}: {lap:#}");
    assert_eq!(lines(&lap["stderr_lines"]), printed(&alone.stderr), "{command:?}");
    assert_eq!(lap["exit_code"].as_f64(), alone.status.code().map(f64::from), "{command:?}");
}

fn laps(env: &TestEnv) -> impl Fn(usize) -> Value {
    move |number| {
        let name = format!("here-1.{number}");
        let json = env.lap_ok(&["show", &name, "--format", "json"]);
        serde_json::from_str::<Value>(&json).unwrap()["groups"][0]["rows"][0].clone()
    }
}

/// Holds all of them, built by `compiler`, against themselves. Where it is glibc's, plug-ins present once more: a look-up in
/// everything sees what only its caller is linked with, and one may take the place of another.
fn behave_as_without_it(compiler: Compiler, of_glibc: u64) {
    let env = built(compiler);
    let came = env.lap(&["run", "--unwatched"]);
    assert!(matches!(came.status, Some(0 | 3)), "{came}");
    let lap = laps(&env);
    for (number, (host, expected)) in (1..).zip(HOSTS) {
        let lap = lap(number);
        held_against(env.path(), &["./hosts", host], &lap);
        let found = presents(&lap);
        match (host, expected) {
            // A window of its own for each library: the one that is taken has no frame time.
            ("many-libraries", _) => assert_eq!(found, 1, "{lap:#}"),
            ("plug-ins", _) => assert_eq!(found, 100 + of_glibc, "{lap:#}"),
            ("one-plug-in", _) => assert_eq!(found, 50 + of_glibc, "{lap:#}"),
            (_, Some(expected)) => assert_eq!(found, expected, "{host}: {lap:#}"),
            (_, None) => assert!(found > 10, "{host}: {lap:#}"),
        }
    }
    env.assert_nothing_runs();
}

#[test]
fn programs_of_glibc_behave_as_without_the_recorder() {
    behave_as_without_it(("cc", &[]), 1);
}

#[test]
fn programs_of_musl_behave_as_without_the_recorder() {
    behave_as_without_it(("musl-gcc", &[]), 0);
}

fn say(word: &str) {
    let _ = std::io::stderr().write_all(word.as_bytes());
}

/// Whether this build has a recorder for 32-bit programs, which asks for a compiler that builds one: see `scripts/narrow-rustc`.
fn records_narrow() -> bool {
    if !RECORDS_NARROW {
        say("skipped: no compiler for 32-bit programs was at hand when this was built\n");
    }
    RECORDS_NARROW
}

#[test]
fn programs_of_32_bits_behave_as_without_the_recorder() {
    if records_narrow() {
        behave_as_without_it(("cc", &["-m32"]), 1);
    }
}

#[test]
fn what_the_recorder_does_not_fit_starts_as_if_nothing_were_there() {
    let study = "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"frames\"\nlimit = \"10s\"\n\
         command = [\"./narrow\"]\nframes = \"presented\"\n\
         [workload.little]\nkind = \"frames\"\nlimit = \"10s\"\n\
         command = \"ulimit -v 60000; exec ./wide\"\nframes = \"presented\"\n";
    let env = TestEnv::with_study(LAP, study);
    let hello = format!("{PROGRAMS}/hello.c");
    compiled(&hello, &env.path().join("narrow"), &["-m32"]);
    compiled(&hello, &env.path().join("wide"), &[]);
    let came = env.lap(&["run", "--unwatched"]);
    let narrow = if RECORDS_NARROW {
        "narrow` had the recorder in it"
    } else {
        "narrow` is a 32-bit program"
    };
    assert!(came.stderr.contains(narrow), "{came}");
    assert!(came.stderr.contains("so little address space"), "{came}");
    let lap = laps(&env);
    held_against(env.path(), &["./narrow"], &lap(1));
    held_against(env.path(), &["./wide"], &lap(2));
}

/// Runs the crowd, built so wide.
fn crowd(width: &[&str]) {
    let study = "[study]\nwarm_up = 0\nlaps = 1\n[workload.w]\nkind = \"frames\"\nlimit = \"50s\"\n\
         command = [\"./crowd\"]\nframes = \"presented\"\n";
    let env = TestEnv::with_study(LAP, study);
    let options = [width, &["-ldl"]].concat();
    compiled(&format!("{PROGRAMS}/vulkan_crowd.c"), &env.path().join("crowd"), &options);
    env.lap(&["run", "--unwatched"]);
    let lap = laps(&env)(1);
    assert_eq!(lines(&lap["stdout_lines"]), ["70 devices, 70 queues, 70 idle"], "{lap:#}");
    held_against(env.path(), &["./crowd"], &lap);
}

#[test]
fn a_crowd_of_vulkan_instances_and_devices_is_passed_on() {
    crowd(&[]);
}

#[test]
fn a_crowd_of_32_bit_ones_is_passed_on_where_there_is_vulkan_for_them() {
    if !Path::new("/usr/lib/i386-linux-gnu/libvulkan.so.1").exists() {
        say("skipped: no Vulkan for 32-bit programs is here (libvulkan1:i386)\n");
        return;
    }
    if records_narrow() {
        crowd(&["-m32"]);
    }
}
