//! Files that a study names are plain files: a pipe or a device could keep the tool waiting, or go on for ever.

use rustix::fs::{Mode, OFlags, open};
use std::fs::File;
use std::io;
use std::os::unix::fs::MetadataExt;
use std::path::Path;

/// Opens a plain file to read it. Opening anything else does not wait either: it is refused.
pub fn open_plain(path: &Path) -> io::Result<File> {
    let file =
        File::from(open(path, OFlags::RDONLY | OFlags::NONBLOCK | OFlags::CLOEXEC, Mode::empty())?);
    match file.metadata()?.is_file() {
        true => Ok(file),
        false => Err(not_plain()),
    }
}

/// As [`open_plain`]; nothing at all may be read from too.
pub(crate) fn open_plain_or_null(path: &Path) -> io::Result<File> {
    let meta = std::fs::metadata(path)?;
    // What a device is, and not where it lies, says which it is; nodes have the number of the null device anywhere.
    if meta.rdev() == rustix::fs::makedev(1, 3) && !meta.is_file() {
        return File::open(path);
    }
    open_plain(path)
}

fn not_plain() -> io::Error {
    io::Error::new(io::ErrorKind::InvalidInput, "it is not a plain file")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pipes_folders_and_devices_are_refused_at_once() {
        let dir = tempfile::tempdir().unwrap();
        let (pipe, plain) = (dir.path().join("pipe"), dir.path().join("plain"));
        let made = std::process::Command::new("mkfifo").arg(&pipe).status().unwrap();
        assert!(made.success());
        std::fs::write(&plain, "x").unwrap();
        assert!(open_plain(&plain).is_ok() && open_plain_or_null(&plain).is_ok());
        for refused in [&pipe, dir.path(), Path::new("/dev/zero"), Path::new("/dev/tty")] {
            assert!(open_plain(refused).is_err() && open_plain_or_null(refused).is_err());
        }
        assert!(open_plain(Path::new("/dev/null")).is_err());
        assert!(open_plain_or_null(Path::new("/dev/null")).is_ok());
        assert_eq!(open_plain(&pipe).unwrap_err().to_string(), "it is not a plain file");
    }
}
