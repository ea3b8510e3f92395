//! Names the build, so that the tool and the starter beside it know each other, and
//! builds the recorder that `lap` carries and puts into graphics programs.
//!
//! It is a file of its own, loaded by other programs, and Cargo has no stable way to hand the file
//! that one crate becomes to another. Its two crates depend on nothing, so the compiler that builds
//! this one builds them in two calls.

#[path = "build/compiler.rs"]
mod compiler;
#[path = "build/nothing.rs"]
mod nothing;

use compiler::{Compiler, LIBRARY};
use std::env;
use std::ffi::OsString;
use std::fs;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::path::{Path, PathBuf};

/// What 32-bit programs of this machine are built for.
const NARROW_TARGET: &str = "i686-unknown-linux-gnu";
/// Names a compiler that builds for them, where this one does not.
const NARROW_RUSTC: &str = "HONEST_LAP_NARROW_RUSTC";

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
    println!("cargo::rerun-if-env-changed={NARROW_RUSTC}");
    println!("cargo::rustc-check-cfg=cfg(narrow_recorder)");
    let own = Compiler {
        rustc: variable("RUSTC"),
        target: variable("TARGET"),
        linker: env::var_os("RUSTC_LINKER"),
    };
    own.recorder(&crates, &out);
    let narrow = out.join("narrow");
    fs::create_dir_all(&narrow).unwrap_or_else(|err| panic!("{}: {err}", narrow.display()));
    if recorder_for_narrow(&wanted("CARGO_CFG_TARGET_ARCH"), &crates, &narrow) {
        println!("cargo::rustc-cfg=narrow_recorder");
        return;
    }
    let library = narrow.join(LIBRARY);
    fs::write(&library, nothing::library(&wanted("CARGO_CFG_TARGET_ARCH")))
        .unwrap_or_else(|err| panic!("{}: {err}", library.display()));
}

/// Builds the recorder for the 32-bit programs of a machine; returns whether there is a compiler that can.
///
/// That is this one, where its library for them is installed, or another that is named: neither is needed.
fn recorder_for_narrow(machine: &str, crates: &Path, out: &Path) -> bool {
    let named = env::var_os(NARROW_RUSTC).filter(|named| !named.is_empty());
    // What links programs of its own width may not link these, and no library is linked into them.
    let narrow = Compiler {
        rustc: named.clone().unwrap_or_else(|| variable("RUSTC")),
        target: NARROW_TARGET.into(),
        linker: None,
    };
    if machine != "x86_64" || !narrow.is_installed() {
        assert!(named.is_none(), "{NARROW_RUSTC} names no compiler for {NARROW_TARGET}");
        return false;
    }
    narrow.recorder(crates, out);
    true
}

fn variable(name: &str) -> OsString {
    env::var_os(name).unwrap_or_else(|| panic!("Cargo sets {name}"))
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
