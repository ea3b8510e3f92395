//! Text from outside, made safe to show: names, version lines and what programs print.

/// Returns whether `c` could move the cursor, hide text or reorder a line.
pub fn is_hazard(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{2028}' | '\u{2029}' | '\u{feff}' | '\u{061c}')
        || ('\u{200b}'..='\u{200f}').contains(&c)
        || ('\u{202a}'..='\u{202e}').contains(&c)
        || ('\u{2066}'..='\u{2069}').contains(&c)
}

/// Returns `text` on one line, with every control and direction character spelled out.
///
/// An escape character becomes `\x1b`, a line break `\n`, a right-to-left override `\u{202e}`:
/// visible, harmless, and distinct from each other.
pub fn plain_line(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '\n' => out.push_str("\\n"),
            '\r' => out.push_str("\\r"),
            '\t' => out.push_str("\\t"),
            c if is_hazard(c) && (c as u32) < 0x100 => {
                out.push_str(&format!("\\x{:02x}", c as u32));
            }
            c if is_hazard(c) => out.extend(c.escape_unicode()),
            c => out.push(c),
        }
    }
    out
}

/// Returns `text` as a cell of a table for spreadsheets: safe to show, and no formula, which it is kept from by an
/// apostrophe in front.
pub fn plain_cell(text: &str) -> String {
    let formula = text.trim_start().starts_with(['=', '+', '-', '@', '|', '%']);
    let text = plain_line(text);
    if formula { format!("'{text}") } else { text }
}

/// Returns what a program printed as lines that are safe to show.
///
/// Invalid UTF-8 shows as `\xNN`, so that no byte is lost or taken for another; a carriage
/// return before a line break is dropped, as any terminal would.
pub fn plain_lines(bytes: &[u8]) -> Vec<String> {
    let mut lines: Vec<&[u8]> = bytes.split(|&b| b == b'\n').collect();
    if lines.last().is_some_and(|last| last.is_empty()) {
        lines.pop();
    }
    lines.into_iter().map(|line| plain_bytes(line.strip_suffix(b"\r").unwrap_or(line))).collect()
}

fn plain_bytes(bytes: &[u8]) -> String {
    let mut out = String::new();
    for chunk in bytes.utf8_chunks() {
        out.push_str(&plain_line(chunk.valid()));
        for byte in chunk.invalid() {
            out.push_str(&format!("\\x{byte:02x}"));
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn escapes_are_spelled_out() {
        assert_eq!(plain_line("a\x1b[31mred\x07"), "a\\x1b[31mred\\x07");
        assert_eq!(plain_line("evil\u{202e}txt"), "evil\\u{202e}txt");
        assert_eq!(plain_line("µs, 星, é"), "µs, 星, é");
    }

    #[test]
    fn invalid_bytes_stay_visible() {
        assert_eq!(plain_lines(b"ok\r\n\xff\xfe!\n"), ["ok", "\\xff\\xfe!"]);
        assert_eq!(plain_lines(b""), Vec::<String>::new());
        assert_eq!(plain_lines(b"no end"), ["no end"]);
    }

    proptest! {
        #[test]
        fn no_control_character_survives(bytes in prop::collection::vec(any::<u8>(), 0..200)) {
            for line in plain_lines(&bytes) {
                prop_assert!(!line.chars().any(is_hazard), "{line:?}");
            }
        }
    }
}
