//! A rate over a numeric setting, a curve for each rig, with what each could do at most on paper.

use super::head::answered;
use super::tail::spread;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across_at, number, upward};
use honest_lap_draw::{Drawing, Stroke, Type};
use honest_lap_draw::{Paint, curve};
use std::slice;

/// The rate with one value of the setting.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Swept {
    /// The setting.
    pub at: f64,
    /// The rate.
    pub rate: f64,
    /// The ends of its interval.
    pub ends: Option<(f64, f64)>,
}

/// A rig as a curve.
#[derive(Clone, Debug, PartialEq)]
pub struct SweepCurve {
    /// Whose it is.
    pub name: String,
    /// Its rates, the setting ascending.
    pub points: Vec<Swept>,
    /// What it could do at most, by a document.
    pub peak: Option<f64>,
}

/// A workload's rate over a setting.
#[derive(Clone, Debug, PartialEq)]
pub struct SweepFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// The setting.
    pub setting: String,
    /// The unit of the rates.
    pub unit: String,
    /// The curves.
    pub curves: Vec<SweepCurve>,
}

const HEIGHT: f64 = 640.0;
const LEFT: f64 = 92.0;
const BOTTOM: f64 = 64.0;
/// Room for the names of curves, as a share of the width and at most.
const NAMES: (f64, f64) = (0.3, 230.0);
const APART: f64 = 19.0;
/// What spans more than this is drawn in equal ratios.
const RATIOS: f64 = 8.0;

/// Returns the figure, drawn `width` wide.
pub fn sweep(figure: &SweepFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let peaks = figure.curves.iter().any(|curve| curve.peak.is_some());
    let paper = match peaks {
        true => " Dotted, by documents and not by laps: what each rig could do at most.",
        false => "",
    };
    let how = format!(
        "The rate over {}, a curve for each rig with 95 % intervals; higher is better.{paper}",
        figure.setting
    );
    let top = answered(&mut drawing, slice::from_ref(&figure.finding), &[how]) + 30.0;
    drawing.height = HEIGHT.max(top + 380.0);
    let right = width - (NAMES.0 * width).min(NAMES.1);
    let points = || figure.curves.iter().flat_map(|curve| &curve.points);
    let x = scale(points().map(|point| point.at), (LEFT, right), 0.0);
    let ends = points().flat_map(|point| {
        let (low, high) = point.ends.unwrap_or((point.rate, point.rate));
        [low, high]
    });
    let rates = ends.chain(figure.curves.iter().filter_map(|curve| curve.peak));
    let y = scale(rates, (drawing.height - BOTTOM, top), 0.06);
    let (bottom, floor) = (y.places.0, x.places.0);
    upward(&mut drawing, &y, (floor, right), number);
    let mut swept: Vec<f64> = points().map(|point| point.at).collect();
    swept.sort_by(f64::total_cmp);
    swept.dedup();
    across_at(&mut drawing, &x, (top, bottom), swept, number);
    let small = Type::small(13.0);
    drawing.text((28.0, top - 12.0), small, &small.fitted(&figure.unit, right - 28.0));
    drawing.text((floor, bottom + 42.0), small, &small.fitted(&figure.setting, right - floor));
    let mut labels: Vec<(f64, usize, bool)> = Vec::new();
    for (place, swept) in figure.curves.iter().enumerate() {
        let (hue, dashes) = curve(place);
        let spots: Vec<(f64, f64)> =
            swept.points.iter().map(|point| (x.place(point.at), y.place(point.rate))).collect();
        drawing.curve(&spots, Stroke { hue, width: 1.8, dashes });
        for (point, spot) in swept.points.iter().zip(&spots) {
            if let Some((low, high)) = point.ends {
                drawing.line(
                    (spot.0, y.place(low)),
                    (spot.0, y.place(high)),
                    Stroke::line(hue, 1.4),
                );
            }
            drawing.mark(*spot, honest_lap_draw::Shape::disc(3.5), hue, false);
        }
        labels.extend(spots.last().map(|spot| (spot.1, place, false)));
        if let Some(peak) = swept.peak {
            let at = y.place(peak);
            drawing.line((floor, at), (right, at), Stroke { hue, width: 1.6, dashes: "1 5" });
            labels.push((at, place, true));
        }
    }
    let places = spread(&labels.iter().map(|label| label.0).collect::<Vec<_>>(), APART);
    for ((_, place, on_paper), at) in labels.into_iter().zip(places) {
        let (hue, dashes) = curve(place);
        let dashes = if on_paper { "1 5" } else { dashes };
        let from = right + 10.0;
        drawing.line((from, at - 4.0), (from + 26.0, at - 4.0), Stroke { hue, width: 2.4, dashes });
        let set = if on_paper { Type::small(13.0) } else { Type::name(14.0) };
        let name = &figure.curves[place].name;
        let words = if on_paper { format!("on paper, {name}") } else { name.clone() };
        drawing.text((from + 33.0, at), set, &set.fitted(&words, width - from - 39.0));
        drawing.height = drawing.height.max(at + 24.0);
    }
    drawing.line((floor, bottom), (right, bottom), Stroke::line(Paint::Grey, 1.0));
    drawing
}

/// Returns the scale of `values`: in equal ratios where they span much, from 0 where they do not.
fn scale(values: impl Iterator<Item = f64>, places: (f64, f64), room: f64) -> Scale {
    let known = values.filter(|value| value.is_finite());
    let ends = known.fold(None, |ends: Option<(f64, f64)>, value| {
        Some(ends.map_or((value, value), |(low, high)| (low.min(value), high.max(value))))
    });
    let (low, high) = ends.unwrap_or((0.0, 1.0));
    let log = low > 0.0 && high > RATIOS * low;
    let values = match log {
        true => (low * (1.0 - room), high * (1.0 + room)),
        false if room > 0.0 => (low.min(0.0), high.max(f64::MIN_POSITIVE) * (1.0 + room)),
        false => (low, high),
    };
    Scale { values, places, log }
}

/// Returns a figure of made-up rigs, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> SweepFigure {
    let rig = |(at, name): (usize, &String)| {
        let peak = 400.0 * (1.0 + at as f64);
        let point = |size: u32| {
            let rate = peak * 0.8 * f64::from(size) / (f64::from(size) + 300.0);
            Swept { at: f64::from(size), rate, ends: Some((rate * 0.97, rate * 1.03)) }
        };
        let points = [64, 128, 256, 512, 1024, 2048].map(point).to_vec();
        SweepCurve { name: name.clone(), points, peak: (at % 2 == 0).then_some(peak) }
    };
    SweepFigure {
        title: "orbit-solve: the rate over n".into(),
        finding: "kestrel reaches 70 % of its paper peak with n=2048".into(),
        setting: "n".into(),
        unit: "GFLOP/s".into(),
        curves: rigs.iter().enumerate().map(rig).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    #[test]
    fn a_curve_for_each_rig_and_a_dotted_line_for_each_paper_peak() {
        let names = ["heron".to_owned(), "kestrel".to_owned(), "plover".to_owned()];
        let drawn = sweep(&example(&names), 1280.0);
        let dotted = |item: &&Item| matches!(item, Item::Curve { stroke, .. } if stroke.dashes == "1 5" && stroke.width < 2.0);
        assert_eq!(drawn.items.iter().filter(dotted).count(), 2);
        let text = drawn.for_page();
        assert!(text.contains("on paper, heron") && text.contains("by documents and not by laps"));
        let none: Vec<SweepCurve> = Vec::new();
        assert!(
            sweep(&SweepFigure { curves: none, ..example(&names) }, 420.0)
                .for_page()
                .contains("<svg")
        );
    }

    #[test]
    fn what_spans_much_is_drawn_in_equal_ratios_and_the_rest_from_nothing() {
        let wide = scale([1.0, 2000.0].into_iter(), (0.0, 100.0), 0.0);
        assert!(wide.log && (wide.place(2000_f64.sqrt()) - 50.0).abs() < 1e-9);
        let near = scale([20.0, 30.0].into_iter(), (0.0, 100.0), 0.1);
        assert!(!near.log && near.values.0 == 0.0);
    }
}
