//! Ratios with their intervals against 1: before and after a change, an index and its parts.

use super::head::{answered, lines};
use super::rows::{Columns, Tone, Weight, label};
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across, number};
use honest_lap_draw::{Drawing, Shape, Stroke};
use std::slice;

/// One ratio.
#[derive(Clone, Debug, PartialEq)]
pub struct Ratio {
    /// What it is of.
    pub name: String,
    /// The ratio; above 1 is better. `None` where there is none.
    pub value: Option<f64>,
    /// The ends of its interval.
    pub ends: Option<(f64, f64)>,
    /// The ratio in words.
    pub shown: String,
    /// Its verdict, or why there is none.
    pub says: String,
    /// What the verdict comes to.
    pub tone: Tone,
    /// Whether it sums up the rows below it.
    pub whole: bool,
}

/// Ratios against 1.
#[derive(Clone, Debug, PartialEq)]
pub struct RatiosFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// How it is read.
    pub how: String,
    /// The rows.
    pub rows: Vec<Ratio>,
    /// How close counts as the same, as a fraction: drawn as a band.
    pub margin: f64,
    /// Footnotes.
    pub notes: Vec<String>,
}

/// Returns the figure, drawn `width` wide.
pub fn ratios(figure: &RatiosFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let (finding, how) = (&figure.finding, &figure.how);
    let top = answered(&mut drawing, slice::from_ref(finding), slice::from_ref(how)) + 16.0;
    let words: Vec<[&str; 3]> =
        figure.rows.iter().map(|row| [&*row.name, &*row.shown, &*row.says]).collect();
    let columns = Columns::of(&words, width, 0.0);
    let x = scale(figure, (columns.left, columns.right));
    let mut y = top;
    let mut middles = Vec::new();
    for row in &figure.rows {
        y += if row.whole && !middles.is_empty() { 12.0 } else { 0.0 };
        middles.push(y + columns.row - columns.row_tail());
        y += columns.row;
    }
    let bottom = y + 4.0;
    let within = (x.place(1.0 / (1.0 + figure.margin)), x.place(1.0 + figure.margin));
    drawing.rect(within.0, top, within.1 - within.0, bottom - top, Paint::Mist);
    across(&mut drawing, &x, (top, bottom), |ratio| format!("{}×", number(ratio)));
    drawing.line((x.place(1.0), top), (x.place(1.0), bottom), Stroke::line(Paint::Ink, 1.2));
    let parted = figure.rows.iter().any(|row| row.whole);
    for (row, &middle) in figure.rows.iter().zip(&middles) {
        let parts = if row.whole || !parted { Weight::Bold } else { Weight::Plain };
        let words = [&*row.name, &*row.shown, &*row.says];
        label(&mut drawing, &columns, middle, words, row.tone, parts);
        let Some(value) = row.value else { continue };
        let hue = row.tone.paint();
        if let Some((low, high)) = row.ends {
            let stroke = Stroke::line(hue, if row.whole { 3.0 } else { 1.8 });
            drawing.whisker(x.place(low), x.place(high), middle, 5.0, stroke);
        }
        let shape = if row.whole { Shape::diamond(7.0) } else { Shape::disc(4.5) };
        drawing.mark((x.place(value), middle), shape, hue, row.tone == Tone::Baseline);
    }
    let end = lines(&mut drawing, &figure.notes, 12.0, Paint::Grey, bottom + 30.0);
    drawing.height = end + 18.0;
    drawing
}

/// Returns the scale: equal ratios equally far, with 1 and the margin always on it.
fn scale(figure: &RatiosFigure, places: (f64, f64)) -> Scale {
    let of = |row: &Ratio| {
        row.value.into_iter().chain(row.ends.map(|e| e.0)).chain(row.ends.map(|e| e.1))
    };
    let all = || figure.rows.iter().flat_map(of).filter(|value| *value > 0.0 && value.is_finite());
    let band = 1.0 + figure.margin.max(0.01);
    let (low, high) = (all().fold(1.0 / band, f64::min), all().fold(band, f64::max));
    let room = (high / low).powf(0.06);
    Scale { values: (low / room, high * room), places, log: true }
}

/// Returns a figure of made-up ratios, for tests.
#[cfg(test)]
pub(super) fn example(values: &[f64], name: impl Fn(usize) -> String) -> RatiosFigure {
    let tones = [Tone::Better, Tone::Worse, Tone::Same, Tone::Open];
    let row = |(at, &value): (usize, &f64)| Ratio {
        name: name(at),
        value: Some(value),
        ends: (at % 4 != 3).then_some((value * 0.95, value * 1.04)),
        shown: format!("{value:.3}×"),
        says: ["faster", "too close to call, this session only"][at % 2].to_owned(),
        tone: tones[at % tones.len()],
        whole: at % 6 == 0,
    };
    RatiosFigure {
        title: "kestrel, after the change".to_owned(),
        finding: "two of three are faster".to_owned(),
        how: "Speed after the change against before it. To the right is better.".to_owned(),
        rows: values.iter().enumerate().map(row).collect(),
        margin: 0.02,
        notes: vec!["What else differs: driver 1.4 → 1.5".to_owned()],
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_and_the_margin_are_always_on_the_axis() {
        let x = scale(&example(&[2.0, 4.0], |_| "a".into()), (0.0, 100.0));
        assert!(x.values.0 < 1.0 / 1.02 && x.values.1 > 4.16);
        assert!(x.place(1.0) > 0.0 && x.place(4.0) < 100.0);
        let svg = ratios(&example(&[2.0, 4.0], |_| "a".into()), 1280.0).for_page();
        assert!(svg.contains(">2.000×<") && svg.contains("What else differs"));
    }
}
