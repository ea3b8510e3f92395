//! Cells of a few literal values.

use super::*;

#[test]
fn several_sessions_are_one_value_each() {
    let cell = Cell::from_sessions(vec![vec![4.0, 1.0], vec![], vec![8.0]]).unwrap();
    assert_eq!((cell.laps(), cell.sessions(), cell.basis()), (3, 2, Basis::Sessions));
    // Session typicals √(4·1) = 2 and 8; across them √(2·8) = 4.
    assert!((cell.typical() - 4.0).abs() < 1e-12);
    assert!(cell.values().iter().zip([2.0, 8.0]).all(|(a, b)| (a - b).abs() < 1e-12));
}

#[test]
fn laps_read_to_the_second_are_known_no_better() {
    let half = |cell: Cell| cell.interval().map(|i| (i.high / i.low).ln() / 2.0).unwrap();
    let laps = || Cell::from_sessions(vec![vec![52.0; 5]]).unwrap();
    // All five read alike. The day: 1.5 % with 4 degrees, t = 2.776. Reading: 1/(2√3)/52 = 0.555 %.
    assert!((half(laps()) - 2.776_445 * 0.015).abs() < 1e-6);
    // Reading adds (0.555 %)², of which there is no doubt.
    let read = laps().read_in_steps(1.0).estimate().unwrap();
    assert!((read.variance - (2.25e-4 + 0.005_551_5f64.powi(2))).abs() < 1e-8);
}

#[test]
fn a_single_lap_has_no_interval_and_a_single_day_is_as_wide_as_days_differ() {
    assert!(Cell::from_sessions(vec![vec![52.0]]).unwrap().interval().is_err());
    let day = Cell::from_sessions(vec![vec![52.0, 52.01, 51.99, 52.0]]).unwrap();
    let interval = day.interval().unwrap();
    assert!(interval.low < 52.0 * 0.97 && interval.high > 52.0 * 1.03, "{interval:?}");
}

#[test]
fn laps_that_ended_by_a_look_are_given_a_wider_interval() {
    let cell = || Cell::from_sessions(vec![vec![1.00, 1.01, 1.02]]).unwrap();
    let width = |cell: Cell| cell.interval().map(|i| (i.high / i.low).ln()).unwrap();
    assert!(width(cell().looked_at()) / width(cell()) > 1.2);
}

#[test]
fn the_mean_holds_the_long_laps_and_the_typical_lap_does_not() {
    // One lap in ten at twice the time: 1.1 h a lap, and typically 2^0.1 = 1.072 h.
    let laps = [vec![1.0; 9], vec![2.0]].concat();
    let cell = Cell::from_sessions(vec![laps]).unwrap();
    assert!((cell.mean() - 1.1).abs() < 1e-12);
    assert!((cell.typical() - 1.0718).abs() < 1e-4);
}

#[test]
fn nothing_counted_is_no_cell() {
    assert_eq!(Cell::from_sessions(vec![vec![], vec![]]), Err(StatError::Empty));
    assert!(Cell::from_sessions(vec![vec![1.0, -1.0]]).is_err());
}

#[test]
fn the_median_interval_needs_six_laps_of_one_session() {
    let six = vec![1.0, 2.0, 3.0, 4.0, 5.0, 6.0];
    assert!(Cell::from_sessions(vec![six.clone()]).unwrap().median_interval().is_some());
    assert!(Cell::from_sessions(vec![six[..5].to_vec()]).unwrap().median_interval().is_none());
    assert!(Cell::from_sessions(vec![six.clone(), six]).unwrap().median_interval().is_none());
}
