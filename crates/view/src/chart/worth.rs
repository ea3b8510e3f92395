//! Work over what it takes, price or power: which machines no other beats on both.

use super::head::head;
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across, number, upward};
use honest_lap_draw::places;
use honest_lap_draw::{Anchor, Drawing, Shape, Stroke, Type};

/// How a machine stands among the others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stands {
    /// No other beats it.
    Edge,
    /// Another may.
    Open,
    /// Another does.
    Beaten,
}

/// A machine in the figure.
#[derive(Clone, Debug, PartialEq)]
pub struct Worth {
    /// Its name.
    pub rig: String,
    /// What it takes: its price, or its power.
    pub takes: f64,
    /// Its work, as a ratio to the baseline's.
    pub work: f64,
    /// The ends of its interval; the baseline has none.
    pub ends: Option<(f64, f64)>,
    /// How it stands.
    pub stands: Stands,
}

/// What work is held against.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Takes {
    /// Prices, in this unit of money.
    Price(String),
    /// Mean power, in watts.
    Power,
}

impl Takes {
    /// Returns the heading of its axis, what less of it is, and what a machine does with it.
    fn words(&self) -> (String, &'static str, &'static str) {
        match self {
            Self::Price(money) => (format!("price, {money}"), "less money", "costs"),
            Self::Power => ("mean power, W".to_owned(), "less power", "draws"),
        }
    }
}

/// Work over what it takes.
#[derive(Clone, Debug, PartialEq)]
pub struct WorthFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// What the work is held against.
    pub takes: Takes,
    /// The baseline's name.
    pub baseline: String,
    /// The machines.
    pub rigs: Vec<Worth>,
}

const WIDTH: f64 = 1280.0;
const HEIGHT: f64 = 800.0;
const LEFT: f64 = 86.0;
const RIGHT: f64 = 130.0;
const TOP: f64 = 104.0;
const BOTTOM: f64 = 118.0;
const MARK: f64 = 8.0;

/// Returns the figure, drawn.
pub fn worth(figure: &WorthFigure) -> Drawing {
    let mut drawing = Drawing::new(WIDTH, &figure.title, &figure.finding);
    drawing.height = HEIGHT;
    let (axis, less, does) = figure.takes.words();
    let words = format!(
        "Work against {}, over {axis}. Up is more work, left is {less}. Bars are 95 % intervals; \
         the baseline, drawn hollow, has none.",
        figure.baseline
    );
    let top = (head(&mut drawing, &[words]) + 24.0).max(TOP);
    let (x, y) = scales(figure, top);
    axes(&mut drawing, figure, (x, y));
    let mut edge: Vec<(f64, f64)> = figure
        .rigs
        .iter()
        .filter(|rig| rig.stands == Stands::Edge)
        .map(|rig| (x.place(rig.takes), y.place(rig.work)))
        .collect();
    edge.sort_by(|a, b| a.0.total_cmp(&b.0));
    drawing.curve(&stairs(&edge), Stroke { hue: Paint::Lake, width: 1.6, dashes: "7 3" });
    for rig in &figure.rigs {
        let at = (x.place(rig.takes), y.place(rig.work));
        let hue = hue(rig.stands);
        if let Some((low, high)) = rig.ends {
            let stroke = Stroke { hue, width: 2.0, dashes: "" };
            drawing.line((at.0, y.place(low)), (at.0, y.place(high)), stroke);
            for end in [low, high] {
                let end = y.place(end);
                drawing.line((at.0 - 6.0, end), (at.0 + 6.0, end), stroke);
            }
        }
        mark(&mut drawing, at, rig.stands, rig.rig == figure.baseline);
    }
    let name = Type::name(15.0);
    let names: Vec<String> = figure.rigs.iter().map(|rig| name.fitted(&rig.rig, 300.0)).collect();
    let points: Vec<(f64, f64)> =
        figure.rigs.iter().map(|rig| (x.place(rig.takes), y.place(rig.work))).collect();
    let widths: Vec<f64> = names.iter().map(|words| name.width(words)).collect();
    let bounds = (LEFT, top, WIDTH - 8.0, HEIGHT - BOTTOM);
    let spots = places(&points, &widths, 18.0, MARK, bounds);
    for (((left, above), words), point) in spots.into_iter().zip(&names).zip(points) {
        let (middle, far) = (above + 9.0, (above + 9.0 - point.1).abs());
        if far > 30.0 {
            let end = (left.max(point.0.min(left + name.width(words))), middle);
            drawing.line(point, end, Stroke::line(Paint::Grey, 0.8));
        }
        drawing.text((left, above + 14.0), name, words);
    }
    legend(&mut drawing, does);
    drawing
}

/// Returns the scales of what is taken and of work, with room around what is drawn.
fn scales(figure: &WorthFigure, top: f64) -> (Scale, Scale) {
    let range = |values: &mut dyn Iterator<Item = f64>| {
        let (low, high) =
            values.fold((f64::INFINITY, 0.0f64), |(low, high), v| (low.min(v), high.max(v)));
        let room = 0.12 * (high - low).max(0.1 * high);
        ((low - room).max(0.0), high + room)
    };
    let taken = range(&mut figure.rigs.iter().map(|rig| rig.takes));
    let of_rig = |rig: &Worth| rig.ends.map_or([rig.work; 2], |(low, high)| [low, high]);
    let work = range(&mut figure.rigs.iter().flat_map(of_rig));
    (
        Scale { values: taken, places: (LEFT, WIDTH - RIGHT), log: false },
        Scale { values: work, places: (HEIGHT - BOTTOM, top), log: false },
    )
}

/// Returns the edge as steps: between two of its machines the cheaper one is all there is.
fn stairs(edge: &[(f64, f64)]) -> Vec<(f64, f64)> {
    let mut line: Vec<(f64, f64)> = Vec::new();
    for &(x, y) in edge {
        if let Some(&(_, before)) = line.last() {
            line.push((x, before));
        }
        line.push((x, y));
    }
    line
}

fn hue(stands: Stands) -> Paint {
    match stands {
        Stands::Edge => Paint::Lake,
        Stands::Open => Paint::Grey,
        Stands::Beaten => Paint::Clay,
    }
}

/// Draws a disc for the edge, a diamond for what is open, a square for what is beaten.
fn mark(drawing: &mut Drawing, at: (f64, f64), stands: Stands, hollow: bool) {
    let shape = match stands {
        Stands::Edge => Shape::disc(MARK),
        Stands::Open => Shape::diamond(MARK),
        Stands::Beaten => Shape::square(MARK),
    };
    drawing.mark(at, shape, hue(stands), hollow);
}

fn axes(drawing: &mut Drawing, figure: &WorthFigure, (x, y): (Scale, Scale)) {
    let (left, right) = x.places;
    let (bottom, top) = y.places;
    let middle = Type::small(13.0).anchored(Anchor::Middle);
    upward(drawing, &y, (left, right), |ratio| format!("{}×", number(ratio)));
    across(drawing, &x, (top, bottom), number);
    drawing.line(
        (left, bottom),
        (right, bottom),
        Stroke { hue: Paint::Grey, width: 1.0, dashes: "" },
    );
    let words = figure.takes.words().0;
    drawing.text((f64::midpoint(left, right), bottom + 44.0), middle, &words);
}

fn legend(drawing: &mut Drawing, does: &str) {
    let kinds = [
        (Stands::Edge, format!("no other {does} as little and does as much")),
        (Stands::Open, format!("another {does} less, and may do as much")),
        (Stands::Beaten, format!("another {does} no more and does as much or more")),
    ];
    let mut from = LEFT;
    for (stands, words) in kinds {
        mark(drawing, (from, HEIGHT - 32.0), stands, false);
        drawing.text((from + 18.0, HEIGHT - 27.5), Type::small(13.0), &words);
        from += 360.0;
    }
}

/// Returns a figure of made-up rigs, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> WorthFigure {
    let rig = |(at, name): (usize, &String)| {
        let work = 1.0 + 0.07 * (at % 5) as f64;
        Worth {
            rig: name.clone(),
            takes: 1000.0 + 90.0 * (at / 3) as f64,
            work,
            ends: (at > 0).then_some((work * 0.98, work * 1.02)),
            stands: [Stands::Beaten, Stands::Edge, Stands::Open][at % 3],
        }
    };
    WorthFigure {
        title: "A new machine for the dome: work over price".into(),
        finding: "two stand on the edge".into(),
        takes: Takes::Price("EUR".into()),
        baseline: rigs[0].clone(),
        rigs: rigs.iter().enumerate().map(rig).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn figure() -> WorthFigure {
        let rig = |rig: &str, takes, work, stands| Worth {
            rig: rig.to_owned(),
            takes,
            work,
            ends: (rig != "heron").then_some((work * 0.98, work * 1.02)),
            stands,
        };
        WorthFigure {
            title: "Work for money".into(),
            finding: "kestrel and wren stand on the edge".into(),
            takes: Takes::Price("EUR".into()),
            baseline: "heron".into(),
            rigs: vec![
                rig("heron", 1450.0, 1.0, Stands::Beaten),
                rig("kestrel", 2380.0, 1.25, Stands::Edge),
                rig("wren", 980.0, 0.7, Stands::Edge),
            ],
        }
    }

    #[test]
    fn everything_lies_within_the_axes_and_more_work_is_higher() {
        let (x, y) = scales(&figure(), TOP);
        assert!(y.place(1.25) < y.place(1.0) && x.place(980.0) < x.place(1450.0));
        assert!(x.values.0 < 980.0 && x.values.1 > 2380.0 && y.values.1 > 1.275);
        let svg = worth(&figure()).for_page();
        assert!(svg.contains(">kestrel<") && svg.contains("price, EUR") && svg.contains("costs"));
        let svg = worth(&WorthFigure { takes: Takes::Power, ..figure() }).for_page();
        assert!(svg.contains("mean power, W") && svg.contains("draws") && !svg.contains("costs"));
    }

    #[test]
    fn the_edge_is_drawn_as_stairs() {
        assert_eq!(stairs(&[(0.0, 9.0), (5.0, 4.0)]), [(0.0, 9.0), (5.0, 9.0), (5.0, 4.0)]);
    }
}
