//! The pixels of every word in hundreds of generated figures: none on another, none beyond the frame.

use super::drawing::{Drawing, Item};
use super::paint::Paint;
use super::raster::outlines;
use super::{bars, course, laps, loads, passes, ratios, sweep, tail, worth};
use std::collections::HashMap;
use tiny_skia::{FillRule, Pixmap, Transform};

/// How much ink a pixel must have to be part of a letter.
const INK: u8 = 60;

const RIGS: [usize; 6] = [1, 2, 5, 12, 20, 24];
const NAMES: [usize; 3] = [3, 14, 40];
const WIDTHS: [f64; 2] = [1280.0, 420.0];

/// Returns the name of a rig, so many letters long; in its middle are wide letters and marks of doubt.
fn name(at: usize, letters: usize) -> String {
    let filler = "MWheron-kestrel ¹ ²plover wren dunlin MWMW".chars().cycle().skip(at);
    let digits = at.to_string();
    digits.chars().chain(filler).take(letters.max(digits.len())).collect()
}

fn names(rigs: usize, letters: usize) -> Vec<String> {
    (0..rigs).map(|at| name(at, letters)).collect()
}

/// Returns typical values from `least` on, each `factor` of the one before.
fn values(rigs: usize, least: f64, factor: f64) -> Vec<f64> {
    (0..rigs).map(|at| least * factor.powi(at as i32)).collect()
}

/// Draws the pixels of every text and says which meet, or leave the frame.
fn faults(drawing: &Drawing) -> Vec<String> {
    let text = |item: &Item| match item {
        Item::Text { at, set, words } => Some((*at, *set, words.clone())),
        _ => None,
    };
    let texts: Vec<_> = drawing.items.iter().filter_map(text).collect();
    let mut owner: HashMap<(i32, i32), usize> = HashMap::new();
    let mut faults = Vec::new();
    let black = tiny_skia::Paint { anti_alias: true, ..tiny_skia::Paint::default() };
    for (number, (at, set, words)) in texts.iter().enumerate() {
        let Some(path) = outlines(*at, set, words) else { continue };
        let area = path.bounds();
        let (left, top) = (area.left().floor(), area.top().floor());
        let (wide, high) = (area.width().ceil() as u32 + 2, area.height().ceil() as u32 + 2);
        let mut picture = Pixmap::new(wide, high).expect("a text has a size");
        let place = Transform::from_translate(-left, -top);
        picture.fill_path(&path, &black, FillRule::Winding, place, None);
        let mut met = None;
        for (at, pixel) in picture.pixels().iter().enumerate() {
            if pixel.alpha() < INK {
                continue;
            }
            let x = left as i32 + (at as u32 % wide) as i32;
            let y = top as i32 + (at as u32 / wide) as i32;
            if x < 0 || y < 0 || f64::from(x) >= drawing.width || f64::from(y) >= drawing.height {
                faults.push(format!("`{words}` leaves the frame at {x}, {y}"));
                break;
            }
            if let Some(other) = owner.insert((x, y), number).filter(|other| *other != number) {
                met = Some(other);
            }
        }
        faults.extend(met.map(|other| format!("`{words}` lies on `{}`", texts[other].2)));
    }
    faults
}

/// Returns every generated figure with what it is.
fn cases() -> Vec<(String, Drawing)> {
    let mut cases = Vec::new();
    let ranges = [(3e-6, 1.02), (5.6, 1.1), (86_400.0, 1.07), (1e-5, 3.0)];
    for (rigs, letters) in RIGS.iter().flat_map(|r| NAMES.map(|n| (*r, n))) {
        for width in WIDTHS {
            for (least, factor) in ranges {
                let figure = bars::example(&values(rigs, least, factor), |at| name(at, letters));
                let what = format!(
                    "bars of {rigs}, {letters} letters, from {least} by {factor}, {width} wide"
                );
                cases.push((what, bars(&figure, width)));
            }
            let figure = ratios::example(&values(rigs, 0.8, 1.05), |at| name(at, letters));
            cases.push((format!("ratios of {rigs}, {letters}, {width}"), ratios(&figure, width)));
            let figure = laps::example(
                &names(rigs, letters),
                4 + 9 * rigs,
                0.004 * 30f64.powi(rigs as i32 % 5),
                rigs % 4,
            );
            cases.push((format!("laps of {rigs}, {letters}, {width}"), laps(&figure, width)));
        }
        for width in WIDTHS {
            let figure = loads::example(&names(rigs, letters));
            cases.push((format!("loads of {rigs}, {letters}, {width}"), loads(&figure, width)));
            let figure = sweep::example(&names(rigs, letters));
            cases.push((format!("sweep of {rigs}, {letters}, {width}"), sweep(&figure, width)));
            let figure = course::example(&names(rigs, letters));
            cases.push((format!("course of {rigs}, {letters}, {width}"), course(&figure, width)));
        }
        let figure = worth::example(&names(rigs, letters));
        cases.push((format!("worth of {rigs}, {letters}"), worth(&figure)));
        let figure = passes::example(&names(rigs, letters));
        cases.push((format!("passes of {rigs}, {letters}"), passes(&figure)));
        let figure = tail::example(&names(rigs, letters));
        cases.push((format!("tail of {rigs}, {letters}"), tail(&figure)));
    }
    cases
}

#[test]
fn no_word_of_any_figure_lies_on_another_or_leaves_the_frame() {
    let cases = cases();
    assert!(cases.len() >= 200, "{}", cases.len());
    let mut faults = Vec::new();
    for (what, drawing) in cases {
        let drawing = drawing.stamped("lap 0.1.0 · logbook 0123456789abcdef · 2026-11-23");
        faults.extend(self::faults(&drawing).into_iter().map(|fault| format!("{what}: {fault}")));
    }
    assert!(
        faults.is_empty(),
        "{} faults:\n{}",
        faults.len(),
        faults[..faults.len().min(40)].join("\n")
    );
}

#[test]
fn the_check_sees_what_it_is_for() {
    let with = |places: [(f64, f64); 2]| {
        let mut drawing = Drawing::new(200.0, "", "");
        drawing.height = 100.0;
        let set = super::drawing::Type { fill: Paint::Ink, ..super::drawing::Type::small(14.0) };
        places.into_iter().for_each(|at| drawing.text(at, set, "heron"));
        faults(&drawing)
    };
    assert_eq!(with([(10.0, 20.0), (10.0, 40.0)]), Vec::<String>::new());
    assert!(with([(10.0, 20.0), (14.0, 24.0)])[0].contains("lies on"));
    assert!(with([(10.0, 20.0), (180.0, 40.0)])[0].contains("leaves the frame"));
}
