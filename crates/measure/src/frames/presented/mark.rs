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
use std::io::{self, Read, Seek, Write};
use std::os::fd::OwnedFd;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::time::Duration;

/// No name of a mark is longer.
const MOST_NAME_CHARS: usize = 80;

/// Why a mark could not be set.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum MarkError {
    /// There is nothing to set it in, or nothing any more.
    #[error("no pass whose frames are noted is under way in this study")]
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

/// Sets a mark in the pass under way, and returns what it says; without a name it is the next of
/// begin and end.
///
/// * Errors: [`MarkError::NothingUnderWay`] where the pass was over before the mark was written down.
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
    let io = |source| MarkError::Io { source };
    // Held until it is written: the pass cannot end in between.
    file.lock().map_err(io)?;
    // The file of a pass that is over has no name any more.
    if file.metadata().map_err(io)?.nlink() == 0 {
        return Err(MarkError::NothingUnderWay);
    }
    write(&mut file, at, &name.unwrap_or_default()).map_err(io)?;
    let own = read(&place.marks()).into_iter().find(|mark| mark.at == at);
    Ok(own.map_or(MarkKind::Begin, |mark| mark.kind))
}

/// Writes a mark by one call, so that lines of two terminals never mix.
fn write(file: &mut File, at: u64, name: &str) -> io::Result<()> {
    file.write_all(format!("{at} {name}\n").as_bytes())
}

/// Returns the marks in the file at `path`, in order of time.
fn read(path: &Path) -> Vec<TimedMark> {
    parsed(&fs::read_to_string(path).unwrap_or_default())
}

/// Returns the marks of a file's text, in order of time.
fn parsed(text: &str) -> Vec<TimedMark> {
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
    file: File,
    signal: Option<&'a MarkSignal>,
    /// All of them, once the pass is over.
    taken: Option<Vec<TimedMark>>,
}

/// How long a pass that is over waits for somebody who is setting a mark right now, in steps.
const WAIT: (u32, Duration) = (50, Duration::from_millis(2));

impl<'a> Marks<'a> {
    /// Begins: from now on marks can be set.
    pub(super) fn begin(place: &Place, signal: Option<&'a MarkSignal>) -> io::Result<Self> {
        let path = place.marks();
        let file =
            File::options().read(true).write(true).create(true).truncate(true).open(&path)?;
        if let Some(signal) = signal {
            // What came ahead of the lap is not of it.
            signal.moments();
        }
        Ok(Self { path, file, signal, taken: None })
    }

    /// Takes no mark from now on: whoever sets one is told so.
    pub(super) fn close(&mut self) {
        if self.taken.is_some() {
            return;
        }
        self.note_signals();
        let (times, step) = WAIT;
        for _ in 0..times {
            // Somebody was stopped in the middle of it: their mark is not waited for any longer.
            match self.file.try_lock() {
                Ok(()) => break,
                Err(_) => std::thread::sleep(step),
            }
        }
        // What stays is cleared with the session.
        let _ = fs::remove_file(&self.path);
        self.taken = Some(self.written());
        let _ = self.file.unlock();
    }

    /// Returns the marks so far, in order of time.
    pub(super) fn look(&self) -> Vec<TimedMark> {
        match &self.taken {
            Some(taken) => taken.clone(),
            None => {
                self.note_signals();
                self.written()
            }
        }
    }

    fn written(&self) -> Vec<TimedMark> {
        let mut text = String::new();
        let mut file = &self.file;
        // Marks are lost with a disk that cannot be read, and so is the lap, which says so.
        let _ = file.rewind().and_then(|()| file.read_to_string(&mut text));
        parsed(&text)
    }

    fn note_signals(&self) {
        let moments = self.signal.map(MarkSignal::moments).unwrap_or_default();
        if !moments.is_empty()
            && let Ok(mut file) = File::options().append(true).open(&self.path)
        {
            for at in moments {
                // A disk that takes no line takes no lap either, and says so there.
                let _ = write(&mut file, at, "");
            }
        }
    }
}

impl Drop for Marks<'_> {
    fn drop(&mut self) {
        self.close();
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

    #[test]
    fn a_pass_that_is_over_takes_no_mark_and_keeps_those_it_has() {
        let dir = tempfile::tempdir().unwrap();
        let place = Place::new(dir.path(), Path::new("/bin/lap")).unwrap();
        fs::create_dir_all(place.marks().parent().unwrap()).unwrap();
        let (read, signals) = pipe_with(PipeFlags::CLOEXEC).unwrap();
        let signal = MarkSignal::new(read).unwrap();
        let mut marks = Marks::begin(&place, Some(&signal)).unwrap();
        set_mark(&place, Some("the rings")).unwrap();
        marks.close();
        assert!(matches!(set_mark(&place, Some("too late")), Err(MarkError::NothingUnderWay)));
        rustix::io::write(&signals, &7u64.to_ne_bytes()).unwrap();
        let kinds: Vec<MarkKind> = marks.look().into_iter().map(|mark| mark.kind).collect();
        assert_eq!(kinds, [MarkKind::Named("the rings".to_owned())]);
    }

    #[test]
    fn a_mark_counts_or_is_refused_however_close_to_the_end() {
        let dir = tempfile::tempdir().unwrap();
        let place = Place::new(dir.path(), Path::new("/bin/lap")).unwrap();
        fs::create_dir_all(place.marks().parent().unwrap()).unwrap();
        for _ in 0..50 {
            let mut marks = Marks::begin(&place, None).unwrap();
            let setting = || (0..40).take_while(|_| set_mark(&place, Some("x")).is_ok()).count();
            let set = std::thread::scope(|scope| {
                let all: Vec<_> = (0..3).map(|_| scope.spawn(setting)).collect();
                std::thread::sleep(Duration::from_micros(300));
                marks.close();
                all.into_iter().map(|thread| thread.join().unwrap()).sum::<usize>()
            });
            assert_eq!(marks.look().len(), set);
        }
    }
}
