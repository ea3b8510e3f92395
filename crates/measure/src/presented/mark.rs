//! Marks that are set while a program runs: from another terminal, or by a signal.
//!
//! The monotonic clock is the same for every process of a machine, so whoever sets a mark reads the
//! clock and writes a line; how long the line takes to arrive does not matter.

use crate::os::now;
use crate::place::Place;
use honest_lap_core::frame::{MarkKind, TimedMark};
use honest_lap_core::record::plain_line;
use rustix::fs::{OFlags, fcntl_setfl};
use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::os::fd::OwnedFd;
use std::path::{Path, PathBuf};

/// No name of a mark is longer.
const MOST_NAME_CHARS: usize = 80;

/// Why a mark could not be set.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum MarkError {
    /// There is nothing to set it in.
    #[error("no lap whose frames are noted is under way in this study")]
    NothingUnderWay,
    /// It has no name, or one that would not fit in a line.
    #[error("a mark's name has 1 to {MOST_NAME_CHARS} characters")]
    Name,
    /// It could not be written.
    #[error("cannot write the mark")]
    Io {
        /// The cause.
        source: io::Error,
    },
}

/// Sets a mark in the lap under way, and returns what it says; without a name it is the next of
/// begin and end.
pub fn set_mark(place: &Place, name: Option<&str>) -> Result<MarkKind, MarkError> {
    let at = now().0;
    let name = name.map(|name| plain_line(name.trim()));
    if name.as_ref().is_some_and(|name| name.is_empty() || name.chars().count() > MOST_NAME_CHARS) {
        return Err(MarkError::Name);
    }
    let opened = File::options().append(true).open(place.marks());
    let mut file = opened.map_err(|source| match source.kind() {
        io::ErrorKind::NotFound => MarkError::NothingUnderWay,
        _ => MarkError::Io { source },
    })?;
    write(&mut file, at, &name.unwrap_or_default()).map_err(|source| MarkError::Io { source })?;
    let own = read(&place.marks()).into_iter().find(|mark| mark.at == at);
    Ok(own.map_or(MarkKind::Begin, |mark| mark.kind))
}

/// Writes a mark by one call, so that lines of two terminals never mix.
fn write(file: &mut File, at: u64, name: &str) -> io::Result<()> {
    file.write_all(format!("{at} {name}\n").as_bytes())
}

/// Returns the marks in the file at `path`, in order of time.
fn read(path: &Path) -> Vec<TimedMark> {
    let text = fs::read_to_string(path).unwrap_or_default();
    let mut raw: Vec<(u64, String)> = text.lines().filter_map(parse).collect();
    raw.sort();
    resolved(raw)
}

/// Moments at which a signal came: eight bytes each, read here without waiting.
#[derive(Debug)]
pub struct MarkSignal(File);

impl MarkSignal {
    /// Returns the reader of `pipe`, whose writer puts the moment of every signal into it.
    pub fn new(pipe: OwnedFd) -> io::Result<Self> {
        fcntl_setfl(&pipe, OFlags::NONBLOCK)?;
        Ok(Self(File::from(pipe)))
    }

    fn moments(&self) -> Vec<u64> {
        let mut bytes = [0; 8];
        let mut all = Vec::new();
        // Each was written at once, so there are eight or none.
        while (&self.0).read_exact(&mut bytes).is_ok() {
            all.push(u64::from_ne_bytes(bytes));
        }
        all
    }
}

/// The marks of a lap under way.
pub(super) struct Marks<'a> {
    path: PathBuf,
    signal: Option<&'a MarkSignal>,
}

impl<'a> Marks<'a> {
    /// Begins: from now on marks can be set.
    pub(super) fn begin(place: &Place, signal: Option<&'a MarkSignal>) -> io::Result<Self> {
        let path = place.marks();
        fs::write(&path, "")?;
        if let Some(signal) = signal {
            // What came ahead of the lap is not of it.
            signal.moments();
        }
        Ok(Self { path, signal })
    }

    /// Returns the marks so far, in order of time.
    pub(super) fn look(&self) -> Vec<TimedMark> {
        let moments = self.signal.map(MarkSignal::moments).unwrap_or_default();
        if !moments.is_empty()
            && let Ok(mut file) = File::options().append(true).open(&self.path)
        {
            for at in moments {
                // A disk that takes no line takes no lap either, and says so there.
                let _ = write(&mut file, at, "");
            }
        }
        read(&self.path)
    }
}

impl Drop for Marks<'_> {
    fn drop(&mut self) {
        // What stays is cleared with the session.
        let _ = fs::remove_file(&self.path);
    }
}

fn parse(line: &str) -> Option<(u64, String)> {
    let (at, name) = line.split_once(' ')?;
    Some((at.parse().ok()?, name.to_owned()))
}

/// Returns marks with their meaning: one without a name is the next of begin and end.
fn resolved(raw: Vec<(u64, String)>) -> Vec<TimedMark> {
    let mut begun = false;
    let kind = |name: String| match (name.as_str(), begun) {
        ("begin", _) | ("", false) => {
            begun = true;
            MarkKind::Begin
        }
        ("end" | "", _) => {
            begun = false;
            MarkKind::End
        }
        _ => MarkKind::Named(name),
    };
    let (times, names): (Vec<u64>, Vec<String>) = raw.into_iter().unzip();
    let kinds: Vec<MarkKind> = names.into_iter().map(kind).collect();
    times.into_iter().zip(kinds).map(|(at, kind)| TimedMark { at, kind }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use rustix::pipe::{PipeFlags, pipe_with};
    #[test]
    fn marks_come_from_anywhere_in_the_order_of_their_moments() {
        let dir = tempfile::tempdir().unwrap();
        let place = Place::new(dir.path(), Path::new("/bin/lap")).unwrap();
        assert!(matches!(set_mark(&place, None), Err(MarkError::NothingUnderWay)));
        fs::create_dir_all(place.marks().parent().unwrap()).unwrap();
        let (read, write) = pipe_with(PipeFlags::CLOEXEC).unwrap();
        let signal = MarkSignal::new(read).unwrap();
        let send = |at: u64| {
            rustix::io::write(&write, &at.to_ne_bytes()).unwrap();
        };
        send(1);
        let marks = Marks::begin(&place, Some(&signal)).unwrap();
        send(5);
        set_mark(&place, Some("the rings")).unwrap();
        assert!(matches!(set_mark(&place, Some(" ")), Err(MarkError::Name)));
        set_mark(&place, None).unwrap();
        set_mark(&place, Some("begin\nagain")).unwrap();
        let kinds: Vec<MarkKind> = marks.look().into_iter().map(|mark| mark.kind).collect();
        let named = |name: &str| MarkKind::Named(name.to_owned());
        assert_eq!(kinds[..3], [MarkKind::Begin, named("the rings"), MarkKind::End]);
        assert_eq!((kinds.len(), marks.look().len()), (4, 4));
        drop(marks);
        assert!(!place.marks().exists());
    }
}
