//! Builds the recorder that `lap` carries and puts into graphics programs.
//!
//! It is a file of its own, loaded by other programs, and Cargo has no stable way to hand the file
//! that one crate becomes to another. Its two crates depend on nothing, so the compiler that builds
//! this one builds them in two calls.

use std::env;
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
    let abi = format!(
        "--extern=honest_lap_present_abi={}",
        out.join("libhonest_lap_present_abi.rlib").display()
    );
    let whole = [
        "--crate-type=cdylib",
        "-Ccodegen-units=1",
        "-Clto=fat",
        "-Cstrip=symbols",
        // A loader of Vulkan layers closes what it opened, and threads may still be inside.
        "-Clink-arg=-Wl,-z,nodelete",
        "-Clink-arg=-Wl,-z,now",
        &abi,
    ];
    compile(&crates.join("present/src/lib.rs"), "honest_lap_present", &out, &whole);
}

fn compile(source: &Path, name: &str, out: &Path, more: &[&str]) {
    let variable = |name: &str| env::var_os(name).unwrap_or_else(|| panic!("Cargo sets {name}"));
    let mut command = Command::new(variable("RUSTC"));
    command
        .arg("--edition=2024")
        .arg(format!("--crate-name={name}"))
        // Whatever the profile: it costs every frame of every program that it is loaded into.
        .arg("-Copt-level=3")
        // A panic is caught at the border of the host; aborting would end the host.
        .arg("-Cpanic=unwind")
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
