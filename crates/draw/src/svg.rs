//! A drawing written down as SVG; decides nothing.
//!
//! Its unit is a tenth of a pixel, which is finer than a screen: whole numbers are the shortest, and curves are most of a page.

use crate::drawing::{Anchor, Drawing, Item, Stroke, Type};
use crate::face::font_faces;
use crate::paint::{Look, Paint};
use std::fmt::Write;

impl Drawing {
    /// Returns the drawing as a document of its own, which brings its font along.
    pub fn svg(&self, look: Look) -> String {
        let pixels = |length: f64| tenths(length) as f64 / FINE;
        let (width, height) = (pixels(self.width), pixels(self.height));
        self.document(
            look,
            &format!(" xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\""),
            &format!("<style>{}</style>\n", font_faces()),
        )
    }

    /// Returns the drawing as part of a page, which has the font, the paints and its width.
    pub fn for_page(&self) -> String {
        self.document(Look::Page, "", "")
    }

    fn document(&self, look: Look, attributes: &str, style: &str) -> String {
        let (width, height) = (tenths(self.width), tenths(self.height));
        let (title, finding) = (escaped(&self.title), escaped(&self.finding));
        // A page reads the label aloud; a file on its own says the same where labels are not looked at.
        let told = match look {
            Look::Page => String::new(),
            _ => format!("<title>{title}</title>\n<desc>{finding}</desc>\n"),
        };
        // A page has these in its style sheet.
        let styled = match look {
            Look::Page => "",
            _ => STYLED,
        };
        let mut out = format!(
            "<svg{attributes} viewBox=\"0 0 {width} {height}\"{styled} role=\"img\" aria-label=\"{title}. {finding}\">\n\
             {told}{style}\
             <rect width=\"{width}\" height=\"{height}\" fill=\"{}\"/>\n",
            Paint::Paper.in_look(look)
        );
        for alike in self.items.chunk_by(|a, b| a.is_drawn_with(b)) {
            // Writing to a string cannot fail.
            let _ = writeln!(out, "{}", element(alike, look));
        }
        out.push_str("</svg>\n");
        out
    }
}

/// How all of a drawing is set.
const STYLED: &str = " font-family=\"Inter, 'Helvetica Neue', Arial, sans-serif\" fill=\"none\" stroke-linejoin=\"round\"";

/// Returns the element of items that are drawn alike: a path for all of them, or one text.
fn element(alike: &[Item], look: Look) -> String {
    let outlines = |end: &str| {
        let of = |item: &Item| match item {
            Item::Curve { points, .. } | Item::Area { points, .. } => path(points) + end,
            Item::Dot { at, .. } => path(&[*at]) + end,
            Item::Text { .. } => String::new(),
        };
        alike.iter().map(of).collect::<String>()
    };
    match &alike[0] {
        Item::Curve { stroke, .. } => {
            format!("<path d=\"{}\"{}/>", outlines(""), stroked(stroke, look))
        }
        Item::Area { fill, opacity, edge, .. } => {
            let (path, fill) = (outlines("z"), fill.in_look(look));
            let opacity = match *opacity < 1.0 {
                true => format!(" fill-opacity=\"{}\"", (opacity * 100.0).round() / 100.0),
                false => String::new(),
            };
            let edge = edge.as_ref().map(|edge| stroked(edge, look)).unwrap_or_default();
            format!("<path d=\"{path}\" fill=\"{fill}\"{opacity}{edge}/>")
        }
        Item::Dot { hue, across, .. } => {
            // A line of no length with round ends is a disc, and the shortest way to write one.
            let (hue, across) = (hue.in_look(look), tenths(*across));
            format!(
                "<path d=\"{}\" stroke=\"{hue}\" stroke-width=\"{across}\" stroke-linecap=\"round\"/>",
                outlines("h0")
            )
        }
        Item::Text { at, set, words } => {
            let (x, y, size) = (tenths(at.0), tenths(at.1), tenths(set.size));
            let words = escaped(words);
            format!(
                "<text x=\"{x}\" y=\"{y}\" font-size=\"{size}\"{}>{words}</text>",
                worded(set, look)
            )
        }
    }
}

/// Returns the attributes of words: those of a page are classes of its style sheet.
fn worded(set: &Type, look: Look) -> String {
    let (class, anchor) = match set.anchor {
        Anchor::Start => ("", ""),
        Anchor::Middle => (" m", " text-anchor=\"middle\""),
        Anchor::End => (" e", " text-anchor=\"end\""),
    };
    if look == Look::Page {
        let bold = if set.bold { " b" } else { "" };
        return format!(" class=\"{}{class}{bold}\"", set.fill.name());
    }
    let weight = if set.bold { " font-weight=\"600\"" } else { "" };
    format!(" fill=\"{}\"{anchor}{weight}", set.fill.in_look(look))
}

fn stroked(stroke: &Stroke, look: Look) -> String {
    let dashes = match stroke.dashes {
        "" => String::new(),
        dashes => {
            let lengths = dashes.split(' ').filter_map(|length| length.parse().ok());
            let lengths: Vec<String> = lengths.map(|l: f64| tenths(l).to_string()).collect();
            format!(" stroke-dasharray=\"{}\"", lengths.join(" "))
        }
    };
    let (hue, width) = (stroke.hue.in_look(look), tenths(stroke.width));
    format!(" stroke=\"{hue}\" stroke-width=\"{width}\"{dashes}")
}

/// Units of the file to each pixel.
const FINE: f64 = 10.0;

/// Returns so many pixels in units of the file.
fn tenths(pixels: f64) -> i64 {
    (pixels * FINE).round() as i64
}

/// A step of a path from where the one before it ended.
#[derive(Clone, Copy)]
enum Step {
    Across(i64),
    Down(i64),
    Both(i64, i64),
}

impl Step {
    /// Returns the step to there; `None` where it leads nowhere.
    fn by(right: i64, down: i64) -> Option<Self> {
        match (right, down) {
            (0, 0) => None,
            (right, 0) => Some(Self::Across(right)),
            (0, down) => Some(Self::Down(down)),
            (right, down) => Some(Self::Both(right, down)),
        }
    }

    /// Returns both as one, where `next` goes on the same way along an axis.
    fn and(self, next: Self) -> Option<Self> {
        let one_way = |a: i64, b: i64| (a.signum() == b.signum()).then_some(a + b);
        match (self, next) {
            (Self::Across(a), Self::Across(b)) => one_way(a, b).map(Self::Across),
            (Self::Down(a), Self::Down(b)) => one_way(a, b).map(Self::Down),
            _ => None,
        }
    }

    /// Returns the letter that stands ahead of it.
    fn letter(self) -> char {
        match self {
            Self::Across(_) => 'h',
            Self::Down(_) => 'v',
            Self::Both(..) => 'l',
        }
    }
}

/// Returns a path through `points`, each from where the one before it was rounded to: nothing adds up.
fn path(points: &[(f64, f64)]) -> String {
    let mut spots = points.iter().map(|&(x, y)| (tenths(x), tenths(y)));
    let Some(first) = spots.next() else { return String::new() };
    let mut steps: Vec<Step> = Vec::with_capacity(points.len());
    let mut last = first;
    for spot in spots {
        let Some(step) = Step::by(spot.0 - last.0, spot.1 - last.1) else { continue };
        last = spot;
        match steps.last().and_then(|&before| before.and(step)) {
            Some(both) => *steps.last_mut().expect("there is one") = both,
            None => steps.push(step),
        }
    }
    let mut path = String::with_capacity(points.len() * 6);
    let number = |path: &mut String, value: i64| {
        // A sign or a letter parts two numbers as well as a blank.
        if value >= 0 && path.ends_with(|c: char| c.is_ascii_digit()) {
            path.push(' ');
        }
        // Writing to a string cannot fail.
        let _ = write!(path, "{value}");
    };
    path.push('M');
    number(&mut path, first.0);
    number(&mut path, first.1);
    let mut letter = 'M';
    for step in steps {
        // Said once for all steps that follow with it.
        if step.letter() != letter {
            letter = step.letter();
            path.push(letter);
        }
        match step {
            Step::Across(by) | Step::Down(by) => number(&mut path, by),
            Step::Both(right, down) => {
                number(&mut path, right);
                number(&mut path, down);
            }
        }
    }
    path
}

/// Returns `text` as XML holds it; what it cannot hold is left out.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            c if c.is_control() => out.push(' '),
            // They would turn what follows about; a figure has no use for them.
            c if turns_text(c) => {}
            c => out.push(c),
        }
    }
    out
}

/// Returns whether a character has no ink and changes the direction or the joining of others.
fn turns_text(c: char) -> bool {
    matches!(c, '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
        || matches!(c, '\u{061c}' | '\u{feff}')
}

#[cfg(test)]
mod tests {
    use super::super::drawing::Type;
    use super::*;

    #[test]
    fn names_from_outside_are_text_and_nothing_else() {
        let mut drawing = Drawing::new(10.0, "a < b", "it \"is\"");
        drawing.text((1.0, 2.0), Type::small(10.0), "<script>\"a\" & b\u{0}</script>");
        let out = drawing.for_page();
        assert!(out.contains("&lt;script&gt;&quot;a&quot; &amp; b &lt;/script&gt;"), "{out}");
        assert!(!out.contains("<script"));
        assert!(drawing.svg(Look::Light).contains("<title>a &lt; b</title>"));
        assert!(out.contains("aria-label=\"a &lt; b. it &quot;is&quot;\""), "{out}");
    }

    #[test]
    fn a_look_is_chosen_when_it_is_written_down() {
        let mut drawing = Drawing::new(10.0, "", "");
        drawing.rect(0.0, 0.0, 1.0, 1.0, Paint::Clay);
        assert!(drawing.svg(Look::Light).contains("#b5563c"));
        assert!(drawing.svg(Look::Dark).contains("#15202b"));
        assert!(drawing.for_page().contains("var(--clay)"));
        assert!(drawing.svg(Look::Light).contains("@font-face"));
    }

    #[test]
    fn coordinates_are_short() {
        assert_eq!([1.0, 1.5, 1.257, -0.001].map(tenths), [10, 15, 13, 0]);
        let points = [(0.04, 1.0), (2.5, 3.0), (2.5, 2.86), (1.2, 2.86), (1.22, 2.9), (0.7, 2.2)];
        assert_eq!(path(&points), "M0 10l25 20v-1h-13l-5-7");
        // The letter once; along an axis one step for all that go the same way, and two where it turns back.
        assert_eq!(
            path(&[(0.0, 0.0), (1.0, 1.0), (2.0, 3.0), (3.0, 2.0)]),
            "M0 0l10 10 10 20 10-10"
        );
        assert_eq!(path(&[(0.0, 0.0), (1.0, 0.0), (4.0, 0.0), (2.0, 0.0)]), "M0 0h40-20");
        assert_eq!(path(&[(0.5, -1.0)]), "M5-10");
    }
}
