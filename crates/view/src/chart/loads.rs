//! Loads and what came of them: the share of laps that held at each, and where half of them would.

use super::head::answered;
use honest_lap_draw::MARGIN;
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{across, across_at, number};
use honest_lap_draw::{Drawing, Shape, Stroke, Type};
use std::slice;

/// What came of the laps at a load.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LoadTried {
    /// The load.
    pub load: f64,
    /// Share of its laps that held.
    pub held: f64,
    /// Share of its laps that broke; the rest was strained.
    pub broke: f64,
}

/// The searches of a rig, or of a variant on it.
#[derive(Clone, Debug, PartialEq)]
pub struct LoadLane {
    /// Whose they are.
    pub name: String,
    /// What they come to, in words.
    pub says: String,
    /// The loads that were tried.
    pub tried: Vec<LoadTried>,
    /// Where half of the laps would hold, with the ends of its interval: one a search.
    pub edges: Vec<(f64, (f64, f64))>,
}

/// The searches of a workload.
#[derive(Clone, Debug, PartialEq)]
pub struct LoadsFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// What loads count.
    pub unit: String,
    /// The names of the loads, counted from 1, where they have names.
    pub steps: Vec<String>,
    /// The lanes, on one scale.
    pub lanes: Vec<LoadLane>,
}

/// Height of a lane's bars, and of an edge below them.
const BARS: f64 = 54.0;
const EDGE: f64 = 14.0;
/// Room for a lane's name, and between lanes.
const HEAD: f64 = 24.0;
const APART: f64 = 14.0;
/// How far beyond the outermost ends loads are shown, as a share of what lies between.
const BESIDE: f64 = 0.12;

/// Returns the figure, drawn `width` wide.
pub fn loads(figure: &LoadsFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let how = "Each bar is a load: from the floor up the share of laps that held, from the ceiling down the share \
               that broke, strained ones framed between. Dots: where half of the laps would hold, with 95 % \
               intervals, one a search. To the right is more. Loads far off the edge are left out."
        .to_owned();
    let finding = slice::from_ref(&figure.finding);
    let mut y = answered(&mut drawing, finding, slice::from_ref(&how)) + 12.0;
    let (left, right) = (MARGIN, width - MARGIN);
    let x = Scale { values: range(figure), places: (left + 4.0, right - 4.0), log: false };
    let high = |lane: &LoadLane| HEAD + BARS + 6.0 + EDGE * lane.edges.len() as f64 + APART;
    let bottom = y + figure.lanes.iter().map(high).sum::<f64>();
    // Ahead of the bars, which stand on its lines.
    match figure.steps.len() {
        0 => across(&mut drawing, &x, (y, bottom), number),
        steps => {
            let places = (1..=steps).map(|step| step as f64).collect();
            let name = |place: f64| figure.steps[place as usize - 1].clone();
            across_at(&mut drawing, &x, (y, bottom), places, name);
        }
    }
    for lane in &figure.lanes {
        let name = Type::name(14.0);
        let words = name.fitted(&lane.name, (right - left) / 2.0);
        drawing.text((left, y + 14.0), name, &words);
        let says = Type::small(13.0);
        let from = left + name.width(&words) + 14.0;
        drawing.text((from, y + 14.0), says, &says.fitted(&lane.says, right - from));
        y += HEAD;
        bars(&mut drawing, lane, &x, y);
        y += BARS + 6.0;
        for (at, (low, high)) in &lane.edges {
            let within = |value: f64| x.place(value.clamp(x.values.0, x.values.1));
            let stroke = Stroke::line(Paint::Lake, 2.0);
            drawing.whisker(within(*low), within(*high), y + EDGE / 2.0, 4.0, stroke);
            drawing.mark((within(*at), y + EDGE / 2.0), Shape::disc(4.0), Paint::Lake, false);
            y += EDGE;
        }
        y += APART;
    }
    let unit = Type::small(13.0);
    drawing.text((left, y + 44.0), unit, &unit.fitted(&figure.unit, right - left));
    drawing.height = y + 58.0;
    drawing
}

/// Returns the loads that are shown: about every edge.
fn range(figure: &LoadsFigure) -> (f64, f64) {
    let ends = || figure.lanes.iter().flat_map(|lane| &lane.edges).map(|(_, ends)| *ends);
    let (low, high) = ends().fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), (from, to)| {
        (low.min(from), high.max(to))
    });
    if !figure.steps.is_empty() {
        return (0.5, figure.steps.len() as f64 + 0.5);
    }
    if low > high {
        return (0.0, 1.0);
    }
    let room = (BESIDE * (high - low)).max(4.0);
    ((low - room).max(0.0), high + room)
}

fn bars(drawing: &mut Drawing, lane: &LoadLane, x: &Scale, top: f64) {
    let shown = |tried: &&LoadTried| (x.values.0..=x.values.1).contains(&tried.load);
    let mut loads: Vec<f64> = lane.tried.iter().filter(shown).map(|tried| tried.load).collect();
    loads.sort_by(f64::total_cmp);
    let gaps = loads.windows(2).map(|pair| x.place(pair[1]) - x.place(pair[0]));
    let wide = (gaps.fold(18.0, f64::min) - 1.5).clamp(1.5, 14.0);
    // Part by part of all bars, which do not touch each other: what is drawn alike is written down once.
    let of = |tried: &LoadTried| {
        (x.place(tried.load) - wide / 2.0, BARS * tried.held, BARS * tried.broke)
    };
    let all: Vec<(f64, f64, f64)> = lane.tried.iter().filter(shown).map(of).collect();
    for &(from, ..) in &all {
        drawing.frame(from, top, wide, BARS, Stroke::line(Paint::Mist, 1.0));
    }
    for &(from, held, broke) in &all {
        let strained = BARS - held - broke;
        if strained > 0.5 {
            drawing.frame(from, top + broke, wide, strained, Stroke::line(Paint::Brass, 1.2));
        }
    }
    for &(from, held, _) in all.iter().filter(|(_, held, _)| *held > 0.0) {
        drawing.rect(from, top + BARS - held, wide, held, Paint::Moss);
    }
    for &(from, _, broke) in all.iter().filter(|(.., broke)| *broke > 0.0) {
        drawing.rect(from, top, wide, broke, Paint::Clay);
    }
    let floor = top + BARS;
    drawing.line((x.places.0, floor), (x.places.1, floor), Stroke::line(Paint::Grey, 1.0));
}

/// Returns a figure of made-up searches, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> LoadsFigure {
    let lane = |(at, name): (usize, &String)| {
        let edge = 40.0 + 31.0 * at as f64;
        let tried = |step: i32| {
            let held = 1.0 / (1.0 + f64::exp(f64::from(step) / 3.0));
            let broke = if step > 3 { 1.0 - held } else { 0.0 };
            LoadTried { load: edge + f64::from(step), held, broke }
        };
        LoadLane {
            name: name.clone(),
            says: format!("{edge:.1} layers, from 3 searches of {} laps", 90 + at),
            tried: (-6..=6).map(tried).collect(),
            edges: vec![(edge, (edge - 2.0, edge + 2.5)); 1 + at % 3],
        }
    };
    LoadsFigure {
        title: "sky-layers: what holds at which load".into(),
        finding: "kestrel is better; plover is too close to call".into(),
        unit: "layers".into(),
        steps: Vec::new(),
        lanes: rigs.iter().enumerate().map(lane).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    #[test]
    fn a_bar_is_as_high_as_the_share_that_held_and_far_loads_are_left_out() {
        let mut figure = example(&["heron".into()]);
        figure.lanes[0].tried.push(LoadTried { load: 600.0, held: 0.0, broke: 1.0 });
        let drawn = loads(&figure, 900.0);
        let filled = |hue: Paint| {
            let of = |item: &&Item| matches!(item, Item::Area { fill, .. } if *fill == hue);
            drawn.items.iter().filter(of).count()
        };
        assert_eq!((filled(Paint::Moss), filled(Paint::Clay)), (13, 3), "the far one is not drawn");
        assert!(drawn.for_page().contains("3 searches of 90 laps"));
    }

    #[test]
    fn no_searches_make_no_axis_of_nothing() {
        assert_eq!(range(&example(&[])), (0.0, 1.0));
        assert!(loads(&example(&[]), 400.0).for_page().contains("<svg"));
    }
}
