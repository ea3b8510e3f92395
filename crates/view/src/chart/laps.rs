//! Laps in the order in which they were run, and below them what the machine did meanwhile.

use super::head::head;
use crate::number::{TimeUnit, sampled};
use honest_lap_draw::MARGIN;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{SIZE, number, upward};
use honest_lap_draw::{Drawing, Shape, Stroke, Type};
use honest_lap_draw::{Paint, curve};

/// What came of a lap.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LapState {
    /// It counts.
    Counted,
    /// A warm-up.
    WarmUp,
    /// A person has set it aside.
    SetAside,
    /// It was not done, or its value is missing.
    Failed,
}

/// One lap.
#[derive(Clone, Debug, PartialEq)]
pub struct LapPoint {
    /// Its value; `None` where it has none.
    pub value: Option<f64>,
    /// Which variant it is of, counted from 0.
    pub variant: usize,
    /// What came of it.
    pub came: LapState,
    /// Whether it is the first of a session, and that session's name.
    pub opens: Option<String>,
}

/// A level that laps of one kind keep to, where those of a session are of two.
#[derive(Clone, Debug, PartialEq)]
pub struct LapLevel {
    /// The first and the last lap of the session, by their places.
    pub over: (usize, usize),
    /// The value.
    pub value: f64,
    /// Which variant it is of, counted from 0.
    pub variant: usize,
}

/// What the machine did, a value a lap.
#[derive(Clone, Debug, PartialEq)]
pub struct Meanwhile {
    /// What it is, with its unit.
    pub name: String,
    /// Its value in each lap; `None` where it is not known.
    pub values: Vec<Option<f64>>,
    /// What it must change by, at least, to be drawn as a change.
    pub least: f64,
}

/// The laps of one rig.
#[derive(Clone, Debug, PartialEq)]
pub struct LapsPanel {
    /// The rig.
    pub rig: String,
    /// Its laps, in the order in which they were run.
    pub laps: Vec<LapPoint>,
    /// The levels of sessions whose laps are of two kinds.
    pub levels: Vec<LapLevel>,
    /// What it did meanwhile.
    pub meanwhile: Vec<Meanwhile>,
}

/// Laps, a panel a rig.
#[derive(Clone, Debug, PartialEq)]
pub struct LapsFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// How it is read: the measure and which way is better.
    pub how: String,
    /// The unit of the values; seconds are shown in what suits them.
    pub unit: String,
    /// Whether the values are seconds.
    pub time: bool,
    /// The names of the variants; empty where there is one only.
    pub variants: Vec<String>,
    /// The rigs.
    pub panels: Vec<LapsPanel>,
}

const NAME: f64 = 44.0;
const PANEL: f64 = 110.0;
const STRIP: f64 = 34.0;
const GAP: f64 = 26.0;
/// Room for the figures of the axis and the names of strips.
const LEFT: f64 = 150.0;
const NARROW_LEFT: f64 = 92.0;
const RADIUS: f64 = 4.5;

/// Returns the figure, drawn `width` wide.
pub fn laps(figure: &LapsFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let mut top = head(&mut drawing, &[how(figure)]) + 8.0;
    top = legend(&mut drawing, figure, top);
    let places = (if width < 700.0 { NARROW_LEFT } else { LEFT }, width - MARGIN);
    let most = figure.panels.iter().map(|panel| panel.laps.len()).max().unwrap_or(1).max(2);
    let x = Scale { values: (0.0, most as f64), places, log: false };
    let (values, unit) = values(figure);
    for panel in &figure.panels {
        top += NAME;
        let y = Scale { values, places: (top + PANEL, top), log: false };
        laps_of(&mut drawing, panel, (&x, &y), unit, figure);
        top += PANEL;
        for strip in &panel.meanwhile {
            top += 8.0;
            meanwhile(&mut drawing, strip, &x, top);
            top += STRIP;
        }
        top += GAP - 14.0;
    }
    drawing.height = top + 14.0;
    drawing
}

fn how(figure: &LapsFigure) -> String {
    let levels = figure.panels.iter().any(|panel| !panel.levels.is_empty());
    let levels = if levels { " Dashed: the two kinds of laps of a session." } else { "" };
    format!(
        "{} Laps from left to right in the order in which they were run; a line begins a session. \
         Filled: counts. Hollow: warm-up. Crossed out: set aside, at the edge where it lies beyond. A triangle \
         at the edge: failed.{levels}",
        figure.how
    )
}

/// Names the variants by their marks, where there are several; returns where that ends.
fn legend(drawing: &mut Drawing, figure: &LapsFigure, top: f64) -> f64 {
    if figure.variants.len() < 2 {
        return top;
    }
    let set = Type::small(13.0);
    let (mut x, mut y) = (MARGIN, top + 10.0);
    for (place, name) in figure.variants.iter().enumerate() {
        let words = set.fitted(name, drawing.width - 2.0 * MARGIN - 20.0);
        let wide = 20.0 + set.width(&words) + 24.0;
        if x > MARGIN && x + wide - 24.0 > drawing.width - MARGIN {
            (x, y) = (MARGIN, y + 22.0);
        }
        drawing.mark((x + RADIUS, y), shape(place), curve(place).0, false);
        drawing.text((x + 18.0, y + 4.6), set, &words);
        x += wide;
    }
    y + 18.0
}

/// Returns the shape of a variant's laps.
fn shape(variant: usize) -> Shape {
    match variant % 3 {
        0 => Shape::disc(RADIUS),
        1 => Shape::diamond(RADIUS),
        _ => Shape::square(RADIUS),
    }
}

/// Returns the ends of all values, with room, in the unit that suits them.
fn values(figure: &LapsFigure) -> ((f64, f64), Option<TimeUnit>) {
    let laps = || figure.panels.iter().flat_map(|panel| &panel.laps);
    let counts = |lap: &&LapPoint| lap.came != LapState::SetAside;
    let any_counts = laps().filter(counts).any(|lap| lap.value.is_some());
    // One lap that was set aside, far off, would flatten all the others.
    let all = || {
        let shown = laps().filter(|lap| !any_counts || counts(lap));
        shown.filter_map(|lap| lap.value).filter(|value| value.is_finite())
    };
    let (low, high) = (all().fold(f64::INFINITY, f64::min), all().fold(f64::MIN, f64::max));
    if low > high {
        return ((0.0, 1.0), None);
    }
    let unit = figure.time.then(|| TimeUnit::of(high));
    let room = ((high - low) * 0.12).max(high.abs() * 0.01).max(f64::MIN_POSITIVE);
    let scaled = |value: f64| unit.map_or(value, |unit| unit.value(value));
    ((scaled(low - room), scaled(high + room)), unit)
}

fn laps_of(
    drawing: &mut Drawing,
    panel: &LapsPanel,
    (x, y): (&Scale, &Scale),
    unit: Option<TimeUnit>,
    figure: &LapsFigure,
) {
    let ((left, right), (bottom, top)) = (x.places, y.places);
    let symbol = unit.map_or(figure.unit.as_str(), |unit| unit.symbol);
    upward(drawing, y, (left, right), |value| format!("{} {symbol}", number(value)));
    let name = Type::name(14.0);
    drawing.text((MARGIN, top - 26.0), name, &name.fitted(&panel.rig, right - MARGIN));
    let step = (right - left) / x.values.1;
    let small = Type::small(SIZE);
    let opens: Vec<(usize, &String)> = panel
        .laps
        .iter()
        .enumerate()
        .filter_map(|(place, lap)| Some((place, lap.opens.as_ref()?)))
        .collect();
    let mut free = left;
    for (number, (place, session)) in opens.iter().enumerate() {
        let at = x.place(*place as f64);
        let next = opens.get(number + 1).map_or(panel.laps.len(), |next| next.0);
        drawing.line((at, top - 4.0), (at, bottom), Stroke::line(Paint::Grey, 0.8));
        // A name that has no room within its session is left out: `lap show` has it.
        let room = x.place(next as f64) - at - 8.0;
        if at >= free && small.width(session) <= room.max(0.0) {
            drawing.text((at + 3.0, top - 8.0), small, session);
            free = at + 3.0 + small.width(session) + 6.0;
        }
    }
    let spot = |place: usize, value: f64| {
        let value = unit.map_or(value, |unit| unit.value(value));
        (x.place(place as f64) + step / 2.0, y.place(value))
    };
    for level in &panel.levels {
        let ends = (x.place(level.over.0 as f64), x.place(level.over.1 as f64 + 1.0));
        let at = spot(0, level.value).1;
        let hue = curve(level.variant).0;
        let stroke = Stroke { dashes: "6 4", ..Stroke::line(hue, 1.6) };
        drawing.line((ends.0, at), (ends.1, at), stroke);
    }
    // Variant by variant, those that count on top: what is drawn alike is written down once.
    let mut laps: Vec<(usize, &LapPoint)> = panel.laps.iter().enumerate().collect();
    laps.sort_by_key(|(_, lap)| (lap.came == LapState::Counted, lap.variant));
    for &(place, lap) in &laps {
        let (hue, hollow) = (curve(lap.variant).0, lap.came != LapState::Counted);
        match lap.value {
            Some(value) => drawing.mark(spot(place, value), shape(lap.variant), hue, hollow),
            None => {
                let at = (x.place(place as f64) + step / 2.0, bottom - 7.0);
                drawing.mark(at, Shape::triangle(RADIUS), Paint::Clay, false);
            }
        }
    }
    for &(place, lap) in laps.iter().filter(|(_, lap)| lap.came == LapState::SetAside) {
        let Some((x, y)) = lap.value.map(|value| spot(place, value)) else { continue };
        for tilt in [-7.0, 7.0] {
            drawing.line((x - 7.0, y - tilt), (x + 7.0, y + tilt), Stroke::line(Paint::Ink, 1.4));
        }
    }
    drawing.line((left, bottom), (right, bottom), Stroke::line(Paint::Grey, 1.0));
}

/// Returns the ends of a strip's scale: what hardly changes is drawn so, and not as a climb.
pub(super) fn steady(low: f64, high: f64, least: f64) -> (f64, f64) {
    let least = (high.abs().max(low.abs()) * STEADY).max(least).max(f64::MIN_POSITIVE);
    match high - low >= least {
        true => (low, high),
        false => {
            let middle = (low + high) / 2.0;
            (middle - least / 2.0, middle + least / 2.0)
        }
    }
}

/// What changes by less than this share of itself is steady to an eye.
const STEADY: f64 = 0.1;

/// Draws one strip: a step a lap, with the least and most beside its name.
fn meanwhile(drawing: &mut Drawing, strip: &Meanwhile, x: &Scale, top: f64) {
    let (left, right) = x.places;
    let known = || strip.values.iter().flatten().copied();
    let (low, high) = (known().fold(f64::INFINITY, f64::min), known().fold(f64::MIN, f64::max));
    let small = Type::small(11.0);
    let room = left - MARGIN - 8.0;
    drawing.rect(left, top, right - left, STRIP, Paint::Mist);
    drawing.text((MARGIN, top + 14.0), small, &small.fitted(&strip.name, room));
    if low > high {
        drawing.text((MARGIN, top + 28.0), small, "not known");
        return;
    }
    let ends = match low == high {
        true => sampled(low),
        false => format!("{} to {}", sampled(low), sampled(high)),
    };
    drawing.text((MARGIN, top + 28.0), small, &small.fitted(&ends, room));
    let spread = steady(low, high, strip.least);
    let y = Scale { values: spread, places: (top + STRIP - 4.0, top + 4.0), log: false };
    let known: Vec<(usize, &Option<f64>)> = strip.values.iter().enumerate().collect();
    for run in known.split(|(_, value)| value.is_none()) {
        let steps = run.iter().filter_map(|(place, value)| Some((*place as f64, (**value)?)));
        let points = steps.flat_map(|(place, value)| {
            [(x.place(place), y.place(value)), (x.place(place + 1.0), y.place(value))]
        });
        let points: Vec<(f64, f64)> = points.collect();
        if !points.is_empty() {
            drawing.curve(&points, Stroke::line(Paint::Lake, 1.6));
        }
    }
}

/// Returns a figure of made-up laps, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String], laps: usize, seconds: f64, strips: usize) -> LapsFigure {
    let point = |at: usize| LapPoint {
        value: (at % 11 != 9).then_some(seconds * (1.0 + 0.02 * (at % 5) as f64)),
        variant: at % 2,
        came: [LapState::WarmUp, LapState::Counted, LapState::Counted, LapState::SetAside][at % 4],
        opens: at.is_multiple_of(6).then(|| format!("{}-{}", rigs[0], at / 6 + 1)),
    };
    let strip = |number: usize| Meanwhile {
        name: ["clock, MHz", "warmest part, °C", "others' use, cores"][number % 3].to_owned(),
        values: (0..laps).map(|at| (at % 7 != 3).then_some(40.0 + at as f64)).collect(),
        least: 0.0,
    };
    let panel = |rig: &String| LapsPanel {
        rig: rig.clone(),
        laps: (0..laps).map(point).collect(),
        levels: [1.0, 1.08]
            .map(|times| LapLevel {
                over: (0, laps.min(6).saturating_sub(1)),
                value: seconds * times,
                variant: 0,
            })
            .to_vec(),
        meanwhile: (0..strips).map(strip).collect(),
    };
    LapsFigure {
        title: "dome-still: laps as they were run".into(),
        finding: "12 laps of heron".into(),
        how: "Time of each lap. Lower is better.".into(),
        unit: "s".into(),
        time: true,
        variants: vec!["threads=1".into(), "threads=2".into()],
        panels: rigs.iter().map(panel).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    #[test]
    fn every_lap_has_a_mark_and_failed_ones_are_no_figure() {
        let drawn = laps(&example(&["heron".into()], 12, 5.0, 1), 1280.0);
        let filled = |hue: Paint| {
            let is = |item: &&Item| match item {
                Item::Area { fill, .. } => *fill == hue,
                Item::Dot { hue: dot, .. } => *dot == hue,
                _ => false,
            };
            drawn.items.iter().filter(is).count()
        };
        // Laps 0 to 11: 3, 7, 11 set aside, 0, 4, 8 warm-ups, 9 failed, five count: and two marks of the legend.
        let (lake, clay) = (filled(Paint::Lake), filled(Paint::Clay));
        assert_eq!(lake + clay, 5 + 1 + 2, "{lake} {clay}");
        let svg = drawn.for_page();
        assert!(
            svg.contains(">heron-1<") && svg.contains("clock, MHz") && svg.contains("40.0 to 51.0")
        );
    }

    #[test]
    fn a_lap_that_was_set_aside_far_off_flattens_nothing() {
        let mut figure = example(&["heron".into()], 12, 5.0, 1);
        let before = values(&figure);
        let aside = figure.panels[0].laps.iter_mut().find(|lap| lap.came == LapState::SetAside);
        aside.unwrap().value = Some(5_000.0);
        assert_eq!(values(&figure), before);
        assert!(laps(&figure, 1280.0).word_faults().is_empty(), "it stands at the edge");
    }

    #[test]
    fn what_hardly_changes_is_drawn_flat_and_what_climbs_climbs() {
        let (low, high) = steady(60.0, 60.2, 0.0);
        assert!((high - low - 6.02).abs() < 1e-9 && (low + high) / 2.0 == 60.1, "{low} {high}");
        assert_eq!(steady(60.0, 87.0, 5.0), (60.0, 87.0));
        let (low, high) = steady(0.0, 0.0, 0.0);
        assert!(low < 0.0 && high > 0.0);
        let (low, high) = steady(0.008, 0.016, 0.1);
        assert!((high - low - 0.1).abs() < 1e-12, "a hundredth of a core is nothing: {low} {high}");
    }

    #[test]
    fn no_laps_make_no_axis_of_nothing() {
        let none = example(&["heron".into()], 0, 5.0, 1);
        assert_eq!(values(&none), ((0.0, 1.0), None));
        assert!(laps(&none, 400.0).for_page().contains("not known"));
    }
}
