//! Which machine a program is made for, by the first bytes of its file.

use crate::error::ReachError;
use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

/// A program that can be sent.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Program {
    /// Its file.
    pub path: PathBuf,
    /// The machine it is made for, as `uname -m` calls that.
    pub machine: &'static str,
    /// The SHA-256 of its file.
    pub sha256: String,
    /// Another program that lies beside it and that it starts, with its SHA-256.
    pub beside: Option<(PathBuf, String)>,
}

/// Machines, as `uname -m` calls them, by their number in a program's header, and how many bits they have.
const MACHINES: [(u16, u8, &str); 6] = [
    (3, 1, "i686"),
    (40, 1, "armv7l"),
    (62, 2, "x86_64"),
    (183, 2, "aarch64"),
    (243, 2, "riscv64"),
    (258, 2, "loongarch64"),
];

/// Returns the machine that the program beginning with `header` is made for; `None` where it is no program that is known.
///
/// * Source: System V Application Binary Interface, chapter 4, `e_ident` and `e_machine`.
pub fn machine_of(header: &[u8]) -> Option<&'static str> {
    let little = header.starts_with(b"\x7fELF") && header.get(5) == Some(&1);
    let number = u16::from_le_bytes([*header.get(18)?, *header.get(19)?]);
    let bits = *header.get(4)?;
    let of = |&&(known, its, _): &&(u16, u8, &str)| known == number && its == bits;
    little.then(|| MACHINES.iter().find(of))?.map(|&(.., name)| name)
}

impl Program {
    /// Reads which machine the program at `path` is made for, whose SHA-256 is `sha256`; `None` where that is not known.
    pub fn read(path: &Path, sha256: String) -> Result<Option<Self>, ReachError> {
        let mut header = Vec::new();
        let read = File::open(path).and_then(|file| file.take(20).read_to_end(&mut header));
        read.map_err(ReachError::io("read", path))?;
        let machine = machine_of(&header);
        Ok(machine.map(|machine| Self { path: path.to_owned(), machine, sha256, beside: None }))
    }

    /// Returns whether it runs on a machine that `uname -m` calls `machine`.
    pub(crate) fn runs_on(&self, machine: &str) -> bool {
        let arms = ["armv7l", "armv8l"];
        let old = ["i386", "i486", "i586", "i686"];
        self.machine == machine
            || arms.contains(&self.machine) && arms.contains(&machine)
            || old.contains(&self.machine) && old.contains(&machine)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn header(bits: u8, machine: u16) -> Vec<u8> {
        let mut header = b"\x7fELF\x00\x01\x01".to_vec();
        header[4] = bits;
        header.resize(18, 0);
        header.extend(machine.to_le_bytes());
        header
    }

    #[test]
    fn a_program_tells_its_machine_and_anything_else_none() {
        assert_eq!(machine_of(&header(2, 62)), Some("x86_64"));
        assert_eq!(machine_of(&header(2, 183)), Some("aarch64"));
        assert_eq!(machine_of(&header(1, 62)), None);
        assert_eq!(machine_of(&header(2, 62)[..19]), None);
        assert_eq!(machine_of(b"#!/bin/sh\necho not a program"), None);
        assert_eq!(machine_of(b""), None);
    }

    #[test]
    fn the_program_that_runs_this_test_runs_here() {
        let own = Program::read(&std::env::current_exe().unwrap(), String::new()).unwrap().unwrap();
        assert!(own.runs_on(std::env::consts::ARCH), "{own:?}");
    }
}
