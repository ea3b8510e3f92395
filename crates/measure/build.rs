//! Names the build, so that the tool and the starter beside it know each other, and
//! builds the recorder that `lap` carries and puts into graphics programs.
//!
//! It is a file of its own, loaded by other programs, and Cargo has no stable way to hand the file
//! that one crate becomes to another. Its two crates depend on nothing, so the compiler that builds
//! this one builds them in two calls.

#[path = "build/narrow.rs"]
mod narrow;

use std::env;
use std::fs;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::{Path, PathBuf};
use std::process::Command;

fn main() {
    let wanted = |name: &str| env::var(name).unwrap_or_else(|_| panic!("Cargo sets {name}"));
    let crates = PathBuf::from(wanted("CARGO_MANIFEST_DIR")).join("..");
    let out = PathBuf::from(wanted("OUT_DIR"));
    for name in ["present", "present-abi"] {
        println!("cargo::rerun-if-changed={}", crates.join(name).join("src").display());
    }
    println!("cargo::rerun-if-changed=build.rs");
    println!("cargo::rerun-if-changed=build");
    let sources = PathBuf::from("src");
    println!("cargo::rerun-if-changed={}", sources.display());
    let mut build = DefaultHasher::new();
    hash_folder(&sources, &mut build);
    println!("cargo::rustc-env=HONEST_LAP_MEASURE_BUILD={:016x}", build.finish());
    if wanted("CARGO_CFG_TARGET_OS") != "linux" || wanted("CARGO_CFG_TARGET_POINTER_WIDTH") != "64"
    {
        panic!("frames are captured on 64-bit Linux only, and so far this tool runs there only");
    }
    compile(
        &crates.join("present-abi/src/lib.rs"),
        "honest_lap_present_abi",
        &out,
        &["--crate-type=rlib"],
    );
    let nothing = out.join("nothing_32.so");
    fs::write(&nothing, narrow::library(&wanted("CARGO_CFG_TARGET_ARCH")))
        .unwrap_or_else(|err| panic!("{}: {err}", nothing.display()));
    let abi = format!(
        "--extern=honest_lap_present_abi={}",
        out.join("libhonest_lap_present_abi.rlib").display()
    );
    let whole = [
        "--crate-type=cdylib",
        "--cfg=the_recorder_itself",
        "-Ccodegen-units=1",
        "-Clto=fat",
        "-Cstrip=symbols",
        // It brings no library along, and what is asked for of none (a panic, say) is a mistake that shows here.
        "-Clink-arg=-nostdlib",
        "-Clink-arg=-Wl,-z,defs",
        // Loaders beside glibc read the older table.
        "-Clink-arg=-Wl,--hash-style=both",
        // A thread that ends in a present is unwound through it.
        "-Cforce-unwind-tables=yes",
        // A loader of Vulkan layers closes what it opened, and threads may still be inside.
        "-Clink-arg=-Wl,-z,nodelete",
        "-Clink-arg=-Wl,-z,now",
        &abi,
    ];
    compile(&crates.join("present/src/lib.rs"), "honest_lap_present", &out, &whole);
}

/// Adds every file below `folder` to `build`, by name and text.
fn hash_folder(folder: &Path, build: &mut DefaultHasher) {
    let entries = fs::read_dir(folder).unwrap_or_else(|err| panic!("{}: {err}", folder.display()));
    let mut paths: Vec<PathBuf> = entries.flatten().map(|entry| entry.path()).collect();
    paths.sort();
    for path in paths {
        if path.is_dir() {
            hash_folder(&path, build);
        } else {
            path.hash(build);
            fs::read(&path).unwrap_or_else(|err| panic!("{}: {err}", path.display())).hash(build);
        }
    }
}

fn compile(source: &Path, name: &str, out: &Path, more: &[&str]) {
    let variable = |name: &str| env::var_os(name).unwrap_or_else(|| panic!("Cargo sets {name}"));
    let mut command = Command::new(variable("RUSTC"));
    command
        .arg("--edition=2024")
        .arg(format!("--crate-name={name}"))
        // Whatever the profile: it costs every frame of every program that it is loaded into.
        .arg("-Copt-level=3")
        .arg("-Cpanic=abort")
        .arg("--target")
        .arg(variable("TARGET"))
        .arg("--out-dir")
        .arg(out)
        .args(more)
        .arg(source);
    if let Some(linker) = env::var_os("RUSTC_LINKER") {
        command.arg(format!("-Clinker={}", Path::new(&linker).display()));
    }
    let ended = command.status().unwrap_or_else(|err| panic!("the compiler cannot start: {err}"));
    assert!(ended.success(), "{} cannot be compiled", source.display());
}
