//! A drawing written down as SVG; decides nothing.

use crate::drawing::{Anchor, Drawing, Item, Stroke, Type};
use crate::face::font_faces;
use crate::paint::{Look, Paint};
use std::fmt::Write;

impl Drawing {
    /// Returns the drawing as a document of its own, which brings its font along.
    pub fn svg(&self, look: Look) -> String {
        let (width, height) = (short(self.width), short(self.height));
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
        let (width, height) = (short(self.width), short(self.height));
        let (title, finding) = (escaped(&self.title), escaped(&self.finding));
        // A page reads the label aloud; a file on its own says the same where labels are not looked at.
        let told = match look {
            Look::Page => String::new(),
            _ => format!("<title>{title}</title>\n<desc>{finding}</desc>\n"),
        };
        let mut out = format!(
            "<svg{attributes} viewBox=\"0 0 {width} {height}\" font-family=\"Inter, 'Helvetica Neue', \
             Arial, sans-serif\" fill=\"none\" stroke-linejoin=\"round\" role=\"img\" aria-label=\"{title}. {finding}\">\n\
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
                true => format!(" fill-opacity=\"{}\"", short(*opacity)),
                false => String::new(),
            };
            let edge = edge.as_ref().map(|edge| stroked(edge, look)).unwrap_or_default();
            format!("<path d=\"{path}\" fill=\"{fill}\"{opacity}{edge}/>")
        }
        Item::Dot { hue, across, .. } => {
            // A line of no length with round ends is a disc, and the shortest way to write one.
            let (hue, across) = (hue.in_look(look), short(*across));
            format!(
                "<path d=\"{}\" stroke=\"{hue}\" stroke-width=\"{across}\" stroke-linecap=\"round\"/>",
                outlines("h0")
            )
        }
        Item::Text { at, set, words } => {
            let (x, y, size) = (short(at.0), short(at.1), short(set.size));
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
        dashes => format!(" stroke-dasharray=\"{dashes}\""),
    };
    let (hue, width) = (stroke.hue.in_look(look), short(stroke.width));
    format!(" stroke=\"{hue}\" stroke-width=\"{width}\"{dashes}")
}

/// Steps of a path to each unit: a tenth of a pixel is finer than a screen.
const FINE: f64 = 10.0;

/// Returns a path through `points`, each from where the one before it was rounded to: nothing adds up.
fn path(points: &[(f64, f64)]) -> String {
    let mut path = String::with_capacity(points.len() * 8);
    let step = |value: f64| (value * FINE).round() as i64;
    let mut last = (0, 0);
    for (place, &(x, y)) in points.iter().enumerate() {
        let (x, y) = (step(x), step(y));
        let (right, down) = (tenths(x - last.0), tenths(y - last.1));
        // Writing to a string cannot fail.
        let _ = match (place, x == last.0, y == last.1) {
            (0, ..) => write!(path, "M{right} {down}"),
            (_, false, true) => write!(path, "h{right}"),
            (_, true, false) => write!(path, "v{down}"),
            (_, true, true) => Ok(()),
            _ if down.starts_with('-') => write!(path, "l{right}{down}"),
            _ => write!(path, "l{right} {down}"),
        };
        last = (x, y);
    }
    path
}

/// Returns so many tenths, as short as they can be written.
fn tenths(value: i64) -> String {
    let (whole, tenth) = (value.abs() / 10, value.abs() % 10);
    let sign = if value < 0 { "-" } else { "" };
    match (whole, tenth) {
        (_, 0) => format!("{sign}{whole}"),
        (0, tenth) => format!("{sign}.{tenth}"),
        (whole, tenth) => format!("{sign}{whole}.{tenth}"),
    }
}

/// Returns a coordinate to a tenth, without zeros behind it.
fn short(value: f64) -> String {
    let text = format!("{value:.1}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
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
        assert_eq!([1.0, 1.5, 1.257, -0.001].map(short), ["1", "1.5", "1.3", "0"]);
        let points = [(0.04, 1.0), (2.5, 3.0), (2.5, 2.86), (1.2, 2.86), (1.22, 2.9), (0.7, 2.2)];
        assert_eq!(path(&points), "M0 1l2.5 2v-.1h-1.3l-.5-.7");
        assert_eq!([0, 3, -3, 10, -125].map(tenths), ["0", ".3", "-.3", "1", "-12.5"]);
    }
}
