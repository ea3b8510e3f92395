//! Work over price: which machines no other beats on both.

use super::palette::{CLAY, GREY, INK, LAKE, MIST, PAPER};
use super::passes::number;
use super::scale::{Scale, ticks};
use super::svg::{Anchor, Stroke, Svg, Type};

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
    /// Its price.
    pub price: f64,
    /// Its work, as a ratio to the baseline's.
    pub work: f64,
    /// The ends of its interval; the baseline has none.
    pub ends: Option<(f64, f64)>,
    /// How it stands.
    pub stands: Stands,
}

/// Work over price.
#[derive(Clone, Debug, PartialEq)]
pub struct WorthFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// The unit of money.
    pub money: String,
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

/// Returns the figure as SVG.
pub fn worth(figure: &WorthFigure) -> String {
    let mut svg = Svg::new(WIDTH, HEIGHT);
    let small = Type { size: 13.0, bold: false, fill: GREY, anchor: Anchor::Start };
    svg.text((28.0, 38.0), Type { size: 22.0, bold: true, fill: INK, ..small }, &figure.title);
    let words = format!(
        "Work against {}, over price. Up is more work, left is less money. Bars are 95 % intervals; \
         the baseline, drawn hollow, has none.",
        figure.baseline
    );
    svg.text((28.0, 60.0), small, &words);
    let (x, y) = scales(figure);
    axes(&mut svg, figure, (x, y));
    let mut edge: Vec<(f64, f64)> = figure
        .rigs
        .iter()
        .filter(|rig| rig.stands == Stands::Edge)
        .map(|rig| (x.place(rig.price), y.place(rig.work)))
        .collect();
    edge.sort_by(|a, b| a.0.total_cmp(&b.0));
    svg.curve(&stairs(&edge), Stroke { hue: LAKE, width: 1.6, dashes: "7 3" });
    for rig in &figure.rigs {
        let at = (x.place(rig.price), y.place(rig.work));
        let hue = hue(rig.stands);
        if let Some((low, high)) = rig.ends {
            let stroke = Stroke { hue, width: 2.0, dashes: "" };
            svg.line((at.0, y.place(low)), (at.0, y.place(high)), stroke);
            for end in [low, high] {
                let end = y.place(end);
                svg.line((at.0 - 6.0, end), (at.0 + 6.0, end), stroke);
            }
        }
        mark(&mut svg, at, rig.stands, rig.rig == figure.baseline);
        let name = Type { size: 15.0, bold: true, fill: INK, anchor: Anchor::Start };
        // Above the edge, which runs on to the right of its machines.
        svg.text((at.0 + 13.0, at.1 - 11.0), name, &rig.rig);
    }
    legend(&mut svg, small);
    svg.finish(&figure.title, &figure.finding)
}

/// Returns the scales of price and work, with room around what is drawn.
fn scales(figure: &WorthFigure) -> (Scale, Scale) {
    let range = |values: &mut dyn Iterator<Item = f64>| {
        let (low, high) =
            values.fold((f64::INFINITY, 0.0f64), |(low, high), v| (low.min(v), high.max(v)));
        let room = 0.12 * (high - low).max(0.1 * high);
        ((low - room).max(0.0), high + room)
    };
    let prices = range(&mut figure.rigs.iter().map(|rig| rig.price));
    let of_rig = |rig: &Worth| rig.ends.map_or([rig.work; 2], |(low, high)| [low, high]);
    let work = range(&mut figure.rigs.iter().flat_map(of_rig));
    (
        Scale { values: prices, places: (LEFT, WIDTH - RIGHT), log: false },
        Scale { values: work, places: (HEIGHT - BOTTOM, TOP), log: false },
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

fn hue(stands: Stands) -> &'static str {
    match stands {
        Stands::Edge => LAKE,
        Stands::Open => GREY,
        Stands::Beaten => CLAY,
    }
}

/// Draws a disc for the edge, a diamond for what is open, a square for what is beaten.
fn mark(svg: &mut Svg, (x, y): (f64, f64), stands: Stands, hollow: bool) {
    let (corners, turn, size) = match stands {
        Stands::Edge => (32, 0.0, MARK),
        Stands::Open => (4, 0.0, MARK * 1.25),
        Stands::Beaten => (4, 0.125, MARK * 1.2),
    };
    let corner = |n: u32| {
        let angle = std::f64::consts::TAU * (f64::from(n) / f64::from(corners) + turn);
        (x + size * angle.cos(), y + size * angle.sin())
    };
    let mut outline: Vec<(f64, f64)> = (0..corners).map(corner).collect();
    svg.area(&outline, if hollow { PAPER } else { hue(stands) }, 1.0);
    outline.extend([corner(0), corner(1)]);
    svg.curve(&outline, Stroke { hue: hue(stands), width: 2.2, dashes: "" });
}

fn axes(svg: &mut Svg, figure: &WorthFigure, (x, y): (Scale, Scale)) {
    let (left, right) = x.places;
    let (bottom, top) = y.places;
    let grid = Stroke { hue: MIST, width: 1.0, dashes: "" };
    let end = Type { size: 13.0, bold: false, fill: GREY, anchor: Anchor::End };
    let middle = Type { anchor: Anchor::Middle, ..end };
    for tick in ticks(y.values.0, y.values.1, false, 10) {
        let at = y.place(tick);
        svg.line((left, at), (right, at), grid);
        svg.text((left - 8.0, at + 4.5), end, &format!("{}×", number(tick)));
    }
    for tick in ticks(x.values.0, x.values.1, false, 10) {
        let at = x.place(tick);
        svg.line((at, top), (at, bottom), grid);
        svg.text((at, bottom + 20.0), middle, &number(tick));
    }
    svg.line((left, bottom), (right, bottom), Stroke { hue: GREY, width: 1.0, dashes: "" });
    let words = format!("price, {}", figure.money);
    svg.text((f64::midpoint(left, right), bottom + 44.0), middle, &words);
}

fn legend(svg: &mut Svg, small: Type) {
    let kinds = [
        (Stands::Edge, "no other costs as little and does as much"),
        (Stands::Open, "another costs less, and may do as much"),
        (Stands::Beaten, "another costs no more and does as much or more"),
    ];
    let mut from = LEFT;
    for (stands, words) in kinds {
        mark(svg, (from, HEIGHT - 32.0), stands, false);
        svg.text((from + 18.0, HEIGHT - 27.5), small, words);
        from += 360.0;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn figure() -> WorthFigure {
        let rig = |rig: &str, price, work, stands| Worth {
            rig: rig.to_owned(),
            price,
            work,
            ends: (rig != "heron").then_some((work * 0.98, work * 1.02)),
            stands,
        };
        WorthFigure {
            title: "Work for money".into(),
            finding: "kestrel and wren stand on the edge".into(),
            money: "EUR".into(),
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
        let (x, y) = scales(&figure());
        assert!(y.place(1.25) < y.place(1.0) && x.place(980.0) < x.place(1450.0));
        assert!(x.values.0 < 980.0 && x.values.1 > 2380.0 && y.values.1 > 1.275);
        let svg = worth(&figure());
        assert!(svg.contains(">kestrel<") && svg.contains("price, EUR"));
    }

    #[test]
    fn the_edge_is_drawn_as_stairs() {
        assert_eq!(stairs(&[(0.0, 9.0), (5.0, 4.0)]), [(0.0, 9.0), (5.0, 9.0), (5.0, 4.0)]);
    }
}
