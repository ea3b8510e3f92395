//! How wide text is in the font that ships with the tool, and text made to fit.

use skrifa::instance::{LocationRef, Size};
use skrifa::{FontRef, GlyphId, MetadataProvider};
use std::sync::LazyLock;

/// The font's files: regular and semi-bold.
pub(crate) const FONTS: [&[u8]; 2] = [
    include_bytes!("../../fonts/Inter-Regular.otf"),
    include_bytes!("../../fonts/Inter-SemiBold.otf"),
];

/// The width of each character up to this one is kept.
const KEPT: u32 = 0x400;

/// A font's widths, in ems.
struct Widths {
    font: FontRef<'static>,
    kept: Vec<f64>,
}

static WIDTHS: LazyLock<[Widths; 2]> = LazyLock::new(|| FONTS.map(Widths::of));

impl Widths {
    fn of(file: &'static [u8]) -> Self {
        let font = FontRef::new(file).expect("the font that ships with the tool can be read");
        let kept = Vec::new();
        let mut widths = Self { font, kept };
        let kept = (0..KEPT).map(|code| char::from_u32(code).map_or(0.0, |c| widths.read(c)));
        widths.kept = kept.collect();
        widths
    }

    /// Reads the width of a character; one that the font does not have is as wide as an em.
    fn read(&self, c: char) -> f64 {
        const UNITS: f32 = 1000.0;
        let glyph: Option<GlyphId> = self.font.charmap().map(c);
        let metrics = self.font.glyph_metrics(Size::new(UNITS), LocationRef::default());
        let width = glyph.and_then(|glyph| metrics.advance_width(glyph));
        width.map_or(1.0, |width| f64::from(width / UNITS))
    }

    fn char(&self, c: char) -> f64 {
        self.kept.get(c as usize).copied().unwrap_or_else(|| self.read(c))
    }
}

/// Returns how wide `words` are when set in `size`.
pub(super) fn width(words: &str, size: f64, bold: bool) -> f64 {
    let widths = &WIDTHS[usize::from(bold)];
    words.chars().map(|c| widths.char(c)).sum::<f64>() * size
}

/// Returns `words`, shortened with an ellipsis where they are wider than `most`.
pub(super) fn fitted(words: &str, size: f64, bold: bool, most: f64) -> String {
    if width(words, size, bold) <= most {
        return words.to_owned();
    }
    let mut left: String = words.to_owned();
    while left.pop().is_some() {
        let shortened = format!("{}…", left.trim_end());
        if width(&shortened, size, bold) <= most {
            return shortened;
        }
    }
    String::new()
}

/// Returns `words` as lines of at most `most` each; a single word that is wider is shortened.
pub(super) fn wrapped(words: &str, size: f64, bold: bool, most: f64) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in words.split(' ').filter(|word| !word.is_empty()) {
        match lines.last_mut() {
            Some(line) if width(&format!("{line} {word}"), size, bold) <= most => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(fitted(word, size, bold, most)),
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn widths_come_from_the_font() {
        // Inter's figures are narrower than an em and its W is wide; semi-bold is wider.
        assert!(width("1", 10.0, false) < width("W", 10.0, false));
        assert!(width("heron", 10.0, false) < width("heron", 10.0, true));
        assert!((width("heron", 20.0, false) - 2.0 * width("heron", 10.0, false)).abs() < 1e-9);
        assert_eq!(width("\u{4e00}", 10.0, false), 10.0);
    }

    #[test]
    fn the_font_has_what_figures_are_written_with() {
        for c in "⁰¹²³⁴⁵⁶⁷⁸⁹×–·…≥≤±µ−".chars() {
            assert!(WIDTHS[0].font.charmap().map(c).is_some(), "{c}");
        }
    }

    #[test]
    fn words_are_made_to_fit() {
        assert_eq!(fitted("heron", 10.0, false, 100.0), "heron");
        let short = fitted("a very long name of a rig", 10.0, false, 60.0);
        assert!(short.ends_with('…') && width(&short, 10.0, false) <= 60.0, "{short}");
        assert_eq!(fitted("heron", 10.0, false, 1.0), "");
        let lines = wrapped("one two  three four", 10.0, false, width("one two", 10.0, false));
        assert_eq!(lines, ["one two", "three", "four"]);
    }
}
