//! A rate over a long time, with what the machine did meanwhile on the same axis.

use super::head::answered;
use super::laps::steady;
use crate::number::sampled;
use honest_lap_draw::MARGIN;
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{SIZE, across, number, upward};
use honest_lap_draw::{Drawing, Stroke, Type};
use std::slice;

/// A stretch of time at one level.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Level {
    /// From when to when, in the figure's unit of time.
    pub span: (f64, f64),
    /// The level, and the ends of its interval where it has one.
    pub at: f64,
    /// The ends of its interval.
    pub ends: Option<(f64, f64)>,
}

/// What the machine did over the time.
#[derive(Clone, Debug, PartialEq)]
pub struct Beside {
    /// What it is of, with its unit.
    pub name: String,
    /// Moments and values, in order.
    pub points: Vec<(f64, f64)>,
}

/// One lap.
#[derive(Clone, Debug, PartialEq)]
pub struct RateProfilePanel {
    /// Whose it is.
    pub name: String,
    /// What it comes to, in words.
    pub says: String,
    /// Moments and rates, in order.
    pub rates: Vec<(f64, f64)>,
    /// The level at first, and the one at which it settled.
    pub levels: Vec<Level>,
    /// When its rate changed first, and when it settled.
    pub changes: Vec<f64>,
    /// What the machine did.
    pub beside: Vec<Beside>,
}

/// The laps of a workload over their time.
#[derive(Clone, Debug, PartialEq)]
pub struct RateProfileFigure {
    /// What it is of.
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// The unit of the rates.
    pub unit: String,
    /// The unit of time.
    pub time: &'static str,
    /// The panels, on one axis of time and one of rates.
    pub panels: Vec<RateProfilePanel>,
}

const NAME: f64 = 30.0;
const PANEL: f64 = 128.0;
const STRIP: f64 = 34.0;
/// Room for the figures of the axis and the names of strips.
const LEFT: f64 = 150.0;
const NARROW_LEFT: f64 = 128.0;

/// Returns the figure, drawn `width` wide.
pub fn rate_profile(figure: &RateProfileFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let how = "Each line is the rate of one lap over its time; higher is better. Thick lines: its level at first, and \
               the one at which it settled, shaded with its 95 % interval. Upright lines: when it first changed, and \
               when it settled. Below each, what its machine did on the same axis, from its least to its most.";
    let scales = if apart(figure) { " Rates far apart: each has a scale of its own." } else { "" };
    let finding = slice::from_ref(&figure.finding);
    let mut top = answered(&mut drawing, finding, &[format!("{how}{scales}")]) + 4.0;
    let places = (if width < 700.0 { NARROW_LEFT } else { LEFT }, width - MARGIN);
    let all = || figure.panels.iter().flat_map(|panel| &panel.rates);
    let end = |panel: &RateProfilePanel| panel.rates.last().map_or(0.0, |(at, _)| *at);
    let beside = figure.panels.iter().flat_map(|panel| &panel.beside);
    let looked = beside.filter_map(|strip| strip.points.last()).map(|(at, _)| *at);
    let longest = figure.panels.iter().map(end).chain(looked).fold(0.0, f64::max);
    let x = Scale { values: (0.0, longest.max(f64::MIN_POSITIVE)), places, log: false };
    let together = ends(all().map(|(_, rate)| *rate)).unwrap_or((0.0, 1.0));
    let apart = apart(figure);
    let from = top;
    let high_of =
        |panel: &RateProfilePanel| NAME + PANEL + (STRIP + 8.0) * panel.beside.len() as f64 + 22.0;
    let bottom = from + figure.panels.iter().map(high_of).sum::<f64>();
    // Ahead of the panels, which stand on its lines.
    across(&mut drawing, &x, (from + NAME - 8.0, bottom), number);
    for panel in &figure.panels {
        drawing.rect(0.0, top, width, NAME - 6.0, Paint::Paper);
        let name = Type::name(14.0);
        let words = name.fitted(&panel.name, (width - 2.0 * MARGIN) / 2.0);
        drawing.text((MARGIN, top + 17.0), name, &words);
        let says = Type::small(13.0);
        let begin = MARGIN + name.width(&words) + 14.0;
        drawing.text((begin, top + 17.0), says, &says.fitted(&panel.says, width - MARGIN - begin));
        top += NAME;
        let own = ends(panel.rates.iter().map(|(_, rate)| *rate)).filter(|_| apart);
        let (low, high) = own.unwrap_or(together);
        let room = ((high - low) * 0.1).max(high.abs() * 0.02).max(f64::MIN_POSITIVE);
        let y = Scale { values: (low - room, high + room), places: (top + PANEL, top), log: false };
        rates(&mut drawing, panel, (&x, &y), &figure.unit);
        top += PANEL;
        for strip in &panel.beside {
            top += 8.0;
            meanwhile(&mut drawing, strip, &x, top);
            top += STRIP;
        }
        top += 22.0;
    }
    let set = Type::small(SIZE);
    let unit = format!("time, {}", figure.time);
    drawing.text((MARGIN, bottom + SIZE + 6.0), set, &set.fitted(&unit, places.0 - MARGIN - 30.0));
    drawing.height = bottom + SIZE + 16.0;
    drawing
}

/// Rates further apart than this would flatten each other on one scale.
const TOGETHER: f64 = 2.5;

/// Returns whether the panels' rates lie too far apart for one scale.
fn apart(figure: &RateProfileFigure) -> bool {
    let mean = |panel: &RateProfilePanel| {
        let rates = panel.rates.iter().map(|(_, rate)| rate);
        (!panel.rates.is_empty()).then(|| rates.sum::<f64>() / panel.rates.len() as f64)
    };
    ends(figure.panels.iter().filter_map(mean)).is_some_and(|(low, high)| high > TOGETHER * low)
}

/// Returns the least and the most of `values`.
fn ends(values: impl Iterator<Item = f64>) -> Option<(f64, f64)> {
    let known = values.filter(|value| value.is_finite()).map(|value| (value, value));
    known.reduce(|(low, high), (value, _)| (low.min(value), high.max(value)))
}

fn rates(drawing: &mut Drawing, panel: &RateProfilePanel, (x, y): (&Scale, &Scale), unit: &str) {
    let ((left, right), (bottom, top)) = (x.places, y.places);
    upward(drawing, y, (left, right), number);
    let small = Type::small(11.0);
    drawing.text((MARGIN, top + 8.0), small, &small.fitted(unit, left - MARGIN - 44.0));
    for change in &panel.changes {
        let at = x.place(*change);
        drawing.line((at, top), (at, bottom), Stroke::line(Paint::Clay, 1.2));
    }
    for level in &panel.levels {
        if let Some((low, high)) = level.ends {
            let corners = [
                (level.span.0, low),
                (level.span.1, low),
                (level.span.1, high),
                (level.span.0, high),
            ];
            let corners = corners.map(|(at, rate)| (x.place(at), y.place(rate)));
            drawing.area(&corners, Paint::Brass, 0.35);
        }
    }
    let points: Vec<(f64, f64)> =
        panel.rates.iter().map(|(at, rate)| (x.place(*at), y.place(*rate))).collect();
    match points.as_slice() {
        [] => {
            drawing.text((left + 8.0, (top + bottom) / 2.0), Type::small(13.0), "no rate is known")
        }
        _ => drawing.curve(&points, Stroke::line(Paint::Lake, 1.2)),
    }
    for level in &panel.levels {
        let (from, to) = (x.place(level.span.0), x.place(level.span.1));
        let at = y.place(level.at);
        drawing.line((from, at), (to, at), Stroke::line(Paint::Brass, 3.0));
    }
    drawing.line((left, bottom), (right, bottom), Stroke::line(Paint::Grey, 1.0));
}

/// Draws what the machine did, with the least and most beside its name.
pub(super) fn meanwhile(drawing: &mut Drawing, strip: &Beside, x: &Scale, top: f64) {
    let (left, right) = x.places;
    let small = Type::small(11.0);
    let room = left - MARGIN - 8.0;
    drawing.rect(left, top, right - left, STRIP, Paint::Mist);
    drawing.text((MARGIN, top + 14.0), small, &small.fitted(&strip.name, room));
    let Some((low, high)) = ends(strip.points.iter().map(|(_, value)| *value)) else { return };
    let said = match low == high {
        true => sampled(low),
        false => format!("{} to {}", sampled(low), sampled(high)),
    };
    drawing.text((MARGIN, top + 28.0), small, &small.fitted(&said, room));
    let spread = steady(low, high, 0.0);
    let y = Scale { values: spread, places: (top + STRIP - 4.0, top + 4.0), log: false };
    let points: Vec<(f64, f64)> =
        strip.points.iter().map(|(at, value)| (x.place(*at), y.place(*value))).collect();
    drawing.curve(&points, Stroke::line(Paint::Lake, 1.6));
}

/// Returns a figure of made-up laps, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> RateProfileFigure {
    let panel = |(at, name): (usize, &String)| {
        let settled = 60.0 - 7.0 * (at % 4) as f64;
        let fell = 20.0 + 9.0 * (at % 5) as f64;
        let rate = |minute: f64| if minute < fell { 60.0 } else { settled };
        let minutes = || (0..120).map(f64::from);
        let strip = |name: &str, of: fn(f64) -> f64| Beside {
            name: name.to_owned(),
            points: minutes().map(|minute| (minute, of(minute))).collect(),
        };
        let all = [
            strip("clock, MHz", |minute| 4_200.0 - 11.0 * minute),
            strip("hottest part, °C", |minute| 45.0 + (minute / 3.0).min(40.0)),
            strip("power, W", |_| 45.0),
            strip("fan, rpm", |minute| 1_200.0 + minute),
        ];
        RateProfilePanel {
            name: name.clone(),
            says: format!(
                "{settled:.1} stills/s from minute {fell:.0} on, {:.0} % below the first",
                60.0 - settled
            ),
            rates: minutes().map(|minute| (minute, rate(minute))).collect(),
            levels: vec![
                Level { span: (0.0, fell), at: 60.0, ends: None },
                Level {
                    span: (fell, 119.0),
                    at: settled,
                    ends: Some((settled - 0.4, settled + 0.4)),
                },
            ],
            changes: vec![fell],
            beside: all.into_iter().take(at % 5).collect(),
        }
    };
    RateProfileFigure {
        title: "night-shift: the rate over the time".into(),
        finding: "wren settles 12 % below its first minutes; the others keep their rate".into(),
        unit: "stills/s".into(),
        time: "minutes",
        panels: rigs.iter().enumerate().map(panel).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    #[test]
    fn levels_stand_where_they_held_and_strips_share_the_axis() {
        let mut figure = example(&["heron".into()]);
        figure.panels[0].beside =
            vec![Beside { name: "clock".into(), points: vec![(0.0, 1.0), (119.0, 2.0)] }];
        let drawn = rate_profile(&figure, 900.0);
        let thick = |item: &Item| match item {
            Item::Curve { points, stroke } if *stroke == Stroke::line(Paint::Brass, 3.0) => {
                Some(points.clone())
            }
            _ => None,
        };
        let levels: Vec<_> = drawn.items.iter().filter_map(thick).collect();
        assert_eq!(levels.len(), 2);
        // Minute 20 of 119 in the room between 150 and 900 − the margin.
        let at = LEFT + (900.0 - MARGIN - LEFT) * 20.0 / 119.0;
        assert!((levels[1][0].0 - at).abs() < 0.01, "{levels:?}");
        assert!(drawn.for_page().contains("clock"));
    }

    #[test]
    fn rates_far_apart_have_scales_of_their_own_and_none_draw_nothing() {
        let mut two = example(&["heron".into(), "wren".into()]);
        assert!(!rate_profile(&two, 900.0).for_page().contains("scale of its own"));
        two.panels[1].rates.iter_mut().for_each(|(_, rate)| *rate *= 0.1);
        assert!(rate_profile(&two, 900.0).for_page().contains("scale of its own"));
        let empty = RateProfileFigure { panels: Vec::new(), ..example(&[]) };
        assert!(rate_profile(&empty, 420.0).for_page().contains("<svg"));
    }
}
