//! Whether what is said of a course stands beside a slow wander of it.

use crate::stat::normal_upper_tail;

/// How far a level may wander from value to value, as a variance in those of a value about its level: 0, and from so
/// slow that it goes unseen to so fast that there is nothing else.
const RATIOS: [f64; 18] = [
    0.0, 1e-5, 3e-5, 1e-4, 3e-4, 1e-3, 3e-3, 1e-2, 3e-2, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0,
    300.0, 1000.0,
];

/// Returns the chance that luck makes `logs` as much likelier with `more` than with `shapes` alone, where their level
/// may wander.
///
/// ```text
/// yₜ = mₜ + Σ bⱼ·shapeⱼ(t) + εₜ       mₜ = mₜ₋₁ + ηₜ       var η = q·var ε, q the likeliest of 18 from 0 to 1,000
/// z² = 2·(ln L with − ln L without)
/// ```
/// A step or a slope that a wander explains as well is none.
///
/// * Shape: n logs, n of each shape; O(n · shapes²). Units: none.
/// * Source: the local level model and its likelihood, Harvey (1989), *Forecasting, Structural Time Series Models and
///   the Kalman Filter*, sections 2.4 and 3.4.
pub(super) fn chance(logs: &[f64], shapes: &[Vec<f64>], more: &[f64]) -> f64 {
    let with = [shapes, &[more.to_vec()]].concat();
    let gained = likelihood(logs, &with) - likelihood(logs, shapes);
    2.0 * normal_upper_tail((2.0 * gained.max(0.0)).sqrt())
}

/// Returns the log likelihood of `logs` with the best wander and the best amounts of `shapes`.
fn likelihood(logs: &[f64], shapes: &[Vec<f64>]) -> f64 {
    let of = |&ratio: &f64| {
        let (rest, log_spread) = innovations(logs, ratio);
        let shapes = shapes.iter().map(|shape| innovations(shape, ratio).0).collect();
        let squares: f64 = without(rest, shapes).iter().map(|r| r * r).sum();
        let n = (logs.len() - 1) as f64;
        -0.5 * (n * (squares / n).max(f64::MIN_POSITIVE).ln() + log_spread)
    };
    RATIOS.iter().map(of).fold(f64::NEG_INFINITY, f64::max)
}

/// Returns what each value is off from what those before it let expect, in its own deviations; and Σ ln of their
/// variances.
fn innovations(values: &[f64], ratio: f64) -> (Vec<f64>, f64) {
    let (mut level, mut variance, mut log_spread) = (values[0], 1.0, 0.0);
    let mut found = Vec::with_capacity(values.len() - 1);
    for value in &values[1..] {
        let spread = variance + ratio + 1.0;
        let off = value - level;
        level += off * (variance + ratio) / spread;
        variance = (variance + ratio) / spread;
        found.push(off / spread.sqrt());
        log_spread += spread.ln();
    }
    (found, log_spread)
}

/// Returns `values` less what `shapes` explain of them by least squares (modified Gram and Schmidt).
fn without(mut values: Vec<f64>, mut shapes: Vec<Vec<f64>>) -> Vec<f64> {
    while let Some(shape) = shapes.pop() {
        let squares: f64 = shape.iter().map(|x| x * x).sum();
        if squares < 1e-12 {
            continue;
        }
        for other in shapes.iter_mut().chain([&mut values]) {
            let share = other.iter().zip(&shape).map(|(y, x)| y * x).sum::<f64>() / squares;
            other.iter_mut().zip(&shape).for_each(|(y, x)| *y -= share * x);
        }
    }
    values
}
