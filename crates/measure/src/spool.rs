//! A stream written down as it comes in, with the moment of every piece: for readings and splits
//! that may stand anywhere in it.
//!
//! A spool is two files: the bytes, and beside them `.moments`, a pair of numbers for every piece
//! (how many bytes there were behind it, nanoseconds since the lap began).

use honest_lap_core::unit::Nanos;
use std::fs::File;
use std::io::{self, BufRead, BufReader, Read, Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

/// A spool takes no more than this; what comes behind is counted and not kept.
const MOST_BYTES: u64 = 256 << 20;
/// No line that anything is read from is longer.
const MOST_LINE_BYTES: u64 = 1 << 20;

/// A spool being written.
#[derive(Debug)]
pub(crate) struct Spool {
    bytes: File,
    moments: File,
    kept: u64,
    seen: u64,
    whole: bool,
}

impl Spool {
    /// Begins a spool at `path`.
    pub(crate) fn create(path: &Path) -> io::Result<Self> {
        let moments = File::create(moments_of(path))?;
        Ok(Self { bytes: File::create(path)?, moments, kept: 0, seen: 0, whole: true })
    }

    /// Imports a piece that came in at `at`. A full disk ends the spool, not the lap.
    pub(crate) fn take(&mut self, piece: &[u8], at: Nanos) {
        self.seen += piece.len() as u64;
        let fits = self.kept + piece.len() as u64 <= MOST_BYTES;
        if !self.whole || !fits {
            self.whole = false;
            return;
        }
        self.kept += piece.len() as u64;
        let mut moment = [0; 16];
        moment[..8].copy_from_slice(&self.kept.to_le_bytes());
        moment[8..].copy_from_slice(&at.0.to_le_bytes());
        let written = self.bytes.write_all(piece).and_then(|()| self.moments.write_all(&moment));
        self.whole = written.is_ok();
    }

    /// Returns how many bytes came in, kept or not.
    pub(crate) fn bytes(&self) -> u64 {
        self.seen
    }
}

fn moments_of(path: &Path) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(".moments");
    PathBuf::from(name)
}

/// A line of a spool.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Line {
    pub(crate) text: String,
    /// When its end came in, since the lap began.
    pub(crate) at: Nanos,
}

/// Returns every line of the spool at `path`; `total` is how many bytes the stream carried.
///
/// A carriage return ends a line too: that is how programs draw progress.
pub(crate) fn lines(path: &Path, total: u64) -> io::Result<impl Iterator<Item = io::Result<Line>>> {
    let bytes = File::open(path)?;
    if bytes.metadata()?.len() < total {
        let size = MOST_BYTES >> 20;
        let message = format!("more was printed than can be read from ({size} MB)");
        return Err(io::Error::new(io::ErrorKind::FileTooLarge, message));
    }
    let mut reader = BufReader::with_capacity(1 << 16, bytes);
    let mut moments =
        Moments { from: BufReader::new(File::open(moments_of(path))?), piece: (0, Nanos(0)) };
    let (mut behind, mut waiting) = (0, Vec::new().into_iter());
    Ok(std::iter::from_fn(move || {
        loop {
            if let Some((text, end)) = waiting.next() {
                return Some(moments.at(end).map(|at| Line { text, at }));
            }
            let mut line = Vec::new();
            match (&mut reader).take(MOST_LINE_BYTES).read_until(b'\n', &mut line) {
                Ok(0) => return None,
                Ok(_) => waiting = parts(&line, &mut behind).into_iter(),
                Err(err) => return Some(Err(err)),
            }
        }
    }))
}

/// Returns the parts of a line between carriage returns, each with how many bytes are behind it.
fn parts(line: &[u8], behind: &mut u64) -> Vec<(String, u64)> {
    let mut parts = Vec::new();
    for part in line.split_inclusive(|&b| b == b'\r') {
        *behind += part.len() as u64;
        let text = without_escapes(&String::from_utf8_lossy(part));
        if !(text.is_empty() && part.len() < line.len()) {
            parts.push((text, *behind));
        }
    }
    parts
}

/// Returns `text` without line ends and without the sequences that move a cursor or colour text.
fn without_escapes(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut chars = text.trim_end_matches(['\n', '\r']).chars();
    while let Some(c) = chars.next() {
        if c != '\u{1b}' {
            out.push(c);
            continue;
        }
        // ECMA-48: a control sequence ends with a byte from @ to ~; others are one character.
        if chars.next() == Some('[') {
            chars.by_ref().find(|c| ('@'..='~').contains(c));
        }
    }
    out
}

/// The moments of a spool, read forward.
struct Moments {
    from: BufReader<File>,
    piece: (u64, Nanos),
}

impl Moments {
    /// Returns when the byte ahead of offset `behind` came in.
    fn at(&mut self, behind: u64) -> io::Result<Nanos> {
        while self.piece.0 < behind {
            let mut moment = [0; 16];
            self.from.read_exact(&mut moment)?;
            let number = |bytes: &[u8]| u64::from_le_bytes(bytes.try_into().unwrap_or_default());
            self.piece = (number(&moment[..8]), Nanos(number(&moment[8..])));
        }
        Ok(self.piece.1)
    }
}

/// Removes a spool.
pub(crate) fn remove(path: &Path) {
    // What stays is removed with the folder it is in, at the end of the session.
    let _ = std::fs::remove_file(path);
    let _ = std::fs::remove_file(moments_of(path));
}

/// The end of a spool that is still being written.
#[derive(Debug)]
pub(crate) struct Tail {
    path: PathBuf,
    read: u64,
    part: Vec<u8>,
}

impl Tail {
    /// Returns the tail of the spool at `path`, which need not be there yet.
    pub(crate) fn of(path: &Path) -> Self {
        Self { path: path.to_owned(), read: 0, part: Vec::new() }
    }

    /// Returns the lines that were finished since the last call.
    pub(crate) fn lines(&mut self) -> Vec<String> {
        let read = || -> io::Result<Vec<u8>> {
            let mut file = File::open(&self.path)?;
            file.seek(SeekFrom::Start(self.read))?;
            let mut bytes = Vec::new();
            file.take(MOST_LINE_BYTES).read_to_end(&mut bytes)?;
            Ok(bytes)
        };
        let bytes = read().unwrap_or_default();
        self.read += bytes.len() as u64;
        self.part.extend_from_slice(&bytes);
        let Some(end) = self.part.iter().rposition(|&b| b == b'\n') else { return Vec::new() };
        let rest = self.part.split_off(end + 1);
        let whole = std::mem::replace(&mut self.part, rest);
        honest_lap_core::record::plain_lines(&whole)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_line_knows_when_its_end_came_in() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("out");
        let mut spool = Spool::create(&path).unwrap();
        for (piece, at) in [("load", 1), ("ing\ndraw", 5), ("ing\nsaving\n", 9), ("end", 12)] {
            spool.take(piece.as_bytes(), Nanos(at));
        }
        let read: Vec<(String, u64)> =
            lines(&path, 26).unwrap().map(|line| line.unwrap()).map(|l| (l.text, l.at.0)).collect();
        let wanted = [("loading", 5), ("drawing", 9), ("saving", 9), ("end", 12)];
        assert_eq!(read, wanted.map(|(text, at)| (text.to_owned(), at)));
        assert!(
            lines(&path, 27).is_err(),
            "a byte that is not there is not passed over in silence"
        );
    }

    #[test]
    fn colours_and_progress_do_not_hide_a_line() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("out");
        let mut spool = Spool::create(&path).unwrap();
        spool.take(b"10 %\r", Nanos(1));
        spool.take(b"20 %\rdone\r\n", Nanos(2));
        spool.take(b"\x1b[1;32mScore:\x1b[0m\t812\n\n", Nanos(3));
        let read: Vec<(String, u64)> =
            lines(&path, 37).unwrap().map(|line| line.unwrap()).map(|l| (l.text, l.at.0)).collect();
        let wanted = [("10 %", 1), ("20 %", 2), ("done", 2), ("Score:\t812", 3), ("", 3)];
        assert_eq!(read, wanted.map(|(text, at)| (text.to_owned(), at)));
    }

    #[test]
    fn a_tail_gives_only_whole_lines_and_each_once() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("meter");
        let mut tail = Tail::of(&path);
        assert_eq!(tail.lines(), Vec::<String>::new());
        let mut spool = Spool::create(&path).unwrap();
        spool.take(b"41.5\n42", Nanos(1));
        assert_eq!(tail.lines(), ["41.5"]);
        spool.take(b".5\n43\n", Nanos(2));
        assert_eq!(tail.lines(), ["42.5", "43"]);
    }
}
