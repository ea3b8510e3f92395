//! A figure as plain shapes and words at their places: what is tested, and what SVG is written from.

use crate::face;
use crate::paint::Paint;

/// Where a text stands beside its point.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Anchor {
    Start,
    Middle,
    End,
}

/// How a text is set.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Type {
    pub size: f64,
    pub bold: bool,
    pub fill: Paint,
    pub anchor: Anchor,
}

impl Type {
    /// Returns grey text of this size, which begins at its point.
    pub fn small(size: f64) -> Self {
        Self { size, bold: false, fill: Paint::Grey, anchor: Anchor::Start }
    }

    /// Returns bold ink of this size, which begins at its point.
    pub fn name(size: f64) -> Self {
        Self { size, bold: true, fill: Paint::Ink, anchor: Anchor::Start }
    }

    pub fn anchored(self, anchor: Anchor) -> Self {
        Self { anchor, ..self }
    }

    /// Returns how wide `words` are when they are set so.
    pub fn width(&self, words: &str) -> f64 {
        face::width(words, self.size, self.bold)
    }

    /// Returns where `words` begin whose point is at `x`.
    pub fn start_of(&self, words: &str, x: f64) -> f64 {
        match self.anchor {
            Anchor::Start => x,
            Anchor::Middle => x - self.width(words) / 2.0,
            Anchor::End => x - self.width(words),
        }
    }

    /// Returns `words`, shortened where they are wider than `most`.
    pub fn fitted(&self, words: &str, most: f64) -> String {
        face::fitted(words, self.size, self.bold, most)
    }

    /// Returns `words` as lines no wider than `most`.
    pub fn wrapped(&self, words: &str, most: f64) -> Vec<String> {
        face::wrapped(words, self.size, self.bold, most)
    }
}

/// How a line is drawn.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stroke {
    pub hue: Paint,
    pub width: f64,
    /// SVG's dash lengths; empty for an unbroken line.
    pub dashes: &'static str,
}

impl Stroke {
    /// Returns an unbroken line.
    pub fn line(hue: Paint, width: f64) -> Self {
        Self { hue, width, dashes: "" }
    }
}

/// One thing of a drawing.
#[derive(Clone, Debug, PartialEq)]
pub enum Item {
    Curve { points: Vec<(f64, f64)>, stroke: Stroke },
    Area { points: Vec<(f64, f64)>, fill: Paint, opacity: f64, edge: Option<Stroke> },
    Dot { at: (f64, f64), hue: Paint, across: f64 },
    Text { at: (f64, f64), set: Type, words: String },
}

impl Item {
    /// Returns whether one element can draw both: the same pen and paint, and nothing shines through.
    pub fn is_drawn_with(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Curve { stroke: a, .. }, Self::Curve { stroke: b, .. }) => a == b,
            (
                Self::Area { fill: a, opacity: one, edge: c, .. },
                Self::Area { fill: b, opacity: two, edge: d, .. },
            ) => a == b && c == d && *one >= 1.0 && *two >= 1.0,
            (Self::Dot { hue: a, across: c, .. }, Self::Dot { hue: b, across: d, .. }) => {
                a == b && c == d
            }
            _ => false,
        }
    }
}

/// A figure, ready to be written down in any look.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawing {
    pub width: f64,
    pub height: f64,
    /// What it is of.
    pub title: String,
    /// What it shows, for those who cannot see it.
    pub finding: String,
    pub items: Vec<Item>,
}

/// The room left free at the edges of a drawing.
pub const MARGIN: f64 = 28.0;
/// The room below a drawing for what stamps it.
const STAMP: f64 = 22.0;

impl Drawing {
    pub fn new(width: f64, title: &str, finding: &str) -> Self {
        let (title, finding) = (title.to_owned(), finding.to_owned());
        Self { width, height: 0.0, title, finding, items: Vec::new() }
    }

    /// Returns the drawing with a line below it: who drew it, when and from what.
    pub fn stamped(mut self, words: &str) -> Self {
        let set = Type::small(11.0);
        for line in set.wrapped(words, self.width - 2.0 * MARGIN) {
            self.text((MARGIN, self.height + 8.0), set, &line);
            self.height += 15.0;
        }
        self.height += STAMP - 15.0;
        self
    }

    /// Returns what it is of.
    pub fn title(&self) -> &str {
        &self.title
    }

    /// Returns what it shows, in a sentence.
    pub fn finding(&self) -> &str {
        &self.finding
    }

    /// Returns the drawing with every text in it as `put` puts it, at its place.
    pub fn reworded(self, put: &mut dyn FnMut(&str) -> String) -> Self {
        let item = |item| match item {
            Item::Text { at, set, words } => Item::Text { at, set, words: put(&words) },
            shape => shape,
        };
        let items = self.items.into_iter().map(item).collect();
        Self { title: put(&self.title), finding: put(&self.finding), items, ..self }
    }

    #[doc(hidden)]
    pub fn example(words: &str) -> Self {
        let mut drawing = Self::new(200.0, words, words);
        drawing.height = 40.0;
        drawing.text((10.0, 20.0), Type::small(12.0), words);
        drawing
    }

    pub fn rect(&mut self, x: f64, y: f64, width: f64, height: f64, fill: Paint) {
        self.area(&corners(x, y, width, height), fill, 1.0);
    }

    /// Draws the outline of a rectangle, on paper.
    pub fn frame(&mut self, x: f64, y: f64, width: f64, height: f64, stroke: Stroke) {
        let (points, fill) = (corners(x, y, width, height).to_vec(), Paint::Paper);
        self.items.push(Item::Area { points, fill, opacity: 1.0, edge: Some(stroke) });
    }

    pub fn line(&mut self, from: (f64, f64), to: (f64, f64), stroke: Stroke) {
        self.curve(&[from, to], stroke);
    }

    /// Draws a line through `points`.
    pub fn curve(&mut self, points: &[(f64, f64)], stroke: Stroke) {
        self.items.push(Item::Curve { points: points.to_vec(), stroke });
    }

    /// Fills the outline through `points`.
    pub fn area(&mut self, points: &[(f64, f64)], fill: Paint, opacity: f64) {
        self.items.push(Item::Area { points: points.to_vec(), fill, opacity, edge: None });
    }

    /// Fills what `points` enclose, and draws its outline.
    pub fn edged_area(&mut self, points: &[(f64, f64)], fill: Paint, opacity: f64, edge: Stroke) {
        let points = points.to_vec();
        self.items.push(Item::Area { points, fill, opacity, edge: Some(edge) });
    }

    /// Fills a regular shape around `at`, or draws its outline where it is `hollow`.
    pub fn mark(&mut self, at: (f64, f64), shape: Shape, hue: Paint, hollow: bool) {
        if !hollow && let Some(radius) = shape.is_disc() {
            self.items.push(Item::Dot { at, hue, across: 2.0 * radius + 2.0 });
            return;
        }
        let (fill, edge) = (if hollow { Paint::Paper } else { hue }, Some(Stroke::line(hue, 2.0)));
        self.items.push(Item::Area { points: shape.around(at), fill, opacity: 1.0, edge });
    }

    /// Draws an interval along a row: a line with caps, from one x to the other.
    pub fn whisker(&mut self, from: f64, to: f64, y: f64, cap: f64, stroke: Stroke) {
        // One stroke of the pen: down the one cap, along, down the other.
        let caps = [from, to].map(|end| [(end, y - cap), (end, y + cap), (end, y)]);
        let [[above, below, from], [up, down, to]] = caps;
        self.curve(&[above, below, from, to, up, down], stroke);
    }

    pub fn text(&mut self, at: (f64, f64), set: Type, words: &str) {
        if !words.is_empty() {
            self.items.push(Item::Text { at, set, words: words.to_owned() });
        }
    }
}

fn corners(x: f64, y: f64, width: f64, height: f64) -> [(f64, f64); 4] {
    [(x, y), (x + width, y), (x + width, y + height), (x, y + height)]
}

/// A regular shape: what it is carries a meaning, beside its hue.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shape {
    corners: u32,
    /// Share of a full turn by which its first corner stands off the right.
    turn: f64,
    radius: f64,
}

/// Corners that no eye tells from a circle.
const ROUND: u32 = 16;

impl Shape {
    pub fn disc(radius: f64) -> Self {
        Self { corners: ROUND, turn: 0.0, radius }
    }

    /// Returns its radius, if it is a disc.
    fn is_disc(self) -> Option<f64> {
        (self.corners == ROUND).then_some(self.radius)
    }

    pub fn diamond(radius: f64) -> Self {
        Self { corners: 4, turn: 0.0, radius: radius * 1.25 }
    }

    pub fn square(radius: f64) -> Self {
        Self { corners: 4, turn: 0.125, radius: radius * 1.2 }
    }

    pub fn triangle(radius: f64) -> Self {
        Self { corners: 3, turn: 0.75, radius: radius * 1.25 }
    }

    fn around(self, (x, y): (f64, f64)) -> Vec<(f64, f64)> {
        let corner = |n: u32| {
            let angle =
                std::f64::consts::TAU * (f64::from(n) / f64::from(self.corners) + self.turn);
            (x + self.radius * angle.cos(), y + self.radius * angle.sin())
        };
        (0..self.corners).map(corner).collect()
    }
}
