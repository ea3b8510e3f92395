//! The compiler that builds the recorder, and how it is told to.

use std::ffi::OsString;
use std::path::Path;
use std::process::Command;

/// What the recorder's file is called.
pub const LIBRARY: &str = "libhonest_lap_present.so";

/// A compiler, and what it builds for.
pub struct Compiler {
    pub rustc: OsString,
    pub target: OsString,
    /// What links, where that is not the compiler's own choice.
    pub linker: Option<OsString>,
}

impl Compiler {
    /// Returns whether the library that every program of the target needs is there.
    pub fn is_installed(&self) -> bool {
        let asked = Command::new(&self.rustc)
            .args(["--print", "target-libdir", "--target"])
            .arg(&self.target)
            .output();
        let Ok(answer) = asked else { return false };
        let folder = String::from_utf8_lossy(&answer.stdout).trim().to_owned();
        let core = |entry: std::fs::DirEntry| {
            let name = entry.file_name();
            name.to_string_lossy().starts_with("libcore")
                && name.to_string_lossy().ends_with(".rlib")
        };
        std::fs::read_dir(folder).is_ok_and(|entries| entries.flatten().any(core))
    }

    /// Builds the recorder from the sources in `crates` into the folder `out`.
    pub fn recorder(&self, crates: &Path, out: &Path) {
        let layout = crates.join("present-abi/src/lib.rs");
        self.compile(&layout, "honest_lap_present_abi", out, &["--crate-type=rlib"]);
        let layout = out.join("libhonest_lap_present_abi.rlib");
        let layout = format!("--extern=honest_lap_present_abi={}", layout.display());
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
            &layout,
        ];
        self.compile(&crates.join("present/src/lib.rs"), "honest_lap_present", out, &whole);
    }

    fn compile(&self, source: &Path, name: &str, out: &Path, more: &[&str]) {
        let mut command = Command::new(&self.rustc);
        command
            .arg("--edition=2024")
            .arg(format!("--crate-name={name}"))
            // Whatever the profile: it costs every frame of every program that it is loaded into.
            .arg("-Copt-level=3")
            .arg("-Cpanic=abort")
            .arg("--target")
            .arg(&self.target)
            .arg("--out-dir")
            .arg(out)
            .args(more)
            .arg(source);
        if let Some(linker) = &self.linker {
            command.arg(format!("-Clinker={}", Path::new(linker).display()));
        }
        let ended =
            command.status().unwrap_or_else(|err| panic!("the compiler cannot start: {err}"));
        assert!(ended.success(), "{} cannot be compiled", source.display());
    }
}
