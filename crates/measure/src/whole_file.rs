//! Files that are there whole or not at all: what was there before stays until the new one is complete.

use rustix::fs::{AtFlags, CWD, Mode, OFlags, linkat, open};
use std::fs::{File, Permissions};
use std::io::{self, Write};
use std::os::fd::AsRawFd;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use tempfile::{Builder, NamedTempFile};

/// A file that is being written and is put in its place once it is complete. If it never is, nothing is left of it,
/// however the program ends: it has no name until then, where the file system can do that.
#[derive(Debug)]
pub struct Part {
    path: PathBuf,
    form: Form,
}

#[derive(Debug)]
enum Form {
    Nameless(File),
    Named(NamedTempFile),
}

impl Part {
    /// Begins the file that is to be at `path`.
    pub fn of(path: &Path) -> io::Result<Self> {
        path.file_name().ok_or(io::ErrorKind::IsADirectory)?;
        // As any other new file: the system's mask decides who may read it.
        let mode = Mode::from_raw_mode(0o666);
        let nameless = open(folder(path), OFlags::TMPFILE | OFlags::RDWR | OFlags::CLOEXEC, mode);
        let form = match nameless {
            Ok(file) => Form::Nameless(file.into()),
            Err(_) => Form::Named(named(path)?),
        };
        Ok(Self { path: path.to_owned(), form })
    }

    /// Returns what it is written to.
    pub fn file(&mut self) -> &mut File {
        match &mut self.form {
            Form::Nameless(file) => file,
            Form::Named(file) => file.as_file_mut(),
        }
    }

    /// Puts it in its place, which must be free.
    pub fn put_new(self) -> io::Result<()> {
        match self.form {
            Form::Nameless(file) => link(&file, &self.path),
            Form::Named(file) => file.persist_noclobber(&self.path).map(drop).map_err(|e| e.error),
        }
    }

    /// Puts it in the place of what is there; a link that is there is replaced and not followed.
    pub fn put(self) -> io::Result<()> {
        let file = match self.form {
            Form::Named(file) => file,
            Form::Nameless(file) => match link(&file, &self.path) {
                // A name beside it, only to be renamed: the place itself is never empty.
                Err(err) if err.kind() == io::ErrorKind::AlreadyExists => Builder::new()
                    .prefix(&prefix(&self.path))
                    .suffix(SUFFIX)
                    .make_in(folder(&self.path), |beside| {
                        link(&file, beside)?;
                        file.try_clone()
                    })?,
                placed => return placed,
            },
        };
        file.persist(&self.path).map(drop).map_err(|err| err.error)
    }
}

const SUFFIX: &str = ".part";

fn prefix(path: &Path) -> String {
    format!(".{}.", path.file_name().unwrap_or_default().to_string_lossy())
}

/// Relative names without a folder lie in the current one.
fn folder(path: &Path) -> &Path {
    path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."))
}

fn named(path: &Path) -> io::Result<NamedTempFile> {
    Builder::new()
        .prefix(&prefix(path))
        .suffix(SUFFIX)
        .permissions(Permissions::from_mode(0o666))
        .tempfile_in(folder(path))
}

/// Gives a file without a name that of `path`, which must be free.
fn link(file: &File, path: &Path) -> io::Result<()> {
    let from = format!("/proc/self/fd/{}", file.as_raw_fd());
    Ok(linkat(CWD, from, CWD, path, AtFlags::SYMLINK_FOLLOW)?)
}

/// Replaces the file at `path` with `bytes`.
pub fn write_whole(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut part = Part::of(path)?;
    part.file().write_all(bytes)?;
    part.file().sync_all()?;
    part.put()
}

/// Like [`write_whole`], for what need not outlive the system: it waits for no disk.
pub(crate) fn write_for_now(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut part = Part::of(path)?;
    part.file().write_all(bytes)?;
    part.put()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(folder: &Path) -> Vec<String> {
        let entries = std::fs::read_dir(folder).unwrap();
        entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect()
    }

    #[test]
    fn what_is_not_put_in_its_place_leaves_nothing_and_what_is_replaces_no_link() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("report.html");
        for named_part in [false, true] {
            let begin = || match named_part {
                true => Part { path: path.clone(), form: Form::Named(named(&path).unwrap()) },
                false => Part::of(&path).unwrap(),
            };
            let mut part = begin();
            part.file().write_all(b"half").unwrap();
            drop(part);
            assert_eq!(names(dir.path()), Vec::<String>::new());
            let mut part = begin();
            part.file().write_all(b"new").unwrap();
            part.put_new().unwrap();
            assert_eq!(begin().put_new().unwrap_err().kind(), io::ErrorKind::AlreadyExists);
            // A link to somebody's letter.
            let letter = dir.path().join("letter");
            std::fs::write(&letter, "dear").unwrap();
            std::fs::remove_file(&path).unwrap();
            std::os::unix::fs::symlink(&letter, &path).unwrap();
            let mut part = begin();
            part.file().write_all(b"whole").unwrap();
            part.put().unwrap();
            assert_eq!(std::fs::read_to_string(&letter).unwrap(), "dear");
            assert_eq!(std::fs::read_to_string(&path).unwrap(), "whole");
            assert_eq!(names(dir.path()).len(), 2, "nothing else");
            names(dir.path()).iter().for_each(|name| {
                std::fs::remove_file(dir.path().join(name)).unwrap();
            });
        }
    }
}
