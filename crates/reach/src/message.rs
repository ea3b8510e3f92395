//! What a run on another machine tells: an archive that grows as laps end, entry by entry.

use crate::error::ReachError;
use std::io::{Read, Write};
use std::path::Path;

/// The most bytes of an entry that is no file of laps.
pub const MOST_TEXT: u64 = 1 << 20;
/// The most bytes of a file of laps.
const MOST_LAPS: u64 = 2 << 30;

const LAPS: &str = "laps";
const UNDER_WAY: &str = "under-way";
const SAID: &str = "said";
const ENDED: &str = "ended";
const ALIVE: &str = "alive";

/// Something that a run on another machine tells.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Message {
    /// Laps: they are in the file that was named for them.
    Laps,
    /// What is under way, as the tool notes that.
    UnderWay(Vec<u8>),
    /// Lines that the run said.
    Output(Vec<u8>),
    /// The run has ended, with that status; `None` where it was cut off.
    Ended(Option<u8>),
    /// Nothing is new.
    Alive,
}

/// Writes messages to `to`.
pub struct MessageWriter<W: Write> {
    archive: tar::Builder<W>,
}

impl<W: Write> MessageWriter<W> {
    /// Begins to write.
    pub fn new(to: W) -> Self {
        Self { archive: tar::Builder::new(to) }
    }

    /// Writes the laps in the file at `path`.
    pub fn laps(&mut self, path: &Path) -> std::io::Result<()> {
        let mut file = std::fs::File::open(path)?;
        let bytes = file.metadata()?.len();
        self.entry(LAPS, bytes, &mut file)
    }

    /// Writes any other message.
    pub fn write(&mut self, message: &Message) -> std::io::Result<()> {
        let status;
        let (name, bytes): (&str, &[u8]) = match message {
            Message::Laps => return Err(std::io::ErrorKind::InvalidInput.into()),
            Message::UnderWay(note) => (UNDER_WAY, note),
            Message::Output(lines) => (SAID, lines),
            Message::Ended(ended) => {
                status = ended.map(|status| status.to_string()).unwrap_or_default();
                (ENDED, status.as_bytes())
            }
            Message::Alive => (ALIVE, b""),
        };
        self.entry(name, bytes.len() as u64, &mut { bytes })
    }

    fn entry(&mut self, name: &str, bytes: u64, from: &mut dyn Read) -> std::io::Result<()> {
        let mut header = tar::Header::new_gnu();
        header.set_size(bytes);
        header.set_mode(0o600);
        self.archive.append_data(&mut header, name, from)?;
        self.archive.get_mut().flush()
    }
}

/// Reads messages, entry by entry, as they come.
pub struct MessageReader<R: Read> {
    archive: tar::Archive<R>,
}

impl<R: Read> MessageReader<R> {
    /// Begins to read.
    pub fn new(from: R) -> Self {
        Self { archive: tar::Archive::new(from) }
    }

    /// Reads until the end, and gives each message to `take`; laps are put into the file at `laps` first. Returns
    /// whether there was any.
    ///
    /// Whoever tells them may be anyone: sizes are held to, and names mean nothing but the kind of a message.
    pub fn each(
        mut self,
        laps: &Path,
        take: &mut dyn FnMut(Message) -> Result<(), ReachError>,
    ) -> Result<bool, ReachError> {
        let lost = |_| ReachError::Lost { said: Vec::new() };
        let mut any = false;
        for entry in self.archive.entries().map_err(lost)? {
            let mut entry = entry.map_err(lost)?;
            let name = String::from_utf8_lossy(&entry.path_bytes()).into_owned();
            let bytes = entry.header().entry_size().map_err(lost)?;
            let most = if name == LAPS { MOST_LAPS } else { MOST_TEXT };
            let strange = |what: String| ReachError::Strange { what };
            if bytes > most || !entry.header().entry_type().is_file() {
                return Err(strange(format!("{bytes} bytes of `{name:.40}`")));
            }
            let message = if name == LAPS {
                let mut file =
                    std::fs::File::create(laps).map_err(ReachError::io("create", laps))?;
                let copied = std::io::copy(&mut entry, &mut file).map_err(lost)?;
                if copied < bytes {
                    return Err(ReachError::Lost { said: Vec::new() });
                }
                Message::Laps
            } else {
                let mut text = Vec::new();
                let read = entry.read_to_end(&mut text).map_err(lost)?;
                if (read as u64) < bytes {
                    return Err(ReachError::Lost { said: Vec::new() });
                }
                news_of(&name, text).ok_or_else(|| strange(format!("`{name:.40}`")))?
            };
            any = true;
            take(message)?;
        }
        Ok(any)
    }
}

fn news_of(name: &str, text: Vec<u8>) -> Option<Message> {
    Some(match name {
        UNDER_WAY => Message::UnderWay(text),
        SAID => Message::Output(text),
        ENDED if text.is_empty() => Message::Ended(None),
        ENDED => Message::Ended(Some(String::from_utf8(text).ok()?.parse().ok()?)),
        ALIVE => Message::Alive,
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(bytes: &[u8], laps: &Path) -> (Vec<Message>, Result<bool, ReachError>) {
        let mut all = Vec::new();
        let ended = MessageReader::new(bytes).each(laps, &mut |message| {
            all.push(message);
            Ok(())
        });
        (all, ended)
    }

    #[test]
    fn what_is_told_is_what_is_read_and_a_cut_is_a_lost_connection() {
        let dir = tempfile::tempdir().unwrap();
        let (laps, came) = (dir.path().join("laps"), dir.path().join("came"));
        std::fs::write(&laps, vec![7; 1500]).unwrap();
        let told = [
            Message::UnderWay(b"{}".to_vec()),
            Message::Output(b"heron-1.1  still  1.2 s\n\xff".to_vec()),
            Message::Alive,
            Message::Ended(Some(4)),
        ];
        let mut bytes = Vec::new();
        let mut writer = MessageWriter::new(&mut bytes);
        writer.laps(&laps).unwrap();
        told.iter().for_each(|message| writer.write(message).unwrap());
        drop(writer);
        let (all, ended) = read(&bytes, &came);
        assert_eq!((&all[0], &all[1..]), (&Message::Laps, &told[..]));
        assert!(ended.unwrap());
        assert_eq!(std::fs::read(&came).unwrap(), vec![7; 1500]);
        for cut in (1..bytes.len()).step_by(97) {
            let (some, _) = read(&bytes[..cut], &came);
            assert_eq!(some, all[..some.len()], "cut at {cut}: only what came whole is message");
        }
    }

    #[test]
    fn what_nobody_tells_is_refused() {
        let dir = tempfile::tempdir().unwrap();
        let came = dir.path().join("came");
        let entry = |name: &str, kind: tar::EntryType, size: u64| {
            let mut header = tar::Header::new_gnu();
            header.set_size(size);
            header.set_entry_type(kind);
            header.set_path(name).unwrap();
            header.set_cksum();
            header.as_bytes().to_vec()
        };
        for (name, kind, size) in [
            ("said", tar::EntryType::Regular, MOST_TEXT + 1),
            ("laps", tar::EntryType::Regular, u64::MAX / 2),
            ("laps", tar::EntryType::Symlink, 0),
            ("etc/passwd", tar::EntryType::Regular, 0),
        ] {
            let (all, ended) = read(&entry(name, kind, size), &came);
            assert_eq!(all, []);
            assert!(ended.is_err(), "{name} {kind:?} {size}");
        }
        assert!(!came.exists());
        assert!(matches!(read(b"", &came), (_, Ok(false))));
        assert!(read(&[b'x'; 2048], &came).1.is_err());
    }
}
