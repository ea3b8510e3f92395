//! The font that ships with the tool: how wide text is in it, text made to fit, and its outlines.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use std::sync::LazyLock;
use tiny_skia::PathBuilder;
use ttf_parser::{Face, OutlineBuilder};

/// The font's files: regular and semi-bold.
const FONTS: [&[u8]; 2] =
    [include_bytes!("../fonts/Inter-Regular.otf"), include_bytes!("../fonts/Inter-SemiBold.otf")];
/// The same glyphs packed for a browser, a third of the size: `pyftsubset FILE --unicodes='*' --layout-features='*' --flavor=woff2`.
const WEB_FONTS: [&[u8]; 2] = [
    include_bytes!("../fonts/Inter-Regular.woff2"),
    include_bytes!("../fonts/Inter-SemiBold.woff2"),
];

/// Returns the rules of a style sheet that bring the font along.
pub fn font_faces() -> String {
    let face = |(file, weight): (&[u8], u16)| {
        let data = STANDARD.encode(file);
        format!(
            "@font-face{{font-family:Inter;font-weight:{weight};\
             src:url(data:font/woff2;base64,{data})}}"
        )
    };
    WEB_FONTS.into_iter().zip([400, 600]).map(face).collect()
}

/// The width of each character up to this one is kept.
const KEPT: u32 = 0x400;

/// A font and its widths, in ems.
struct Letters {
    face: Face<'static>,
    kept: Vec<f64>,
}

static LETTERS: LazyLock<[Letters; 2]> = LazyLock::new(|| FONTS.map(Letters::of));

impl Letters {
    fn of(file: &'static [u8]) -> Self {
        let face = Face::parse(file, 0).expect("the font that ships with the tool can be read");
        let kept = Vec::new();
        let mut letters = Self { face, kept };
        let kept = (0..KEPT).map(|code| char::from_u32(code).map_or(0.0, |c| letters.read(c)));
        letters.kept = kept.collect();
        letters
    }

    /// Reads the width of a character; one that the font does not have is as wide as an em.
    fn read(&self, c: char) -> f64 {
        let glyph = self.face.glyph_index(c);
        let width = glyph.and_then(|glyph| self.face.glyph_hor_advance(glyph));
        width.map_or(1.0, |width| f64::from(width) / f64::from(self.face.units_per_em()))
    }

    fn char(&self, c: char) -> f64 {
        self.kept.get(c as usize).copied().unwrap_or_else(|| self.read(c))
    }
}

/// Draws the outlines of `words` into `path`, from the point `at` of their line on.
///
/// A character that the font does not have leaves its room empty.
pub fn outline(words: &str, size: f64, bold: bool, at: (f64, f64), path: &mut PathBuilder) {
    let letters = &LETTERS[usize::from(bold)];
    let scale = size / f64::from(letters.face.units_per_em());
    let mut left = at.0;
    for c in words.chars() {
        if let Some(glyph) = letters.face.glyph_index(c) {
            let mut pen = Pen { path, scale: scale as f32, at: (left as f32, at.1 as f32) };
            letters.face.outline_glyph(glyph, &mut pen);
        }
        left += letters.char(c) * size;
    }
}

/// Draws one glyph: a font counts upwards, a drawing downwards.
struct Pen<'a> {
    path: &'a mut PathBuilder,
    scale: f32,
    at: (f32, f32),
}

impl Pen<'_> {
    fn placed(&self, x: f32, y: f32) -> (f32, f32) {
        (self.at.0 + x * self.scale, self.at.1 - y * self.scale)
    }
}

impl OutlineBuilder for Pen<'_> {
    fn move_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.placed(x, y);
        self.path.move_to(x, y);
    }

    fn line_to(&mut self, x: f32, y: f32) {
        let (x, y) = self.placed(x, y);
        self.path.line_to(x, y);
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        let ((x1, y1), (x, y)) = (self.placed(x1, y1), self.placed(x, y));
        self.path.quad_to(x1, y1, x, y);
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let ((x1, y1), (x2, y2)) = (self.placed(x1, y1), self.placed(x2, y2));
        let (x, y) = self.placed(x, y);
        self.path.cubic_to(x1, y1, x2, y2, x, y);
    }

    fn close(&mut self) {
        self.path.close();
    }
}

/// Returns how wide `words` are when set in `size`.
pub fn width(words: &str, size: f64, bold: bool) -> f64 {
    let letters = &LETTERS[usize::from(bold)];
    words.chars().map(|c| letters.char(c)).sum::<f64>() * size
}

/// Returns `words`, shortened with an ellipsis where they are wider than `most`.
pub fn fitted(words: &str, size: f64, bold: bool, most: f64) -> String {
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
pub fn wrapped(words: &str, size: f64, bold: bool, most: f64) -> Vec<String> {
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
            assert!(LETTERS[0].face.glyph_index(c).is_some(), "{c}");
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
