//! What the machine did over one lap: every core as a band, and below it what its sensors told, on one axis of time.

use super::head::answered;
use super::rate_profile::{Beside, meanwhile};
use honest_lap_draw::axis::{SIZE, across, number};
use honest_lap_draw::{Anchor, Drawing, MARGIN, Paint, Scale, Stroke, Type};
use std::slice;

/// One core's use.
#[derive(Clone, Debug, PartialEq)]
pub struct CoreBand {
    /// Its number.
    pub name: String,
    /// From when to when it was used by how much, as a share, in order.
    pub uses: Vec<(f64, f64, f64)>,
}

/// A part of the lap.
#[derive(Clone, Debug, PartialEq)]
pub struct PartSpan {
    /// Its name.
    pub name: String,
    /// When it began and ended.
    pub span: (f64, f64),
}

/// One lap.
#[derive(Clone, Debug, PartialEq)]
pub struct ConditionsFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// The unit of time.
    pub time: &'static str,
    /// When it ended, or the last look was, whichever came later.
    pub end: f64,
    /// Its parts, where it has any.
    pub parts: Vec<PartSpan>,
    /// Moments that were marked, with their names.
    pub marks: Vec<(f64, String)>,
    /// The cores.
    pub cores: Vec<CoreBand>,
    /// What sensors told.
    pub beside: Vec<Beside>,
}

const STRIP: f64 = 42.0;
const PART: f64 = 22.0;
/// All cores together take this much, if each has enough to be seen and none more than it needs.
const CORES: f64 = 280.0;
const CORE: (f64, f64) = (5.0, 20.0);
/// Room for names.
const LEFT: f64 = 150.0;
const NARROW_LEFT: f64 = 128.0;

/// Returns the figure, drawn `width` wide.
pub fn conditions(figure: &ConditionsFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let how = "Each row of the upper block is a core: the darker, the more of it was in use. Below, what the machine's \
               sensors told, each from its least to its most.";
    let parts = if figure.parts.is_empty() { "" } else { " Top row: the lap's parts." };
    let marks = if figure.marks.is_empty() { "" } else { " Upright lines: marks." };
    let finding = slice::from_ref(&figure.finding);
    let mut top = answered(&mut drawing, finding, &[format!("{how}{parts}{marks}")]) + 10.0;
    let places = (if width < 700.0 { NARROW_LEFT } else { LEFT }, width - MARGIN);
    let x = Scale { values: (0.0, figure.end.max(f64::MIN_POSITIVE)), places, log: false };
    if !figure.marks.is_empty() {
        top += SIZE + 8.0;
    }
    let from = top;
    let high = CORES / figure.cores.len().max(1) as f64;
    let high = high.clamp(CORE.0, CORE.1);
    let of_parts = if figure.parts.is_empty() { 0.0 } else { PART + 6.0 };
    let of_cores =
        if figure.cores.is_empty() { 0.0 } else { high * figure.cores.len() as f64 + 10.0 };
    let bottom = from + of_parts + of_cores + STRIP * figure.beside.len() as f64;
    // Ahead of the bands, which stand on its lines.
    across(&mut drawing, &x, (from, bottom), number);
    if !figure.parts.is_empty() {
        parts_row(&mut drawing, &figure.parts, &x, top);
        top += of_parts;
    }
    if !figure.cores.is_empty() {
        bands(&mut drawing, &figure.cores, &x, (top, high));
        top += of_cores;
    }
    for strip in &figure.beside {
        meanwhile(&mut drawing, strip, &x, top);
        top += STRIP;
    }
    marked(&mut drawing, &figure.marks, &x, (from, bottom));
    let set = Type::small(SIZE);
    let unit = format!("time, {}", figure.time);
    drawing.text((MARGIN, bottom + SIZE + 6.0), set, &set.fitted(&unit, places.0 - MARGIN - 30.0));
    drawing.height = bottom + SIZE + 16.0;
    drawing
}

fn parts_row(drawing: &mut Drawing, parts: &[PartSpan], x: &Scale, top: f64) {
    let set = Type::small(SIZE);
    drawing.text((MARGIN, top + 15.0), set, "parts");
    for part in parts {
        let (from, to) = (x.place(part.span.0), x.place(part.span.1));
        drawing.rect(from, top, to - from, PART, Paint::Mist);
        drawing.frame(from, top, to - from, PART, Stroke::line(Paint::Grey, 1.0));
        let words = set.fitted(&part.name, to - from - 10.0);
        drawing.text((from + 5.0, top + 15.0), set, &words);
    }
}

/// Draws the cores one under another, each `high`.
fn bands(drawing: &mut Drawing, cores: &[CoreBand], x: &Scale, (top, high): (f64, f64)) {
    let (left, right) = x.places;
    let set = Type::small(11.0);
    let whole = high * cores.len() as f64;
    let room = left - MARGIN - 8.0;
    let names = ["cores".to_owned(), of_cores(cores)];
    for (line, name) in names.iter().enumerate() {
        let y = top + 14.0 + 14.0 * line as f64;
        if y < top + whole || line == 0 {
            drawing.text((MARGIN, y), set, &set.fitted(name, room));
        }
    }
    for (place, core) in cores.iter().enumerate() {
        let y = top + high * place as f64;
        drawing.rect(left, y, right - left, high - 1.0, Paint::Mist);
        for &(from, to, share) in &core.uses {
            let corners = [(from, y), (to, y), (to, y + high - 1.0), (from, y + high - 1.0)];
            let corners = corners.map(|(at, y)| (x.place(at), y));
            if share > 0.0 {
                drawing.area(&corners, Paint::Lake, share.min(1.0));
            }
        }
    }
}

/// Returns which cores there are, the upper ones first.
fn of_cores(cores: &[CoreBand]) -> String {
    match cores {
        [first, .., last] => format!("{} to {}", first.name, last.name),
        [only] => only.name.clone(),
        [] => String::new(),
    }
}

/// Draws marks, each with its name where that has room beside the one before.
fn marked(drawing: &mut Drawing, marks: &[(f64, String)], x: &Scale, (top, bottom): (f64, f64)) {
    let set = Type::small(SIZE);
    let mut free = x.places.0;
    for (at, name) in marks {
        let at = x.place(*at);
        drawing.line((at, top), (at, bottom), Stroke::line(Paint::Clay, 1.2));
        let words = set.fitted(name, 160.0);
        let half = set.width(&words) / 2.0;
        let middle = at.clamp(x.places.0 + half, (x.places.1 - half).max(x.places.0 + half));
        if middle - half >= free {
            let set = set.anchored(Anchor::Middle);
            drawing.text((middle, top - 6.0), set, &words);
            free = middle + half + 10.0;
        }
    }
}

/// Returns a figure of a made-up lap on a machine of so many cores, for tests.
#[cfg(test)]
pub(super) fn example(cores: usize, name: &str) -> ConditionsFigure {
    let use_at = |core: usize, second: usize| ((core * 7 + second * 3) % 10) as f64 / 9.0;
    let seconds = || (0..60_usize).map(|second| (second as f64, second as f64 + 1.0, second));
    let band = |core: usize| CoreBand {
        name: core.to_string(),
        uses: seconds().map(|(from, to, second)| (from, to, use_at(core, second))).collect(),
    };
    let strip = |name: &str| Beside {
        name: name.to_owned(),
        points: (0..60).map(|second| (f64::from(second), f64::from(second % 7))).collect(),
    };
    ConditionsFigure {
        title: format!("{name}: what the machine did"),
        finding: format!("{name} was one-thread-bound: 1.0 of {cores} threads used"),
        time: "seconds",
        end: 60.0,
        parts: [("load", (0.0, 4.0)), (name, (4.0, 55.0)), ("write", (55.0, 60.0))]
            .map(|(name, span)| PartSpan { name: name.to_owned(), span })
            .to_vec(),
        marks: vec![(10.0, name.to_owned()), (10.5, "b".to_owned()), (59.9, name.to_owned())],
        cores: (0..cores).map(band).collect(),
        beside: vec![strip("clock, MHz"), strip("hottest part, °C"), strip(name)],
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    #[test]
    fn a_core_is_as_dark_as_it_was_used_and_idle_ones_are_not_drawn() {
        let mut figure = example(2, "wren");
        figure.cores[0].uses = vec![(0.0, 30.0, 1.0), (30.0, 60.0, 0.0)];
        figure.cores[1].uses = vec![(0.0, 60.0, 0.5)];
        let drawn = conditions(&figure, 900.0);
        let opacity = |item: &Item| match item {
            Item::Area { fill: Paint::Lake, opacity, .. } => Some(*opacity),
            _ => None,
        };
        assert_eq!(drawn.items.iter().filter_map(opacity).collect::<Vec<_>>(), [1.0, 0.5]);
    }
}
