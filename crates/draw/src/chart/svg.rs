//! A drawing written down as SVG; decides nothing.

use super::drawing::{Anchor, Drawing, Item};
use super::face::FONTS;
use super::paint::{Look, Paint};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use std::fmt::Write;

impl Drawing {
    /// Returns the drawing as a document of its own, which brings its font along.
    pub fn svg(&self, look: Look) -> String {
        let face = |(file, weight): (&[u8], u16)| {
            let data = STANDARD.encode(file);
            format!(
                "@font-face{{font-family:Inter;font-weight:{weight};\
                 src:url(data:font/otf;base64,{data})}}"
            )
        };
        let faces: String = FONTS.into_iter().zip([400, 600]).map(face).collect();
        let (width, height) = (short(self.width), short(self.height));
        self.document(
            look,
            &format!(" xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\""),
            &format!("<style>{faces}</style>\n"),
        )
    }

    /// Returns the drawing as part of a page, which has the font, the paints and its width.
    pub fn for_page(&self) -> String {
        self.document(Look::Page, "", "")
    }

    /// Returns the drawing as it is made into a picture.
    pub(super) fn for_picture(&self, look: Look) -> String {
        let (width, height) = (short(self.width), short(self.height));
        let head =
            format!(" xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\"");
        self.document(look, &head, "")
    }

    fn document(&self, look: Look, attributes: &str, style: &str) -> String {
        let (width, height) = (short(self.width), short(self.height));
        let (title, finding) = (escaped(&self.title), escaped(&self.finding));
        let mut out = format!(
            "<svg{attributes} viewBox=\"0 0 {width} {height}\" font-family=\"Inter, 'Helvetica Neue', \
             Arial, sans-serif\" role=\"img\" aria-label=\"{title}. {finding}\">\n\
             <title>{title}</title>\n<desc>{finding}</desc>\n{style}\
             <rect width=\"{width}\" height=\"{height}\" fill=\"{}\"/>\n",
            Paint::Paper.in_look(look)
        );
        for item in &self.items {
            // Writing to a string cannot fail.
            let _ = writeln!(out, "{}", element(item, look));
        }
        out.push_str("</svg>\n");
        out
    }
}

fn element(item: &Item, look: Look) -> String {
    match item {
        Item::Curve { points, stroke } => {
            let dashes = match stroke.dashes {
                "" => String::new(),
                dashes => format!(" stroke-dasharray=\"{dashes}\""),
            };
            let (path, hue, width) = (path(points), stroke.hue.in_look(look), short(stroke.width));
            format!(
                "<path d=\"{path}\" fill=\"none\" stroke=\"{hue}\" stroke-width=\"{width}\" \
                 stroke-linejoin=\"round\"{dashes}/>"
            )
        }
        Item::Area { points, fill, opacity } => {
            let (path, fill) = (path(points), fill.in_look(look));
            let opacity = match *opacity < 1.0 {
                true => format!(" fill-opacity=\"{}\"", short(*opacity)),
                false => String::new(),
            };
            format!("<path d=\"{path}Z\" fill=\"{fill}\"{opacity}/>")
        }
        Item::Text { at, set, words } => {
            let anchor = match set.anchor {
                Anchor::Start => "",
                Anchor::Middle => " text-anchor=\"middle\"",
                Anchor::End => " text-anchor=\"end\"",
            };
            let weight = if set.bold { " font-weight=\"600\"" } else { "" };
            let (x, y, size) = (short(at.0), short(at.1), short(set.size));
            let (fill, words) = (set.fill.in_look(look), escaped(words));
            format!(
                "<text x=\"{x}\" y=\"{y}\" font-size=\"{size}\" fill=\"{fill}\"{anchor}{weight}>\
                 {words}</text>"
            )
        }
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
    use super::super::drawing::Type;
    use super::*;

    #[test]
    fn names_from_outside_are_text_and_nothing_else() {
        let mut drawing = Drawing::new(10.0, "a < b", "it \"is\"");
        drawing.text((1.0, 2.0), Type::small(10.0), "<script>\"a\" & b\u{0}</script>");
        let out = drawing.for_page();
        assert!(out.contains("&lt;script&gt;&quot;a&quot; &amp; b &lt;/script&gt;"), "{out}");
        assert!(out.contains("<title>a &lt; b</title>") && !out.contains("<script"));
        assert!(out.contains("aria-label=\"a &lt; b. it &quot;is&quot;\""), "{out}");
    }

    #[test]
    fn a_look_is_chosen_when_it_is_written_down() {
        let mut drawing = Drawing::new(10.0, "", "");
        drawing.rect(0.0, 0.0, 1.0, 1.0, Paint::Clay);
        assert!(drawing.for_picture(Look::Light).contains("#b5563c"));
        assert!(drawing.for_picture(Look::Dark).contains("#15202b"));
        assert!(drawing.for_page().contains("var(--clay)"));
        assert!(drawing.svg(Look::Light).contains("@font-face"));
    }

    #[test]
    fn coordinates_are_short() {
        assert_eq!([1.0, 1.5, 1.257, -0.001].map(short), ["1", "1.5", "1.26", "0"]);
        assert_eq!(path(&[(0.0, 1.0), (2.5, 3.0)]), "M0 1L2.5 3");
    }
}
