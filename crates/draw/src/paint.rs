//! The product's own palette, light and dark. Hue is never the only carrier of meaning: curves have
//! dashes, marks have shapes, verdicts have words.

/// What something is painted with, whatever the look.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Paint {
    /// What is drawn on.
    Paper,
    /// Text, and what must be seen.
    Ink,
    /// Text to be read second.
    Grey,
    /// Grids and stretches left out.
    Mist,
    Lake,
    Brass,
    /// Brass, strong enough for text.
    BrassInk,
    Moss,
    Clay,
    Plum,
}

/// How a figure looks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Look {
    /// Ink on white.
    #[default]
    Light,
    /// Light ink on a dark ground.
    Dark,
    /// As the page around it says, by its style sheet.
    Page,
}

/// A hue: red, green and blue.
type Hue = u32;

/// Every paint with its name in a page's style sheet, and its light and dark hues.
const HUES: [(Paint, &str, Hue, Hue); 10] = [
    (Paint::Paper, "paper", 0xffffff, 0x15202b),
    (Paint::Ink, "ink", 0x1d2b3a, 0xe8ecef),
    (Paint::Grey, "grey", 0x5b6773, 0xa3b1bd),
    (Paint::Mist, "mist", 0xe8ecef, 0x2b3a48),
    (Paint::Lake, "lake", 0x2f6f8f, 0x63aed1),
    (Paint::Brass, "brass", 0xc08a2d, 0xd9a84f),
    (Paint::BrassInk, "brass-ink", 0x8a611b, 0xe2b866),
    (Paint::Moss, "moss", 0x5d7f4a, 0x93b97d),
    (Paint::Clay, "clay", 0xb5563c, 0xe0876c),
    (Paint::Plum, "plum", 0x7a4b78, 0xc393c1),
];

impl Paint {
    /// Returns the paint as SVG names it.
    pub fn in_look(self, look: Look) -> String {
        let (_, name, light, dark) = self.hues();
        match look {
            Look::Light => format!("#{light:06x}"),
            Look::Dark => format!("#{dark:06x}"),
            Look::Page => format!("var(--{name})"),
        }
    }

    /// Returns its red, green and blue; a page that is drawn on its own is light.
    pub fn rgb(self, look: Look) -> [u8; 3] {
        let (.., light, dark) = self.hues();
        let hue = if look == Look::Dark { dark } else { light };
        let [_, red, green, blue] = hue.to_be_bytes();
        [red, green, blue]
    }

    /// Returns its name in a style sheet.
    pub fn name(self) -> &'static str {
        self.hues().1
    }

    fn hues(self) -> (Self, &'static str, Hue, Hue) {
        let known = HUES.into_iter().find(|(paint, ..)| *paint == self);
        known.expect("every paint has its hues")
    }
}

/// Returns the style sheet's names for the paints of a light or dark page: `--ink:#1d2b3a;…`.
pub fn paints(look: Look) -> String {
    let hue =
        |(paint, name, ..): (Paint, &str, Hue, Hue)| format!("--{name}:{};", paint.in_look(look));
    HUES.into_iter().map(hue).collect()
}

/// Returns the style sheet's rules for words in the figures of a page: each paint by its name, anchors, weight.
///
/// A page has thousands of words: a class is shorter than what it stands for.
pub fn word_styles() -> String {
    let hue = |(paint, name, ..): (Paint, &str, Hue, Hue)| {
        format!("svg .{name}{{fill:{}}}", paint.in_look(Look::Page))
    };
    let paints: String = HUES.into_iter().map(hue).collect();
    format!(
        "{paints}svg .m{{text-anchor:middle}}svg .e{{text-anchor:end}}svg .b{{font-weight:600}}"
    )
}

/// Paint and dashes of the curve at `place`: no two of the first twelve are alike.
pub fn curve(place: usize) -> (Paint, &'static str) {
    use Paint::{Brass, Clay, Ink, Lake, Moss, Plum};
    const HUES: [Paint; 6] = [Lake, Clay, Moss, Plum, Brass, Ink];
    const DASHES: [&str; 4] = ["", "7 3", "2 3", "9 3 2 3"];
    (HUES[place % HUES.len()], DASHES[(place + place / HUES.len()) % DASHES.len()])
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Returns the contrast of two hues: (L + 0.05) / (l + 0.05), Web Content Accessibility Guidelines 2.2.
    fn contrast(a: &str, b: &str) -> f64 {
        let channel = |hue: &str, at: usize| {
            let of = u8::from_str_radix(&hue[at..at + 2], 16).unwrap();
            let share = f64::from(of) / 255.0;
            if share <= 0.04045 { share / 12.92 } else { ((share + 0.055) / 1.055).powf(2.4) }
        };
        let light = |hue: &str| {
            0.2126 * channel(hue, 1) + 0.7152 * channel(hue, 3) + 0.0722 * channel(hue, 5)
        };
        let (a, b) = (light(a), light(b));
        (a.max(b) + 0.05) / (a.min(b) + 0.05)
    }

    #[test]
    fn text_can_be_read_and_marks_can_be_seen_in_both_looks() {
        assert!((contrast("#ffffff", "#000000") - 21.0).abs() < 1e-9);
        for look in [Look::Light, Look::Dark] {
            let on_paper =
                |paint: Paint| contrast(&paint.in_look(look), &Paint::Paper.in_look(look));
            for text in [Paint::Ink, Paint::Grey, Paint::BrassInk] {
                assert!(on_paper(text) >= 4.5, "{text:?} {look:?}: {}", on_paper(text));
            }
            for mark in [Paint::Lake, Paint::Moss, Paint::Clay, Paint::Plum] {
                assert!(on_paper(mark) >= 3.0, "{mark:?} {look:?}: {}", on_paper(mark));
            }
        }
    }

    #[test]
    fn a_page_names_its_paints() {
        assert_eq!(Paint::BrassInk.in_look(Look::Page), "var(--brass-ink)");
        assert!(paints(Look::Dark).starts_with("--paper:#15202b;--ink:#e8ecef;"));
    }
}
