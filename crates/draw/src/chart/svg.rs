//! SVG as text: shapes in, a document out.

use super::palette::PAPER;
use std::fmt::Write;

/// Where a text stands beside its point.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Anchor {
    Start,
    Middle,
    End,
}

/// How a text is set.
#[derive(Clone, Copy, Debug)]
pub(super) struct Type {
    pub(super) size: f64,
    pub(super) bold: bool,
    pub(super) fill: &'static str,
    pub(super) anchor: Anchor,
}

/// How a line is drawn.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stroke {
    pub(super) hue: &'static str,
    pub(super) width: f64,
    /// SVG's dash lengths; empty for an unbroken line.
    pub(super) dashes: &'static str,
}

/// A document in the making.
pub(super) struct Svg {
    body: String,
    width: f64,
    height: f64,
}

impl Svg {
    pub(super) fn new(width: f64, height: f64) -> Self {
        Self { body: String::new(), width, height }
    }

    pub(super) fn rect(&mut self, x: f64, y: f64, width: f64, height: f64, fill: &str) {
        let (x, y, width, height) = (short(x), short(y), short(width), short(height));
        self.add(format_args!(
            "<rect x=\"{x}\" y=\"{y}\" width=\"{width}\" height=\"{height}\" fill=\"{fill}\"/>"
        ));
    }

    pub(super) fn line(&mut self, from: (f64, f64), to: (f64, f64), stroke: Stroke) {
        self.curve(&[from, to], stroke);
    }

    /// Draws a line through `points`.
    pub(super) fn curve(&mut self, points: &[(f64, f64)], stroke: Stroke) {
        let dashes = match stroke.dashes {
            "" => String::new(),
            dashes => format!(" stroke-dasharray=\"{dashes}\""),
        };
        let (path, hue, width) = (path(points), stroke.hue, short(stroke.width));
        self.add(format_args!(
            "<path d=\"{path}\" fill=\"none\" stroke=\"{hue}\" stroke-width=\"{width}\" \
             stroke-linejoin=\"round\"{dashes}/>"
        ));
    }

    /// Fills the outline through `points`.
    pub(super) fn area(&mut self, points: &[(f64, f64)], fill: &str, opacity: f64) {
        let (path, opacity) = (path(points), short(opacity));
        self.add(format_args!("<path d=\"{path}Z\" fill=\"{fill}\" fill-opacity=\"{opacity}\"/>"));
    }

    pub(super) fn text(&mut self, at: (f64, f64), set: Type, words: &str) {
        let anchor = match set.anchor {
            Anchor::Start => "start",
            Anchor::Middle => "middle",
            Anchor::End => "end",
        };
        let weight = if set.bold { " font-weight=\"600\"" } else { "" };
        let (x, y, size, fill) = (short(at.0), short(at.1), short(set.size), set.fill);
        let words = escaped(words);
        self.add(format_args!(
            "<text x=\"{x}\" y=\"{y}\" font-size=\"{size}\" fill=\"{fill}\" \
             text-anchor=\"{anchor}\"{weight}>{words}</text>"
        ));
    }

    fn add(&mut self, element: std::fmt::Arguments<'_>) {
        // Writing to a string cannot fail.
        let _ = writeln!(self.body, "{element}");
    }

    /// Returns the document; `title` and `finding` say to those who cannot see it what it shows.
    pub(super) fn finish(self, title: &str, finding: &str) -> String {
        let (width, height) = (short(self.width), short(self.height));
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\" \
             viewBox=\"0 0 {width} {height}\" font-family=\"Inter, 'Helvetica Neue', Arial, \
             sans-serif\" role=\"img\">\n<title>{}</title>\n<desc>{}</desc>\n\
             <rect width=\"{width}\" height=\"{height}\" fill=\"{PAPER}\"/>\n{}</svg>\n",
            escaped(title),
            escaped(finding),
            self.body
        )
    }
}

fn path(points: &[(f64, f64)]) -> String {
    let mut path = String::with_capacity(points.len() * 12);
    for (place, &(x, y)) in points.iter().enumerate() {
        let letter = if place == 0 { 'M' } else { 'L' };
        let _ = write!(path, "{letter}{} {}", short(x), short(y));
    }
    path
}

/// Returns a coordinate to a hundredth, without zeros behind it.
fn short(value: f64) -> String {
    let text = format!("{value:.2}");
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
            c => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_from_outside_are_text_and_nothing_else() {
        let mut svg = Svg::new(10.0, 10.0);
        let set = Type { size: 10.0, bold: false, fill: "#000", anchor: Anchor::Start };
        svg.text((1.0, 2.0), set, "<script>\"a\" & b\u{0}</script>");
        let out = svg.finish("a < b", "");
        assert!(out.contains("&lt;script&gt;&quot;a&quot; &amp; b &lt;/script&gt;"), "{out}");
        assert!(out.contains("<title>a &lt; b</title>") && !out.contains("<script"));
    }

    #[test]
    fn coordinates_are_short() {
        assert_eq!([1.0, 1.5, 1.257, -0.001].map(short), ["1", "1.5", "1.26", "0"]);
        assert_eq!(path(&[(0.0, 1.0), (2.5, 3.0)]), "M0 1L2.5 3");
    }
}
