//! JSON that is safe to show: what could move a cursor or reorder a line is written as `\uXXXX`.

use super::plain::is_hazard;
use std::io::{self, Write};

/// Passes JSON on to `to`, every control and direction character in its texts escaped: it says the same.
///
/// Such characters stand in texts only, so that each may be replaced wherever it comes.
#[derive(Debug)]
pub struct PlainJson<W> {
    to: W,
    /// The beginning of a character whose rest has not come yet.
    begun: Vec<u8>,
}

impl<W: Write> PlainJson<W> {
    /// Returns what passes on to `to`.
    pub fn new(to: W) -> Self {
        Self { to, begun: Vec::new() }
    }

    fn text(&mut self, text: &str) -> io::Result<()> {
        let mut from = 0;
        // Below space serde has escaped what is in a text; what is between texts is layout.
        for (at, c) in text.char_indices().filter(|(_, c)| *c >= '\x7f' && is_hazard(*c)) {
            self.to.write_all(&text.as_bytes()[from..at])?;
            // None of them is beyond the first plane.
            write!(self.to, "\\u{:04x}", u32::from(c))?;
            from = at + c.len_utf8();
        }
        self.to.write_all(&text.as_bytes()[from..])
    }
}

impl<W: Write> Write for PlainJson<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let held = std::mem::take(&mut self.begun);
        let all = if held.is_empty() { bytes.to_vec() } else { [&held, bytes].concat() };
        let whole = match std::str::from_utf8(&all) {
            Ok(text) => text,
            Err(err) => {
                let (whole, rest) = all.split_at(err.valid_up_to());
                if err.error_len().is_some() {
                    return Err(io::Error::new(io::ErrorKind::InvalidData, "JSON is UTF-8"));
                }
                self.begun = rest.to_vec();
                std::str::from_utf8(whole).unwrap_or_default()
            }
        };
        self.text(whole)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.to.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn it_says_the_same_and_nothing_that_a_terminal_obeys(
            text in "[a\\x00-\\x1f\\x7f-\\u{9f}\\u{200b}-\\u{206f}\\u{feff}é星𝄞]{0,40}",
            cut in 1_usize..7,
        ) {
            let plain = serde_json::to_vec(&text).unwrap();
            let mut out = PlainJson::new(Vec::new());
            for piece in plain.chunks(cut) {
                out.write_all(piece).unwrap();
            }
            let written = String::from_utf8(out.to).unwrap();
            prop_assert!(!written.chars().any(is_hazard), "{written:?}");
            prop_assert_eq!(serde_json::from_str::<String>(&written).unwrap(), text);
        }
    }
}
