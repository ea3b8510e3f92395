//! The distribution of frame times: frame time over the share of frames that are slower.

use super::head::head;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across, number, upward};
use honest_lap_draw::{Anchor, Drawing, Stroke, Type};
use honest_lap_draw::{Paint, curve};

/// A pass as a curve.
#[derive(Clone, Debug, PartialEq)]
pub struct TailCurve {
    /// Its rig: curves of one rig look alike.
    pub rig: String,
    /// Share of frames that are as slow or slower, and their time in milliseconds; shares descend.
    pub points: Vec<(f64, f64)>,
}

/// Curves of one workload.
#[derive(Clone, Debug, PartialEq)]
pub struct TailFigure {
    /// The workload.
    pub title: String,
    /// What the figure shows, in a sentence.
    pub finding: String,
    /// The display's rate in Hz and the budget of a frame in milliseconds, where one is stated.
    pub display: Option<(f64, f64)>,
    /// The curves.
    pub curves: Vec<TailCurve>,
}

/// How many points of a curve a figure can show.
pub const POINTS: usize = 400;

const WIDTH: f64 = 1280.0;
const HEIGHT: f64 = 800.0;
const LEFT: f64 = 78.0;
/// Room for the names of curves.
const RIGHT: f64 = 180.0;
const TOP: f64 = 92.0;
const BOTTOM: f64 = 78.0;
/// Names of curves are this far apart, at least.
const APART: f64 = 19.0;

/// Returns the figure, drawn.
pub fn tail(figure: &TailFigure) -> Drawing {
    let mut drawing = Drawing::new(WIDTH, &figure.title, &figure.finding);
    drawing.height = HEIGHT;
    let words = "Frame time over the share of frames that take as long or longer: to the right the \
                 slowest. Lower is better. A curve for each pass; both axes in equal ratios.";
    let top = (head(&mut drawing, &[words.to_owned()]) + 30.0).max(TOP);
    let points = || figure.curves.iter().flat_map(|curve| &curve.points);
    let least_share = points().map(|point| point.0).fold(0.5, f64::min);
    let budget = figure.display.map(|(_, budget)| budget);
    let times = || points().map(|point| point.1).chain(budget);
    let (least, most) = (times().fold(f64::INFINITY, f64::min), times().fold(0.0, f64::max));
    let x = Scale { values: (1.0, least_share), places: (LEFT, WIDTH - RIGHT), log: true };
    let y =
        Scale { values: (least * 0.92, most * 1.08), places: (HEIGHT - BOTTOM, top), log: true };
    axes(&mut drawing, (x, y), figure.display);
    let mut rigs: Vec<&str> = figure.curves.iter().map(|curve| curve.rig.as_str()).collect();
    rigs.dedup();
    for passed in &figure.curves {
        let place = rigs.iter().position(|rig| *rig == passed.rig).unwrap_or(0);
        let (hue, dashes) = curve(place);
        let line: Vec<(f64, f64)> =
            passed.points.iter().map(|&(share, time)| (x.place(share), y.place(time))).collect();
        drawing.curve(&line, Stroke { hue, width: 1.8, dashes });
    }
    let mut ends: Vec<f64> = rigs.iter().map(|rig| y.place(end(figure, rig))).collect();
    // The budget's label is one more that must find its place.
    ends.extend(budget.map(|budget| y.place(budget)));
    let places = spread(&ends, APART);
    let lowest = places.iter().copied().fold(0.0, f64::max);
    if let (Some((hz, budget)), Some(at)) = (figure.display, places.last()) {
        let set = Type { fill: Paint::BrassInk, ..Type::small(13.0) };
        let words = format!("{budget:.1} ms, {hz} Hz");
        drawing.text((WIDTH - RIGHT + 10.0, at + 1.0), set, &words);
    }
    for ((rig, at), place) in rigs.iter().zip(places).zip(0..) {
        let (hue, dashes) = curve(place);
        let from = WIDTH - RIGHT + 10.0;
        drawing.line((from, at - 4.0), (from + 26.0, at - 4.0), Stroke { hue, width: 2.4, dashes });
        let name = Type::name(14.0);
        drawing.text((from + 33.0, at), name, &name.fitted(rig, WIDTH - from - 39.0));
    }
    // Of many rigs the names run on below the axis.
    drawing.height = drawing.height.max(lowest + 24.0);
    drawing
}

/// Returns the highest end of a rig's curves.
fn end(figure: &TailFigure, rig: &str) -> f64 {
    let of = figure.curves.iter().filter(|curve| curve.rig == rig);
    of.filter_map(|curve| curve.points.last()).map(|point| point.1).fold(0.0, f64::max)
}

/// Returns `places` moved so that no two are nearer than `apart`, each as little as may be.
pub(super) fn spread(places: &[f64], apart: f64) -> Vec<f64> {
    let mut order: Vec<usize> = (0..places.len()).collect();
    order.sort_by(|&a, &b| places[a].total_cmp(&places[b]));
    let mut moved = places.to_vec();
    for pair in 1..order.len() {
        let (above, below) = (order[pair - 1], order[pair]);
        moved[below] = moved[below].max(moved[above] + apart);
    }
    moved
}

fn axes(drawing: &mut Drawing, (x, y): (Scale, Scale), display: Option<(f64, f64)>) {
    let (left, right) = x.places;
    let (bottom, top) = y.places;
    let small = Type::small(13.0).anchored(Anchor::End);
    upward(drawing, &y, (left, right), number);
    drawing.text((left - 8.0, top - 12.0), small, "ms");
    let middle = small.anchored(Anchor::Middle);
    across(drawing, &x, (top, bottom), |share| format!("{} %", number(share * 100.0)));
    for (share, name) in [(0.01, "low 1%"), (0.001, "low 0.1%")] {
        if share > x.values.1 {
            let at = x.place(share);
            drawing.line(
                (at, top),
                (at, bottom),
                Stroke { hue: Paint::Grey, width: 1.2, dashes: "2 3" },
            );
            drawing.text((at, top - 8.0), middle, name);
        }
    }
    if let Some((_, budget)) = display {
        let at = y.place(budget);
        drawing.line(
            (left, at),
            (right, at),
            Stroke { hue: Paint::Brass, width: 1.6, dashes: "6 4" },
        );
    }
    drawing.line(
        (left, bottom),
        (right, bottom),
        Stroke { hue: Paint::Grey, width: 1.0, dashes: "" },
    );
    let words = "share of frames that take as long or longer";
    drawing.text((f64::midpoint(left, right), bottom + 46.0), middle, words);
}

/// Returns a figure of made-up passes, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> TailFigure {
    let curve = |(at, rig): (usize, &String)| {
        let ms = 14.0 + 0.2 * at as f64;
        let points = vec![(1.0, ms * 0.9), (0.1, ms), (0.01, ms * 1.5), (0.0003, ms * 4.0)];
        TailCurve { rig: rig.clone(), points }
    };
    TailFigure {
        title: "fly-through: how slow the slowest frames are".into(),
        finding: "heron has the longest".into(),
        display: Some((60.0, 16.67)),
        curves: rigs.iter().enumerate().map(curve).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_never_stand_on_one_another() {
        assert_eq!(spread(&[100.0, 103.0, 50.0, 101.0], 10.0), [100.0, 120.0, 50.0, 110.0]);
        assert_eq!(spread(&[], 10.0), Vec::<f64>::new());
    }

    #[test]
    fn every_rig_has_a_name_and_the_lows_are_marked() {
        let curve = |rig: &str, ms: f64| TailCurve {
            rig: rig.into(),
            points: vec![(1.0, ms * 0.9), (0.1, ms), (0.01, ms * 1.5), (0.0003, ms * 4.0)],
        };
        let figure = TailFigure {
            title: "fly-through".into(),
            finding: String::new(),
            display: Some((60.0, 16.67)),
            curves: vec![curve("heron", 14.0), curve("heron", 14.4), curve("wren", 23.0)],
        };
        let svg = tail(&figure).for_page();
        for words in [">heron<", ">wren<", ">low 1%<", ">low 0.1%<", ">0.1 %<", "16.7 ms, 60 Hz"] {
            assert_eq!(svg.matches(words).count(), 1, "{words}");
        }
    }
}
