//! What a program said last, which mostly says why it ended.

use honest_lap_core::record::{Captured, LapBody, plain_line};

/// Letters of a program's last words that are kept.
const MOST_WORDS: usize = 120;

/// Returns the last line that a program said: to its standard error, or else to its standard output.
pub(crate) fn last_words(body: &LapBody) -> Option<String> {
    let last = |said: &Captured| {
        let end = if said.tail.is_empty() { &said.head } else { &said.tail };
        let text = String::from_utf8_lossy(end);
        let line = text.lines().rev().find(|line| !line.trim().is_empty())?;
        Some(plain_line(line.trim()).chars().take(MOST_WORDS).collect())
    };
    last(&body.stderr).or_else(|| last(&body.stdout))
}
