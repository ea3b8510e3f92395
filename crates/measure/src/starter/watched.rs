//! A file that a lap appends to, followed as it grows.

use crate::os::now;
use crate::plain_file::open_plain;
use crate::spool::Spool;
use honest_lap_core::unit::Stamp;
use rustix::fs::inotify;
use std::io::{self, Read, Seek, SeekFrom};
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::path::{Path, PathBuf};

const BUFFER_BYTES: usize = 16 << 10;

/// A growing file.
#[derive(Debug)]
pub(super) struct Watched {
    notices: OwnedFd,
    path: PathBuf,
    spool: Spool,
    read: u64,
    begun: Stamp,
}

impl Watched {
    /// Begins to follow a file, `(file, spool)`, which need not be there yet; what it holds already
    /// is none of the lap's.
    pub(super) fn begin((file, spool): &(String, String)) -> io::Result<Self> {
        let path = PathBuf::from(file);
        let read = std::fs::metadata(&path).map_or(0, |meta| meta.len());
        let flags = inotify::CreateFlags::CLOEXEC | inotify::CreateFlags::NONBLOCK;
        let notices = inotify::init(flags)?;
        let parent = path.parent().ok_or(io::ErrorKind::InvalidInput)?;
        // The folder, since the file may come later, or anew.
        let events = inotify::WatchFlags::MODIFY
            | inotify::WatchFlags::CREATE
            | inotify::WatchFlags::MOVED_TO;
        inotify::add_watch(&notices, parent, events)?;
        let spool = Spool::create(Path::new(spool))?;
        Ok(Self { notices, path, spool, read, begun: Stamp(0) })
    }

    /// Says when the program was started.
    pub(super) fn begin_at(&mut self, at: Stamp) {
        self.begun = at;
    }

    /// Returns what becomes readable when the file has grown.
    pub(super) fn fd(&self) -> BorrowedFd<'_> {
        self.notices.as_fd()
    }

    /// Imports what was appended since the last look.
    pub(super) fn look(&mut self) {
        let mut notices = [0; BUFFER_BYTES];
        while rustix::io::read(&self.notices, &mut notices).is_ok_and(|n| n > 0) {}
        let at = now().since(self.begun).unwrap_or_default();
        // A file that cannot be read has not grown; a mark that is missing is told by its reading.
        let Ok(mut file) = open_plain(&self.path) else { return };
        if file.seek(SeekFrom::Start(self.read)).is_err() {
            return;
        }
        let mut buffer = [0; BUFFER_BYTES];
        while let Ok(n @ 1..) = file.read(&mut buffer) {
            self.read += n as u64;
            self.spool.take(&buffer[..n], at);
        }
    }

    /// Returns how many bytes were appended.
    pub(super) fn bytes(&self) -> u64 {
        self.spool.bytes()
    }
}
