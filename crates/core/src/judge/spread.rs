//! What is assumed where the laps do not say: the margin, and the luck of a day.

use super::cell::Cell;
use crate::stat::standard_deviation;
use crate::study::DEFAULT_MARGIN;
use std::collections::BTreeMap;

/// The between-session spread that is assumed until a study has shown its own.
pub const ASSUMED_SESSION_SPREAD: f64 = 0.015;

/// Sessions of a cell before it says anything about the spread between sessions.
const STANDARD_SESSIONS: usize = 3;

/// The spread between sessions, and where it comes from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum SessionSpread {
    /// Assumed, for want of a cell with three sessions.
    Assumed(f64),
    /// Measured on this study's own cells with three sessions or more.
    Measured(f64),
}

impl SessionSpread {
    /// Returns the spread, as a standard deviation of logs.
    pub fn value(self) -> f64 {
        match self {
            Self::Assumed(value) | Self::Measured(value) => value,
        }
    }
}

/// What a judgement takes for granted, printed beside it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Assumptions {
    /// How close counts as the same, as a fraction.
    pub margin: f64,
    /// The luck of a day.
    pub session_spread: SessionSpread,
    /// How many comparisons share the chance of error (Bonferroni): 1, unless any of several would
    /// do to refute what is said of all.
    pub shared_by: u32,
}

impl Assumptions {
    /// Returns what a comparison that stands for itself takes for granted.
    pub fn of(margin: f64, session_spread: SessionSpread) -> Self {
        Self { margin, session_spread, shared_by: 1 }
    }
}

impl Default for Assumptions {
    fn default() -> Self {
        Self::of(DEFAULT_MARGIN, SessionSpread::Assumed(ASSUMED_SESSION_SPREAD))
    }
}

/// Returns the standard deviation between sessions, pooled over the cells that show one.
///
/// ```text
/// τ = √( Σ (k − 1)·s² / Σ (k − 1) )     s over the k session means (of logs) of a cell, k ≥ 3
/// ```
/// * Shape: any number of cells; those with fewer than 3 sessions say nothing.
/// * Units: none (logs). The spread of laps within a session is left in, which only widens.
/// * Errors: none; without such a cell the assumed 1.5 % stands.
/// * Source: pooled variance, as in a one-way analysis of variance (Fisher, 1925).
pub fn session_spread<'a>(cells: impl IntoIterator<Item = &'a Cell>) -> SessionSpread {
    let (mut squares, mut degrees) = (0.0, 0.0);
    for cell in cells {
        if cell.sessions() < STANDARD_SESSIONS {
            continue;
        }
        if let Ok(sd) = standard_deviation(cell.session_logs()) {
            let df = (cell.sessions() - 1) as f64;
            squares += df * sd * sd;
            degrees += df;
        }
    }
    if degrees > 0.0 {
        SessionSpread::Measured((squares / degrees).sqrt())
    } else {
        SessionSpread::Assumed(ASSUMED_SESSION_SPREAD)
    }
}

/// How much of a study's own spread a rig starts with, in degrees of freedom.
const PRIOR: f64 = 4.0;

/// The spread between sessions, kept by rig and workload.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct DaySpreads {
    /// Squares and degrees of freedom, by rig and workload.
    seen: BTreeMap<(String, String), (f64, f64)>,
}

impl DaySpreads {
    /// Takes in what a cell shows, if it has three sessions or more.
    pub(super) fn add(&mut self, rig: &str, workload: &str, cell: &Cell) {
        if cell.sessions() < STANDARD_SESSIONS {
            return;
        }
        if let Ok(sd) = standard_deviation(cell.session_logs()) {
            let df = (cell.sessions() - 1) as f64;
            let key = (rig.to_owned(), workload.to_owned());
            let (squares, degrees) = self.seen.entry(key).or_default();
            (*squares, *degrees) = (*squares + df * sd * sd, *degrees + df);
        }
    }

    /// Returns the spread of `workload` on `rig`, drawn towards that of the rig, and that towards the study's.
    ///
    /// ```text
    /// τ² rig = (4·τ² study + Σ df·s²) / (4 + Σ df)        over the rig's other workloads
    /// τ² = (4·τ² rig + df·s²) / (4 + df)        over this workload's own cells
    /// ```
    /// Two or three days say little by themselves: a spread that came out small by luck would make
    /// winners of ties.
    ///
    /// * Units: none (logs), as `study`.
    /// * Source: partial pooling of variances, Gelman and Hill (2007), 12; the weight of 4 degrees is ours.
    pub fn of(&self, rig: &str, workload: &str, study: f64) -> f64 {
        let of_rig = self.seen.iter().filter(|((known, _), _)| known == rig);
        let (mut own, mut others) = ((0.0, 0.0), (0.0, 0.0));
        for ((_, of), (squares, degrees)) in of_rig {
            let sum = if of == workload { &mut own } else { &mut others };
            *sum = (sum.0 + squares, sum.1 + degrees);
        }
        let drawn = |towards: f64, (squares, degrees): (f64, f64)| {
            (PRIOR * towards + squares) / (PRIOR + degrees)
        };
        drawn(drawn(study * study, others), own).sqrt()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_sessions_say_nothing_and_three_do() {
        let two = Cell::from_sessions(vec![vec![1.0], vec![2.0]]).unwrap();
        assert_eq!(session_spread([&two]), SessionSpread::Assumed(ASSUMED_SESSION_SPREAD));
        // Logs −1, 0, 1: standard deviation 1 with n − 1.
        let e = std::f64::consts::E;
        let three = Cell::from_sessions(vec![vec![1.0 / e], vec![1.0], vec![e]]).unwrap();
        let SessionSpread::Measured(found) = session_spread([&two, &three]) else {
            panic!("three sessions measure")
        };
        assert!((found - 1.0).abs() < 1e-12);
    }

    #[test]
    fn a_restless_rig_has_a_spread_of_its_own_and_a_quiet_one_is_not_believed_at_once() {
        let e = |log: f64| vec![log.exp()];
        let cell = |spread: f64| Cell::from_sessions(vec![e(-spread), e(0.0), e(spread)]).unwrap();
        let mut days = DaySpreads::default();
        days.add("wren", "still", &cell(0.03));
        days.add("heron", "still", &cell(0.0));
        // Two degrees of freedom of 3 % beside four of 1 %: √((4·1 + 2·9)/6) = 1.915 %.
        assert!((days.of("wren", "reel", 0.01) - 0.01915).abs() < 1e-5);
        assert!((days.of("heron", "reel", 0.01) - 0.00816).abs() < 1e-5);
        assert_eq!(days.of("plover", "still", 0.01), 0.01);
    }
}
