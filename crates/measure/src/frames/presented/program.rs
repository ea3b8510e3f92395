//! What a program file is: for how wide a machine, whether anything can be loaded into it.

use std::fs::File;
use std::os::unix::fs::{FileExt, MetadataExt};
use std::path::{Path, PathBuf};

/// Headers of segments that are looked at; programs have about a dozen.
const MOST_SEGMENTS: usize = 64;
const CLASS_32: u8 = 1;
/// The segment that names the loader.
const INTERPRETER: u32 = 3;
/// What a program file calls this machine (System V application binary interface).
const MACHINE: u16 = if cfg!(target_arch = "aarch64") { 183 } else { 62 };
/// And what it calls a 32-bit one of the same kind.
const NARROW_MACHINE: u16 = if cfg!(target_arch = "aarch64") { 40 } else { 3 };
/// Mode bits of set-uid and set-gid.
const SET_ID: u32 = 0o6000;

/// What was found in a program file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Program {
    /// It is for 32-bit machines.
    pub(super) narrow: bool,
    /// It is for another kind of processor.
    pub(super) foreign: bool,
    /// It names no loader: nothing can be loaded into it.
    pub(super) fixed: bool,
    /// Its mode makes it run as somebody else.
    pub(super) set_id: bool,
}

impl Program {
    /// Looks at the file at `path`; `None` where it is no program of this kind, or not to be read.
    pub(super) fn of(path: &Path) -> Option<Self> {
        let file = File::open(path).ok()?;
        let set_id = file.metadata().ok()?.mode() & SET_ID != 0;
        let mut head = [0; 64];
        file.read_exact_at(&mut head[..52], 0).ok()?;
        let _ = file.read_exact_at(&mut head, 0);
        if !head.starts_with(b"\x7fELF") {
            return None;
        }
        let narrow = head[4] == CLASS_32;
        let u16_at = |at: usize| usize::from(u16::from_le_bytes([head[at], head[at + 1]]));
        let (from, size, count) = match narrow {
            true => (u64::from(u32_at(&head, 28)), u16_at(42), u16_at(44)),
            false => (
                u64::from(u32_at(&head, 32)) | u64::from(u32_at(&head, 36)) << 32,
                u16_at(54),
                u16_at(56),
            ),
        };
        let kind = |place: usize| {
            let mut bytes = [0; 4];
            file.read_exact_at(&mut bytes, from + (place * size) as u64).ok()?;
            Some(u32::from_le_bytes(bytes))
        };
        let fixed = !(0..count.min(MOST_SEGMENTS)).any(|place| kind(place) == Some(INTERPRETER));
        let machine = u16::from_le_bytes([head[18], head[19]]);
        let foreign = machine != if narrow { NARROW_MACHINE } else { MACHINE };
        Some(Self { narrow, foreign, fixed, set_id })
    }
}

fn u32_at(bytes: &[u8], at: usize) -> u32 {
    u32::from_le_bytes(std::array::from_fn(|byte| bytes[at + byte]))
}

/// Returns the file that the command `word` starts, as a shell finds it, seen from `folder`.
pub(super) fn found(word: &str, folder: &Path) -> Option<PathBuf> {
    if word.contains('/') {
        return Some(folder.join(word));
    }
    let path = std::env::var_os("PATH")?;
    std::env::split_paths(&path).map(|dir| dir.join(word)).find(|path| path.is_file())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn programs_tell_what_they_are() {
        let own = Program::of(&std::env::current_exe().unwrap()).unwrap();
        assert_eq!(own, Program::default());
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("program");
        // A 32-bit program of one segment that is no loader's name.
        let mut bytes = vec![0; 84];
        bytes[..5].copy_from_slice(b"\x7fELF\x01");
        bytes[18..20].copy_from_slice(&NARROW_MACHINE.to_le_bytes());
        (bytes[28], bytes[42], bytes[44], bytes[52]) = (52, 32, 1, 1);
        std::fs::write(&path, &bytes).unwrap();
        let narrow = Program { narrow: true, fixed: true, ..Program::default() };
        assert_eq!(Program::of(&path), Some(narrow));
        bytes[52] = 3;
        std::fs::write(&path, &bytes).unwrap();
        assert_eq!(Program::of(&path), Some(Program { fixed: false, ..narrow }));
        bytes[18] = 243;
        std::fs::write(&path, &bytes).unwrap();
        assert!(Program::of(&path).unwrap().foreign);
        std::fs::write(&path, "#!/bin/sh\n").unwrap();
        assert_eq!(Program::of(&path), None);
    }

    #[test]
    fn a_command_is_found_as_a_shell_finds_it() {
        let folder = Path::new("/study");
        assert!(found("sh", folder).is_some_and(|path| path.ends_with("sh")));
        assert_eq!(found("./dome", folder), Some(PathBuf::from("/study/./dome")));
        assert_eq!(found("no-such-program-here", folder), None);
    }
}
