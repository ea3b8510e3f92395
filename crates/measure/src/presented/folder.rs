//! The folder that presents are written to: its lobby, and files made ready ahead of need.
//!
//! Allocating in the middle of a frame costs that frame up to a millisecond. So processes find files
//! that are allocated already, and those in use are made longer from here, while they are written.

use crate::error::{During, MeasureError};
use honest_lap_present_abi::{
    ALLOCATED_AT, BLANK, BLANKS, FIRST_BYTES, HEADER_BYTES, HeaderRead, LOBBY, LobbyRead,
    RECORD_BYTES, empty_lobby,
};
use std::fs::{self, File};
use std::io::{self, Write};
use std::os::fd::AsRawFd;
use std::os::unix::fs::FileExt;
use std::path::{Path, PathBuf};

/// The room that is kept ahead of what is written, at least.
const AHEAD_BYTES: u64 = 2 << 20;
/// The bytes of one appended piece.
const APPENDED_BYTES: usize = 256 << 10;
/// Looks whose worth of presents is kept ahead.
const AHEAD_LOOKS: u64 = 4;

/// A capture folder, there until it is dropped.
#[derive(Debug)]
pub(super) struct Folder {
    path: PathBuf,
}

impl Folder {
    /// Makes it, with everything ready for the first processes.
    pub(super) fn make(path: PathBuf) -> Result<Self, MeasureError> {
        let _ = fs::remove_dir_all(&path);
        fs::create_dir_all(&path).during("create", &path)?;
        let folder = Self { path };
        let lobby = folder.path.join(LOBBY);
        fs::write(&lobby, empty_lobby()).during("write", &lobby)?;
        folder.make_ready();
        Ok(folder)
    }

    pub(super) fn path(&self) -> &Path {
        &self.path
    }

    /// Makes files ready in place of those that were taken. Without one a process makes its own.
    pub(super) fn make_ready(&self) {
        for number in 0..BLANKS {
            let blank = self.path.join(format!("{BLANK}{number}"));
            if blank.exists() {
                continue;
            }
            let making = self.path.join("making");
            // Zeros that were written cost a program less at its first touch than room that is only
            // allocated: docs/measurements.md.
            let made = fs::write(&making, vec![0; FIRST_BYTES]);
            if made.and_then(|()| fs::rename(&making, &blank)).is_err() {
                let _ = fs::remove_file(&making);
                return;
            }
        }
    }

    /// Returns what processes said in the lobby.
    pub(super) fn lobby(&self) -> LobbyRead {
        let bytes = fs::read(self.path.join(LOBBY)).unwrap_or_default();
        LobbyRead::from_bytes(&bytes).unwrap_or_default()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        // What stays is cleared with the session.
        let _ = fs::remove_dir_all(&self.path);
    }
}

/// Makes `file`, whose header says `header`, longer if what was written since the last look, `fresh`
/// presents, could soon fill it. A process that runs out of room all the same allocates by itself.
pub(super) fn keep_ahead(file: &File, header: &HeaderRead, fresh: u64) {
    let record = RECORD_BYTES as u64;
    let used = HEADER_BYTES as u64 + header.next.saturating_mul(record);
    let wanted = AHEAD_BYTES.max(fresh.saturating_mul(record * AHEAD_LOOKS));
    if header.trouble.is_some() || header.allocated.saturating_sub(used) >= wanted {
        return;
    }
    let to = used + 2 * wanted;
    if to > header.allocated
        && let Ok(length) = lengthened(file, to)
    {
        let _ = file.write_all_at(&length.to_ne_bytes(), ALLOCATED_AT as u64);
    }
}

/// Appends zeros to the file until it is `to` bytes long, and returns how long it is.
///
/// By appending alone, since the process may be allocating too: the kernel puts each piece behind
/// whatever is there by then, so that no zero falls on a record.
fn lengthened(file: &File, to: u64) -> io::Result<u64> {
    let link = format!("/proc/self/fd/{}", file.as_raw_fd());
    let mut end = File::options().append(true).open(link)?;
    let zeros = vec![0; APPENDED_BYTES];
    loop {
        let length = end.metadata()?.len();
        if length >= to {
            return Ok(length);
        }
        if end.write_all(&zeros).is_err() {
            // What fitted is room all the same.
            return Ok(end.metadata()?.len());
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_taken_is_made_ready_again_and_what_fills_up_grows() {
        let dir = tempfile::tempdir().unwrap();
        let folder = Folder::make(dir.path().join("capture")).unwrap();
        let path = folder.path().to_owned();
        assert_eq!(folder.lobby(), LobbyRead::default());
        let (blank, taken) = (path.join("blank-1"), path.join("taken"));
        fs::rename(&blank, &taken).unwrap();
        folder.make_ready();
        assert_eq!(fs::metadata(&blank).unwrap().len(), FIRST_BYTES as u64);
        let file = File::options().read(true).write(true).open(&taken).unwrap();
        let mut header = HeaderRead {
            next: 10,
            dropped: 0,
            trouble: None,
            process: 1,
            opened_ns: 0,
            allocated: FIRST_BYTES as u64,
            program: Vec::new(),
        };
        let length = || fs::metadata(&taken).unwrap().len();
        keep_ahead(&file, &header, 10);
        assert_eq!(length(), FIRST_BYTES as u64, "there is room enough");
        header.next = 100_000;
        keep_ahead(&file, &header, 40_000);
        let wanted: u64 = 4_096 + 100_000 * 32 + 2 * 4 * 40_000 * 32;
        assert_eq!(length(), wanted.next_multiple_of(APPENDED_BYTES as u64));
        let mut said = [0; 8];
        file.read_exact_at(&mut said, ALLOCATED_AT as u64).unwrap();
        assert_eq!(u64::from_ne_bytes(said), length());
        drop(folder);
        assert!(!path.exists());
    }
}
