//! The files in which a machine describes itself, below one root that can be pointed elsewhere.

use std::fs;
use std::os::unix::fs::FileExt;
use std::path::{Path, PathBuf};

/// A machine's files: this one's below `/`, a simulated one's below any folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Machine(PathBuf);

impl Machine {
    /// Returns the machine whose files lie below `root`.
    pub fn below(root: &Path) -> Self {
        Self(root.to_owned())
    }

    /// Returns this machine.
    pub fn here() -> Self {
        Self::below(Path::new("/"))
    }

    /// Returns whether it is this machine, and not a simulated one.
    pub fn is_here(&self) -> bool {
        self.0 == Path::new("/")
    }

    /// Returns the text of a file, trimmed; `None` if it is not there, cannot be read or is empty.
    pub(crate) fn read(&self, path: &str) -> Option<String> {
        let text = fs::read_to_string(self.0.join(path)).ok()?;
        Some(text.trim().to_owned()).filter(|text| !text.is_empty())
    }

    /// Returns the number that a file holds alone.
    pub(crate) fn number(&self, path: &str) -> Option<f64> {
        self.read(path)?.parse().ok()
    }

    /// Returns the names in a folder, in order; numbers in them count as numbers.
    pub(crate) fn names(&self, folder: &str) -> Vec<String> {
        let Ok(entries) = fs::read_dir(self.0.join(folder)) else { return Vec::new() };
        let mut names: Vec<String> =
            entries.filter_map(|entry| entry.ok()?.file_name().into_string().ok()).collect();
        names.sort_by_cached_key(|name| (name.trim_end_matches(digit).to_owned(), index(name)));
        names
    }

    /// Returns a file held open, to be read again and again.
    pub(crate) fn open(&self, path: &str) -> Option<HeldFile> {
        let file = fs::File::open(self.0.join(path)).ok()?;
        let mut held = HeldFile { file, buffer: vec![0; FIRST_BYTES] };
        held.text()?;
        Some(held)
    }
}

/// Most of what is read often fits into this.
const FIRST_BYTES: usize = 4 << 10;
/// No file of a machine's description is larger.
const MOST_BYTES: usize = 1 << 20;

/// A file of the kernel's that is read anew at every look, without being opened anew.
#[derive(Debug)]
pub(crate) struct HeldFile {
    file: fs::File,
    buffer: Vec<u8>,
}

impl HeldFile {
    /// Returns its present text; `None` if it cannot be read now.
    pub(crate) fn text(&mut self) -> Option<&str> {
        let mut filled = 0;
        loop {
            let read = self.file.read_at(&mut self.buffer[filled..], filled as u64).ok()?;
            filled += read;
            if read == 0 {
                break;
            }
            if filled == self.buffer.len() {
                if filled >= MOST_BYTES {
                    return None;
                }
                self.buffer.resize(filled * 2, 0);
            }
        }
        std::str::from_utf8(&self.buffer[..filled]).ok()
    }

    /// Returns the number that it holds alone.
    pub(crate) fn number(&mut self) -> Option<f64> {
        self.text()?.trim().parse().ok().filter(|number: &f64| number.is_finite())
    }
}

fn digit(c: char) -> bool {
    c.is_ascii_digit()
}

/// Returns the number at the end of `name`.
fn index(name: &str) -> u32 {
    name[name.trim_end_matches(digit).len()..].parse().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_held_file_is_read_as_it_is_now() {
        let root = tempfile::tempdir().unwrap();
        let path = root.path().join("temp1_input");
        fs::write(&path, "61000\n").unwrap();
        let machine = Machine::below(root.path());
        let mut held = machine.open("temp1_input").unwrap();
        assert_eq!(held.number(), Some(61000.0));
        fs::write(&path, "72000\n").unwrap();
        assert_eq!(held.number(), Some(72000.0));
        fs::write(&path, "x".repeat(10_000)).unwrap();
        assert_eq!(held.text().map(str::len), Some(10_000));
        assert!(machine.open("temp2_input").is_none());
    }

    #[test]
    fn names_come_in_the_order_of_their_numbers() {
        let root = tempfile::tempdir().unwrap();
        for name in ["cpu10", "cpu2", "cpufreq", "cpu0"] {
            fs::write(root.path().join(name), "").unwrap();
        }
        assert_eq!(Machine::below(root.path()).names(""), ["cpu0", "cpu2", "cpu10", "cpufreq"]);
    }
}
