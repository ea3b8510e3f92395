//! The pixels of every word in hundreds of generated figures: none on another, none beyond the frame.

use super::{
    bars, conditions, laps, loads, overview, passes, rate_profile, ratios, sweep, tail, worth,
};
use honest_lap_draw::{Drawing, Paint};

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
            for rows in [3, 12, 40] {
                let figure = overview::example(&names(rigs, letters), rows);
                let what = format!("overview of {rigs}, {letters}, {rows} rows, {width}");
                cases.push((what, overview(&figure, width)));
            }
            let figure = rate_profile::example(&names(rigs, letters));
            cases.push((
                format!("rate profile of {rigs}, {letters}, {width}"),
                rate_profile(&figure, width),
            ));
        }
        for width in WIDTHS {
            let figure = conditions::example(rigs * rigs, &name(rigs, letters));
            let what = format!("conditions of {} cores, {letters}, {width}", rigs * rigs);
            cases.push((what, conditions(&figure, width)));
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
        let drawing = drawing.stamped("lap 0.2.0 · logbook 0123456789abcdef · 2026-11-23");
        faults.extend(drawing.word_faults().into_iter().map(|fault| format!("{what}: {fault}")));
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
        let set = honest_lap_draw::Type { fill: Paint::Ink, ..honest_lap_draw::Type::small(14.0) };
        places.into_iter().for_each(|at| drawing.text(at, set, "heron"));
        drawing.word_faults()
    };
    assert_eq!(with([(10.0, 20.0), (10.0, 40.0)]), Vec::<String>::new());
    assert!(with([(10.0, 20.0), (14.0, 24.0)])[0].contains("lies on"));
    assert!(with([(10.0, 20.0), (180.0, 40.0)])[0].contains("leaves the frame"));
}
