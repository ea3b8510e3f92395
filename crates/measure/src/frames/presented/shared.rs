//! The file that presents are recorded in: made ahead of a lap, kept ahead of what is written, gone after it.
//!
//! In memory where the system has a file system for that: a page of a disk's file is written back now and then, and whoever
//! presents meanwhile waits for it. Its room is bounded, and stated in docs/formats/capture.md.

use crate::error::{During, MeasureError};
use honest_lap_present_abi::{
    HEADER_BYTES, HeaderRead, MOST_PROCESSES, MOST_RECORDS, PROCESS_BYTES, ProcessRead,
    RECORD_BYTES, RECORDS_AT, ROOM_AT, empty_header,
};
use rustix::fs::{FlockOperation, flock, statfs, statvfs};
use std::fs::{self, File};
use std::io;
use std::os::unix::fs::{FileExt, OpenOptionsExt, symlink};
use std::path::{Path, PathBuf};

/// Where files are that are in memory.
const MEMORY: &str = "/dev/shm";
/// What tells that they are (statfs(2)).
const IN_MEMORY: i64 = 0x0102_1994;
/// The share of the free memory there that is taken at first, at most.
const SHARE: u64 = 32;
/// The room at first, in memory: for two million presents, which is more than an empty driver shows between two looks.
const FIRST_BYTES: u64 = 65 << 20;
/// The least room at first, and all of it on a disk.
const LEAST_BYTES: u64 = 4 << 20;
/// The room that is kept ahead of what is written, at least.
const AHEAD_BYTES: u64 = 2 << 20;
/// Looks whose worth of presents is kept ahead.
const AHEAD_LOOKS: u64 = 4;
/// How much is written at once, and how much between two looks at most.
const PIECE_BYTES: u64 = 256 << 10;
const MOST_GROWN_BYTES: u64 = 256 << 20;
/// How long it ever gets.
pub(super) const MOST_BYTES: u64 = RECORDS_AT as u64 + (MOST_RECORDS * RECORD_BYTES) as u64;

/// The file, there until it is dropped.
#[derive(Debug)]
pub(super) struct Shared {
    /// The capture's folder, which leads to the file wherever it is.
    folder: PathBuf,
    path: PathBuf,
    file: File,
    /// How far it may be written to: as it was made, and not as anybody else says.
    allocated: u64,
    /// The error number for which it could not be made longer.
    trouble: Option<u32>,
}

impl Shared {
    /// Makes it for the capture in `folder`, with room for the first presents; `mark` is no other session's.
    pub(super) fn make(folder: PathBuf, mark: &str) -> Result<Self, MeasureError> {
        let _ = fs::remove_dir_all(&folder);
        fs::create_dir_all(&folder).during("create", &folder)?;
        let link = folder.join("presents");
        clear_left(Path::new(MEMORY));
        if let Some(bytes) = room_in_memory(Path::new(MEMORY)) {
            let path = place_in_memory(mark);
            let _ = fs::remove_file(&path);
            if let Ok(shared) = Self::create(folder.clone(), path, bytes)
                && shared.trouble.is_none()
            {
                // Only for people who look for it.
                let _ = symlink(&shared.path, &link);
                return Ok(shared);
            }
        }
        Self::create(folder, link.clone(), LEAST_BYTES).during("write", &link)
    }

    fn create(folder: PathBuf, path: PathBuf, first: u64) -> io::Result<Self> {
        let made = File::options().read(true).write(true).create_new(true).mode(0o600).open(&path);
        let file = made?;
        // For as long as it is locked it is in use, whatever becomes of us.
        flock(&file, FlockOperation::NonBlockingLockExclusive)?;
        let mut shared = Self { folder, path, file, allocated: HEADER_BYTES as u64, trouble: None };
        shared.file.write_all_at(&empty_header(0), 0)?;
        shared.lengthen(first);
        Ok(shared)
    }

    /// Returns the path that processes open it by.
    pub(super) fn path(&self) -> &Path {
        &self.path
    }

    /// Returns where the recorder may be put beside it.
    pub(super) fn folder(&self) -> &Path {
        &self.folder
    }

    /// Returns why there was no room, where there was none.
    pub(super) fn trouble(&self) -> Option<u32> {
        self.trouble
    }

    /// Returns what its header says; of records no more than there is room for.
    pub(super) fn header(&self) -> HeaderRead {
        let mut bytes = [0; HEADER_BYTES];
        let read = self.file.read_at(&mut bytes, 0).unwrap_or(0);
        let header = HeaderRead::from_bytes(&bytes[..read]).unwrap_or_default();
        HeaderRead { next: header.next.min(self.room()), ..header }
    }

    /// Returns who the process at a place says that it is.
    pub(super) fn process(&self, place: u32) -> Option<ProcessRead> {
        let place = usize::try_from(place).ok().filter(|place| *place < MOST_PROCESSES)?;
        let mut bytes = [0; PROCESS_BYTES];
        self.file.read_exact_at(&mut bytes, (HEADER_BYTES + place * PROCESS_BYTES) as u64).ok()?;
        ProcessRead::from_bytes(&bytes)
    }

    /// Reads records from `place` on into `to`, and returns how many there were.
    pub(super) fn records(&self, place: u64, to: &mut [u8]) -> usize {
        let at = RECORDS_AT as u64 + place * RECORD_BYTES as u64;
        self.file.read_at(to, at).unwrap_or(0) / RECORD_BYTES
    }

    /// Makes it longer if what was written since the last look, `fresh` of `next` presents, could soon fill it.
    pub(super) fn keep_ahead(&mut self, next: u64, fresh: u64) {
        let record = RECORD_BYTES as u64;
        let used = RECORDS_AT as u64 + next * record;
        let wanted = AHEAD_BYTES.max(fresh * record * AHEAD_LOOKS);
        if self.trouble.is_none() && self.allocated.saturating_sub(used) < wanted {
            self.lengthen((used + 2 * wanted).min(self.allocated + MOST_GROWN_BYTES));
        }
    }

    /// Returns how many records there is room for.
    fn room(&self) -> u64 {
        self.allocated.saturating_sub(RECORDS_AT as u64) / RECORD_BYTES as u64
    }

    /// Writes zeros behind its end until it is `to` bytes long, and says so in it.
    fn lengthen(&mut self, to: u64) {
        let zeros = vec![0; PIECE_BYTES as usize];
        let to = to.min(MOST_BYTES);
        while self.allocated < to {
            let piece = (to - self.allocated).min(PIECE_BYTES);
            match self.file.write_at(&zeros[..piece as usize], self.allocated) {
                Ok(written @ 1..) => self.allocated += written as u64,
                Ok(0) => break,
                Err(err) => {
                    self.trouble = Some(err.raw_os_error().map_or(0, i32::unsigned_abs));
                    break;
                }
            }
        }
        // A header that cannot be written is one of a file that nobody can write to.
        let _ = self.file.write_all_at(&self.room().to_ne_bytes(), ROOM_AT as u64);
    }
}

impl Drop for Shared {
    fn drop(&mut self) {
        let _ = fs::remove_file(&self.path);
        // What stays is cleared with the session.
        let _ = fs::remove_dir_all(&self.folder);
    }
}

/// Removes what runs that were killed left in the memory at `dir`, of whatever study: nobody holds its lock.
fn clear_left(dir: &Path) {
    let ours = |name: &str| name.starts_with(PREFIX) && name.ends_with(SUFFIX);
    for entry in fs::read_dir(dir).into_iter().flatten().flatten() {
        let path = entry.path();
        if !entry.file_name().to_str().is_some_and(ours) {
            continue;
        }
        // What is another user's cannot be opened, and is theirs to clear away.
        let Ok(file) = File::options().write(true).custom_flags(NOT_A_LINK).open(&path) else {
            continue;
        };
        if flock(&file, FlockOperation::NonBlockingLockExclusive).is_ok() {
            let _ = fs::remove_file(&path);
        }
    }
}

const PREFIX: &str = "honest-lap-";
const SUFFIX: &str = ".presents";
/// Opens no link, wherever it leads (open(2)).
const NOT_A_LINK: i32 = libc::O_NOFOLLOW;

fn place_in_memory(mark: &str) -> PathBuf {
    Path::new(MEMORY).join(format!("{PREFIX}{mark}{SUFFIX}"))
}

/// Returns how much room there may be at first in the memory at `dir`; `None` where that is none, or too little.
fn room_in_memory(dir: &Path) -> Option<u64> {
    let in_memory = statfs(dir).is_ok_and(|found| found.f_type == IN_MEMORY);
    let found = statvfs(dir).ok().filter(|_| in_memory)?;
    let free = found.f_bavail.saturating_mul(found.f_frsize) / SHARE;
    (free >= LEAST_BYTES).then(|| free.min(FIRST_BYTES))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn room_is_kept_ahead_of_what_is_written_and_nobody_else_says_how_much() {
        let dir = tempfile::tempdir().unwrap();
        let mut shared = Shared::make(dir.path().join("capture"), "shared-test").unwrap();
        let path = shared.path().to_owned();
        let length = || fs::metadata(&path).unwrap().len();
        let first = length();
        let room = |length: u64| (length - RECORDS_AT as u64) / 32;
        assert!((LEAST_BYTES..=FIRST_BYTES).contains(&first));
        assert_eq!(shared.header().room, room(first));
        shared.keep_ahead(10, 10);
        assert_eq!(length(), first, "there is room enough");
        let next = room(first) - 1_000;
        shared.keep_ahead(next, 40_000);
        let wanted = RECORDS_AT as u64 + next * 32 + 2 * 4 * 40_000 * 32;
        assert_eq!((length(), shared.header().room), (wanted, room(wanted)));
        // A forged header: of more records than there is room for, and of a file that is longer.
        for at in [16, ROOM_AT as u64] {
            shared.file.write_all_at(&u64::MAX.to_ne_bytes(), at).unwrap();
        }
        assert_eq!(shared.header().next, room(wanted));
        shared.keep_ahead(shared.header().next, 0);
        assert_eq!(length(), wanted + 2 * AHEAD_BYTES);
        drop(shared);
        assert!(!path.exists() && !dir.path().join("capture").exists());
    }

    #[test]
    fn what_a_killed_run_left_is_cleared_and_what_is_in_use_stays() {
        let dir = tempfile::tempdir().unwrap();
        let [left, used, other] = ["honest-lap-a.presents", "honest-lap-b.presents", "c.presents"]
            .map(|name| dir.path().join(name));
        for path in [&left, &used, &other] {
            fs::write(path, "").unwrap();
        }
        let held = File::open(&used).unwrap();
        flock(&held, FlockOperation::NonBlockingLockExclusive).unwrap();
        clear_left(dir.path());
        assert!(!left.exists() && used.exists() && other.exists());
        drop(held);
        clear_left(dir.path());
        assert!(!used.exists());
    }

    #[test]
    fn who_a_process_is_is_read_where_it_said_so() {
        let dir = tempfile::tempdir().unwrap();
        let shared = Shared::make(dir.path().join("capture"), "who-test").unwrap();
        let dome = ProcessRead { number: 4711, program: b"/opt/dome".to_vec() };
        let at = (HEADER_BYTES + 3 * PROCESS_BYTES) as u64;
        shared.file.write_all_at(&dome.to_bytes(), at).unwrap();
        assert_eq!((shared.process(3), shared.process(4)), (Some(dome), None));
        assert_eq!(shared.process(1 << 23), None);
    }
}
