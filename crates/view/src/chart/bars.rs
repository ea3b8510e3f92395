//! Sorted bars: one measure of several, best on top, with intervals, ties and doubts.

use super::head::{answered, lines};
use super::rows::{Columns, Tone, Weight, label};
use crate::number::TimeUnit;
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across, across_times, number};
use honest_lap_draw::lanes;
use honest_lap_draw::{Drawing, Shape, Stroke};

/// One bar, or why there is none.
#[derive(Clone, Debug, PartialEq)]
pub struct Bar {
    /// What it is of, with the numbers of its doubts.
    pub name: String,
    /// Its value; `None` where there is none.
    pub value: Option<f64>,
    /// The ends of its interval.
    pub ends: Option<(f64, f64)>,
    /// Its value in words, with its unit.
    pub shown: String,
    /// What is said of it: its ratio and verdict, or why there is no bar.
    pub says: String,
    /// How it stands to the baseline.
    pub tone: Tone,
    /// Whether it opens a group of its own.
    pub opens: bool,
}

/// Sorted bars of one measure.
#[derive(Clone, Debug, PartialEq)]
pub struct BarsFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// What it shows, as it is drawn above the bars: a line each.
    pub answer: Vec<String>,
    /// How it is read: the measure, its unit, which way is better.
    pub how: String,
    /// The unit of the values; seconds are shown in what suits them.
    pub unit: String,
    /// Whether the values are seconds.
    pub time: bool,
    /// The bars, in order.
    pub bars: Vec<Bar>,
    /// Runs of bars that cannot be told apart: the first and last of each.
    pub ties: Vec<(usize, usize)>,
    /// Footnotes.
    pub notes: Vec<String>,
}

/// Values that differ by more than this factor stand as points on an axis of equal ratios: beside the
/// longest bar the shortest would be a hair.
const MOST_RATIO: f64 = 60.0;
const BAR: f64 = 18.0;
const LANE: f64 = 12.0;

/// Returns the figure, drawn `width` wide.
pub fn bars(figure: &BarsFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let lanes = lanes(&figure.ties);
    let log = is_wide(figure);
    let how = how(figure, log, !lanes.is_empty());
    let top = answered(&mut drawing, &figure.answer, &how) + 16.0;
    let words: Vec<[&str; 3]> =
        figure.bars.iter().map(|bar| [&*bar.name, &*bar.shown, &*bar.says]).collect();
    let beside = lanes.iter().map(|lane| lane.2 + 1).max().unwrap_or(0) as f64 * LANE;
    let columns = Columns::of(&words, width, beside);
    let mut y = top;
    let mut middles = Vec::new();
    for bar in &figure.bars {
        y += if bar.opens && !middles.is_empty() { 14.0 } else { 0.0 };
        middles.push(y + columns.row - columns.row_tail());
        y += columns.row;
    }
    let bottom = y + 4.0;
    let x = scale(figure, (columns.left, columns.right), log);
    let time = figure.time.then(|| TimeUnit::of(least(figure)));
    let tick = |value: f64| match time {
        Some(_) if log => in_own_unit(value),
        Some(unit) => format!("{} {}", number(unit.value(value)), unit.symbol),
        None if figure.unit.is_empty() => number(value),
        None => format!("{} {}", number(value), figure.unit),
    };
    match figure.time && log {
        true => across_times(&mut drawing, &x, (top, bottom), tick),
        false => across(&mut drawing, &x, (top, bottom), tick),
    }
    for (bar, &middle) in figure.bars.iter().zip(&middles) {
        let words = [&*bar.name, &*bar.shown, &*bar.says];
        label(&mut drawing, &columns, middle, words, bar.tone, Weight::Bold);
        draw(&mut drawing, bar, middle, &x, log);
    }
    if !log {
        drawing.line((columns.left, top), (columns.left, bottom), Stroke::line(Paint::Grey, 1.0));
    }
    for (first, last, lane) in lanes {
        let from = columns.right + 8.0 + lane as f64 * LANE;
        bracket(&mut drawing, from, middles[first] - 7.0, middles[last] + 7.0);
    }
    let end = lines(&mut drawing, &figure.notes, 12.0, Paint::Grey, bottom + 30.0);
    drawing.height = end + 18.0;
    drawing
}

/// Returns how the figure is read.
fn how(figure: &BarsFigure, log: bool, tied: bool) -> Vec<String> {
    let mut how = vec![figure.how.clone()];
    if log {
        how.push(
            "Points, and equal ratios equally far: the values differ too much for bars.".into(),
        );
    }
    if tied {
        how.push("A bracket joins those that the laps do not tell apart.".into());
    }
    vec![how.join(" ")]
}

fn values(figure: &BarsFigure) -> impl Iterator<Item = f64> {
    figure.bars.iter().filter_map(|bar| bar.value)
}

fn least(figure: &BarsFigure) -> f64 {
    let least = values(figure).filter(|value| *value > 0.0).fold(f64::INFINITY, f64::min);
    if least.is_finite() { least } else { 1.0 }
}

fn is_wide(figure: &BarsFigure) -> bool {
    values(figure).all(|value| value > 0.0)
        && values(figure).fold(0.0, f64::max) > least(figure) * MOST_RATIO
}

/// Returns the scale of the values: bars begin at nothing.
fn scale(figure: &BarsFigure, places: (f64, f64), log: bool) -> Scale {
    let ends = || figure.bars.iter().filter_map(|bar| bar.ends);
    let most = values(figure).chain(ends().map(|ends| ends.1)).fold(0.0, f64::max);
    let lowest = values(figure).chain(ends().map(|ends| ends.0)).fold(f64::INFINITY, f64::min);
    let values = match (log, most > 0.0) {
        (true, _) => (lowest.max(least(figure) / 10.0) / 1.3, most * 1.3),
        (false, true) => (lowest.min(0.0) * 1.05, most * 1.04),
        (false, false) => (lowest.min(0.0) * 1.05, 1.0),
    };
    Scale { values, places, log }
}

fn in_own_unit(seconds: f64) -> String {
    // A round value a hair below its unit is still of that unit.
    let unit = TimeUnit::of(seconds * 1.000_001);
    format!("{} {}", number(unit.value(seconds)), unit.symbol)
}

fn draw(drawing: &mut Drawing, bar: &Bar, middle: f64, x: &Scale, log: bool) {
    let Some(value) = bar.value else { return };
    let hollow = matches!(bar.tone, Tone::Baseline | Tone::Elsewhere);
    let hue = bar.tone.paint();
    let at = x.place(value);
    if log {
        drawing.mark((at, middle), Shape::disc(6.0), hue, hollow);
    } else {
        let from = x.place(0.0).min(at);
        let long = (x.place(0.0) - at).abs().max(1.0);
        match hollow {
            true => {
                let outline = Stroke::line(hue, 1.6);
                drawing.frame(from, middle - BAR / 2.0, long, BAR, outline);
            }
            false => drawing.rect(from, middle - BAR / 2.0, long, BAR, hue),
        }
    }
    if let Some((low, high)) = bar.ends {
        let (low, high) = (x.place(low), x.place(high));
        // A rim of paper keeps it apart from the bar that it lies on.
        drawing.whisker(low, high, middle, 5.0, Stroke::line(Paint::Paper, 4.0));
        drawing.whisker(low, high, middle, 5.0, Stroke::line(Paint::Ink, 1.6));
    }
}

/// Draws a bracket that is open to the left.
fn bracket(drawing: &mut Drawing, x: f64, top: f64, bottom: f64) {
    let points = [(x, top), (x + 6.0, top), (x + 6.0, bottom), (x, bottom)];
    drawing.curve(&points, Stroke::line(Paint::Ink, 1.4));
}

/// Returns a figure of made-up rigs, for tests.
#[cfg(test)]
pub(super) fn example(values: &[f64], name: impl Fn(usize) -> String) -> BarsFigure {
    let tones = [Tone::Baseline, Tone::Better, Tone::Worse, Tone::Same, Tone::Open];
    let bar = |(at, &value): (usize, &f64)| Bar {
        name: name(at),
        value: (at % 7 != 6).then_some(value),
        ends: (at % 7 != 6).then_some((value * 0.97, value * 1.03)),
        shown: if at % 7 == 6 { String::new() } else { in_own_unit((value * 1e3).round() / 1e3) },
        says: ["baseline", "1.234× faster, but within 2 %", "too close to call"][at % 3].to_owned(),
        tone: tones[at % tones.len()],
        opens: at % 5 == 4,
    };
    BarsFigure {
        title: "dome-still threads=2: One fisheye still of the winter sky".to_owned(),
        finding: "kestrel is faster".to_owned(),
        answer: vec![
            "Against heron: kestrel is faster; plover and wren are too close to call.".into(),
        ],
        how: "Typical with its 95 % interval. Shorter is better.".to_owned(),
        unit: "s".to_owned(),
        time: true,
        bars: values.iter().enumerate().map(bar).collect(),
        ties: (1..values.len()).step_by(2).map(|at| (at - 1, at)).collect(),
        notes: vec![
            "¹ Doubt, odd lap: lap heron-1.4 took 12 % longer. To resolve it: lap run.".into(),
        ],
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bars_begin_at_nothing_and_are_as_long_as_their_values() {
        let figure = example(&[10.0, 20.0], |at| format!("rig {at}"));
        let x = scale(&figure, (100.0, 500.0), false);
        assert_eq!(x.place(0.0), 100.0);
        assert!(((x.place(20.0) - 100.0) / (x.place(10.0) - 100.0) - 2.0).abs() < 1e-9);
        assert!(x.place(20.6) < 500.0, "the interval's end is inside");
        assert!(!is_wide(&figure));
    }

    #[test]
    fn values_that_differ_too_much_are_points() {
        let figure = example(&[0.001, 3600.0], |at| format!("rig {at}"));
        assert!(is_wide(&figure));
        let svg = bars(&figure, 1280.0).for_page();
        assert!(svg.contains("equal ratios equally far") && svg.contains(">1 s<"), "{svg}");
        // Nothing is no ratio, so it stays a bar of no length.
        assert!(!is_wide(&example(&[0.0, 3600.0], |at| format!("rig {at}"))));
    }

    #[test]
    fn a_bar_says_its_name_value_and_verdict_and_ties_are_told() {
        let svg =
            bars(&example(&[10.0, 20.0, 21.0], |at| format!("rig {at} ¹")), 1280.0).for_page();
        for words in [">rig 0 ¹<", ">10 s<", ">baseline<", "do not tell apart", "Doubt, odd lap"] {
            assert!(svg.contains(words), "{words}");
        }
        let none = BarsFigure { bars: Vec::new(), ..example(&[], |_| String::new()) };
        assert!(bars(&none, 400.0).height > 0.0);
    }
}
