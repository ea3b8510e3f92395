//! A drawing as pixels: its shapes filled and stroked, its words set from the outlines of the font that ships
//! with the tool. Every word was placed when the figure was laid out; nothing is laid out here.

use crate::drawing::{Drawing, Item, Stroke, Type};
use crate::face;
use crate::paint::{Look, Paint};
use tiny_skia::{FillRule, LineJoin, Path, PathBuilder, Pixmap, PixmapMut, StrokeDash, Transform};

/// Why a figure could not be drawn.
#[derive(Debug, thiserror::Error)]
#[error("the figure cannot be drawn: {why}")]
pub struct RasterError {
    /// Why.
    why: String,
}

impl Drawing {
    /// Returns the drawing's picture, `scale` pixels to each of its units, as PNG.
    pub fn png(&self, look: Look, scale: f32) -> Result<Vec<u8>, RasterError> {
        let failed = |why: String| RasterError { why };
        let pixels = |units: f64| (units * f64::from(scale)).round() as u32;
        let mut picture = Pixmap::new(pixels(self.width), pixels(self.height))
            .ok_or_else(|| failed("it has no size, or is too large".to_owned()))?;
        picture.fill(colour(Paint::Paper, look));
        let mut canvas =
            Canvas { picture: picture.as_mut(), look, place: Transform::from_scale(scale, scale) };
        self.items.iter().for_each(|item| canvas.draw(item));
        picture.encode_png().map_err(|err| failed(err.to_string()))
    }
}

/// What is drawn on, and how a unit of the drawing becomes pixels.
struct Canvas<'a> {
    picture: PixmapMut<'a>,
    look: Look,
    place: Transform,
}

impl Canvas<'_> {
    fn draw(&mut self, item: &Item) {
        match item {
            Item::Curve { points, stroke } => self.stroke(line_through(points, false), stroke),
            Item::Area { points, fill, opacity, edge } => {
                self.fill(line_through(points, true), *fill, *opacity);
                if let Some(edge) = edge {
                    self.stroke(line_through(points, true), edge);
                }
            }
            Item::Dot { at, hue, across } => {
                let radius = (across / 2.0) as f32;
                self.fill(PathBuilder::from_circle(at.0 as f32, at.1 as f32, radius), *hue, 1.0);
            }
            Item::Text { at, set, words } => self.fill(outlines(*at, set, words), set.fill, 1.0),
        }
    }

    /// Fills `path`; one without a point leaves no mark.
    fn fill(&mut self, path: Option<Path>, fill: Paint, opacity: f64) {
        let Some(path) = path else { return };
        let paint = paint(fill, opacity, self.look);
        self.picture.fill_path(&path, &paint, FillRule::Winding, self.place, None);
    }

    fn stroke(&mut self, path: Option<Path>, stroke: &Stroke) {
        let Some(path) = path else { return };
        let paint = paint(stroke.hue, 1.0, self.look);
        let lengths = stroke.dashes.split(' ').filter_map(|length| length.parse().ok()).collect();
        let pen = tiny_skia::Stroke {
            width: stroke.width as f32,
            line_join: LineJoin::Round,
            dash: StrokeDash::new(lengths, 0.0),
            ..tiny_skia::Stroke::default()
        };
        self.picture.stroke_path(&path, &paint, &pen, self.place, None);
    }
}

/// Returns the line through `points`, or nothing where there is no line.
fn line_through(points: &[(f64, f64)], closed: bool) -> Option<Path> {
    let mut path = PathBuilder::new();
    for (place, &(x, y)) in points.iter().enumerate() {
        match place {
            0 => path.move_to(x as f32, y as f32),
            _ => path.line_to(x as f32, y as f32),
        }
    }
    if closed {
        path.close();
    }
    path.finish()
}

/// Returns the outlines of `words`, set at their point; blanks have none.
pub fn outlines(at: (f64, f64), set: &Type, words: &str) -> Option<Path> {
    let mut path = PathBuilder::new();
    face::outline(words, set.size, set.bold, (set.start_of(words, at.0), at.1), &mut path);
    path.finish()
}

fn paint(of: Paint, opacity: f64, look: Look) -> tiny_skia::Paint<'static> {
    let mut paint = tiny_skia::Paint { anti_alias: true, ..tiny_skia::Paint::default() };
    let mut colour = colour(of, look);
    colour.apply_opacity(opacity as f32);
    paint.set_color(colour);
    paint
}

/// Returns the colour of a paint; the paper of a page is light here.
fn colour(paint: Paint, look: Look) -> tiny_skia::Color {
    let [red, green, blue] = paint.rgb(look);
    tiny_skia::Color::from_rgba8(red, green, blue, u8::MAX)
}

#[cfg(test)]
mod tests {
    use super::super::drawing::{Anchor, Shape};
    use super::*;

    fn drawing() -> Drawing {
        let mut drawing = Drawing::new(80.0, "", "");
        drawing.height = 20.0;
        drawing
    }

    /// Returns the colour of the pixel at a place.
    fn pixel(drawing: &Drawing, look: Look, x: u32, y: u32) -> [u8; 3] {
        let file = drawing.png(look, 1.0).unwrap();
        let picture = Pixmap::decode_png(&file).unwrap();
        let pixel = picture.pixel(x, y).unwrap();
        [pixel.red(), pixel.green(), pixel.blue()]
    }

    #[test]
    fn a_figure_becomes_a_picture_with_text_in_it() {
        let figure = |words: &str| {
            let mut drawing = drawing();
            drawing.text((2.0, 15.0), Type::small(12.0), words);
            drawing.png(Look::Light, 2.0).unwrap()
        };
        let drawn = figure("heron");
        assert_eq!(&drawn[1..4], b"PNG");
        assert_eq!(drawn[16..24], [0, 0, 0, 160, 0, 0, 0, 40]);
        assert_ne!(drawn, figure(""), "the letters are there");
        assert_ne!(drawn, figure("wren"));
        assert!(Drawing::new(80.0, "", "").png(Look::Light, 1.0).is_err(), "no height");
    }

    #[test]
    fn shapes_are_where_they_were_put_and_in_their_hues() {
        let mut figure = drawing();
        figure.rect(10.0, 5.0, 10.0, 10.0, Paint::Clay);
        figure.line((40.0, 10.0), (60.0, 10.0), Stroke::line(Paint::Lake, 4.0));
        figure.mark((70.0, 10.0), Shape::disc(4.0), Paint::Moss, false);
        // Clay is #b5563c, lake #2f6f8f and moss #5d7f4a on white; dark paper is #15202b.
        assert_eq!(pixel(&figure, Look::Light, 15, 10), [0xb5, 0x56, 0x3c]);
        assert_eq!(pixel(&figure, Look::Light, 50, 10), [0x2f, 0x6f, 0x8f]);
        assert_eq!(pixel(&figure, Look::Light, 70, 10), [0x5d, 0x7f, 0x4a]);
        assert_eq!(pixel(&figure, Look::Light, 30, 10), [0xff, 0xff, 0xff]);
        assert_eq!(pixel(&figure, Look::Dark, 30, 10), [0x15, 0x20, 0x2b]);
    }

    #[test]
    fn dashes_leave_gaps() {
        let mut figure = drawing();
        let dashed = Stroke { hue: Paint::Ink, width: 4.0, dashes: "10 10" };
        figure.line((0.0, 10.0), (80.0, 10.0), dashed);
        assert_eq!(pixel(&figure, Look::Light, 5, 10), [0x1d, 0x2b, 0x3a]);
        assert_eq!(pixel(&figure, Look::Light, 15, 10), [0xff, 0xff, 0xff]);
    }

    #[test]
    fn words_stand_where_their_anchor_says() {
        let bounds = |anchor| {
            let set = Type::small(10.0).anchored(anchor);
            outlines((40.0, 15.0), &set, "heron").unwrap().bounds()
        };
        let wide = f64::from(bounds(Anchor::Start).width());
        assert!((wide - Type::small(10.0).width("heron")).abs() < 2.0, "{wide}");
        assert!(bounds(Anchor::Start).left() >= 40.0);
        assert!(bounds(Anchor::End).right() <= 40.0);
        let middle = bounds(Anchor::Middle);
        assert!((middle.left() + middle.right() - 80.0).abs() < 2.0);
        assert!(middle.bottom() <= 15.5, "on its line, none of these letters below it");
    }
}
