//! From a file to plain UTF-8 text: unpacked, and out of UTF-16.

use crate::error::LogError;
use encoding_rs::{Decoder, UTF_16BE, UTF_16LE};
use std::fs::File;
use std::io::{self, BufWriter, Read, Write};
use std::os::unix::fs::FileExt;

/// How much of a file is looked at to find out what it is.
pub(crate) const HEAD_BYTES: usize = 256 << 10;
/// What a compressed log may come to.
const MOST_UNPACKED_BYTES: u64 = 4 << 30;
const PIECE: usize = 1 << 20;

/// A text that can be read anywhere.
pub(crate) struct Text {
    file: File,
    /// Where it begins: behind a byte order mark.
    pub(crate) start: u64,
    /// Where it ends.
    pub(crate) end: u64,
}

impl Text {
    /// Reads into `buffer` at `at`, and returns how many bytes came.
    pub(crate) fn read_at(&self, buffer: &mut [u8], at: u64) -> io::Result<usize> {
        let left = usize::try_from(self.end.saturating_sub(at)).unwrap_or(usize::MAX);
        let wanted = buffer.len().min(left);
        self.file.read_at(&mut buffer[..wanted], at)
    }

    /// Returns the first bytes, whole lines of them if the text goes on behind.
    pub(crate) fn head(&self) -> io::Result<Vec<u8>> {
        let mut head = vec![0; HEAD_BYTES];
        let mut filled = 0;
        while filled < head.len() {
            match self.read_at(&mut head[filled..], self.start + filled as u64)? {
                0 => break,
                more => filled += more,
            }
        }
        head.truncate(filled);
        if self.start + (filled as u64) < self.end
            && let Some(last) = head.iter().rposition(|&byte| byte == b'\n')
        {
            head.truncate(last + 1);
        }
        Ok(head)
    }
}

/// Returns the text of `file`.
pub(crate) fn decode(file: &File) -> Result<Text, LogError> {
    let end = file.metadata()?.len();
    let mut text = Text { file: file.try_clone()?, start: 0, end };
    let magic = text.head()?;
    if magic.starts_with(&[0x1f, 0x8b]) {
        text = unpack(flate2::read::MultiGzDecoder::new(text.reader()))?;
    } else if magic.starts_with(&[0x28, 0xb5, 0x2f, 0xfd]) {
        text = unpack(zstd::Decoder::new(text.reader())?)?;
    }
    let head = text.head()?;
    text = match head.as_slice() {
        [0xff, 0xfe, ..] => transcode(&text, UTF_16LE.new_decoder_with_bom_removal())?,
        [0xfe, 0xff, ..] => transcode(&text, UTF_16BE.new_decoder_with_bom_removal())?,
        [0xef, 0xbb, 0xbf, ..] => Text { start: 3, ..text },
        // Numbers in UTF-16 have a zero in every second byte, mark or none.
        [a, 0, b, 0, ..] if *a != 0 && *b != 0 => transcode(&text, UTF_16LE.new_decoder())?,
        [0, a, 0, b, ..] if *a != 0 && *b != 0 => transcode(&text, UTF_16BE.new_decoder())?,
        _ => text,
    };
    let head = text.head()?;
    if let Some(at) = head.iter().position(|&byte| byte == 0) {
        return Err(LogError::unreadable(
            format!("it is no text: a zero byte at {at}"),
            "give a table of numbers as text: CSV, with semicolons or tabs, plain or as gzip or zstd",
        ));
    }
    if head.contains(&b'\r') && !head.contains(&b'\n') {
        text = piped(&text, |bytes, out| {
            out.extend(bytes.iter().map(|&byte| if byte == b'\r' { b'\n' } else { byte }));
        })?;
    }
    Ok(text)
}

impl Text {
    fn reader(&self) -> Part<'_> {
        Part { text: self, at: self.start, end: self.end }
    }

    /// Returns what lies from `from` to `to`.
    pub(crate) fn part(&self, from: u64, to: u64) -> Part<'_> {
        Part { text: self, at: from, end: to }
    }
}

/// A part of a text, read from its beginning to its end.
pub(crate) struct Part<'a> {
    text: &'a Text,
    at: u64,
    end: u64,
}

impl Read for Part<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let left = usize::try_from(self.end.saturating_sub(self.at)).unwrap_or(usize::MAX);
        let wanted = buffer.len().min(left);
        let came = self.text.read_at(&mut buffer[..wanted], self.at)?;
        self.at += came as u64;
        Ok(came)
    }
}

/// Unpacks into a file without a name.
fn unpack(mut packed: impl Read) -> Result<Text, LogError> {
    let mut out = BufWriter::new(tempfile::tempfile()?);
    let mut piece = vec![0; PIECE];
    let mut end = 0;
    loop {
        match packed.read(&mut piece) {
            Ok(0) => break,
            Ok(came) => {
                end += came as u64;
                if end > MOST_UNPACKED_BYTES {
                    return Err(LogError::unreadable(
                        "unpacked it is larger than 4 GB",
                        "is it the right file? Otherwise split it",
                    ));
                }
                out.write_all(&piece[..came])?;
            }
            Err(err) if err.kind() == io::ErrorKind::Interrupted => {}
            Err(err) if end == 0 => {
                return Err(LogError::unreadable(
                    format!("it cannot be unpacked: {err}"),
                    "pack it anew, or give the plain file",
                ));
            }
            // How much is missing nobody knows.
            Err(_) => {
                return Err(LogError::unreadable(
                    "it breaks off: the end of what was packed is missing",
                    "give the whole file; what there is of it can be unpacked and given as a plain one",
                ));
            }
        }
    }
    let file = out.into_inner().map_err(io::IntoInnerError::into_error)?;
    Ok(Text { file, start: 0, end })
}

fn transcode(text: &Text, mut decoder: Decoder) -> Result<Text, LogError> {
    let mut plain = String::new();
    piped(text, move |bytes, out| {
        plain.clear();
        plain.reserve(decoder.max_utf8_buffer_length(bytes.len()).unwrap_or(bytes.len() * 3));
        let _ = decoder.decode_to_string(bytes, &mut plain, false);
        out.extend_from_slice(plain.as_bytes());
    })
}

/// Copies `text` into a file without a name, each piece of it turned by `turn`.
fn piped(text: &Text, mut turn: impl FnMut(&[u8], &mut Vec<u8>)) -> Result<Text, LogError> {
    let mut file = BufWriter::new(tempfile::tempfile()?);
    let (mut reader, mut piece, mut out) = (text.reader(), vec![0; PIECE], Vec::new());
    let mut end = 0;
    loop {
        let came = reader.read(&mut piece)?;
        if came == 0 {
            break;
        }
        out.clear();
        turn(&piece[..came], &mut out);
        file.write_all(&out)?;
        end += out.len() as u64;
    }
    let file = file.into_inner().map_err(io::IntoInnerError::into_error)?;
    Ok(Text { file, start: 0, end })
}
