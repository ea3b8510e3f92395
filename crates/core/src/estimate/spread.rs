//! The lap-to-lap variation that is assumed of a cell whose own laps are too few to show it.

use super::between::{STATED_DEGREES, Unit, moderated};
use super::side::CONTRADICTS;
use crate::stat::{StatError, f_upper_tail};

/// How many degrees of freedom other cells' laps are worth where they stand for one that has too few: rigs differ in how
/// far their laps differ, so however many were measured on others, those of one rig are known no better than this.
pub const MOST_LENT: f64 = 4.0;

/// Degrees of freedom that a cell needs to lend its spread: those of three laps.
const LEAST_DEGREES: f64 = 2.0;

/// How far laps of a workload differ within a session, as other cells show it or the lab states it.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct LapSpread {
    seen: Unit,
    stated: Option<f64>,
}

impl LapSpread {
    /// Returns what the cells of a workload show of a measure, and the lab states; `None` where nothing is known.
    ///
    /// * Shape: of each cell, the squared deviations of its laps' logs within sessions, and their degrees of freedom. One with
    ///   fewer than two has too few laps itself, and lends nothing.
    pub fn of(cells: impl IntoIterator<Item = Unit>, stated: Option<f64>) -> Option<Self> {
        let enough = cells.into_iter().filter(|cell| cell.degrees >= LEAST_DEGREES);
        let seen = enough.fold(Unit::default(), |sum, cell| Unit {
            squares: sum.squares + cell.squares,
            degrees: sum.degrees + cell.degrees,
        });
        (seen.degrees > 0.0 || stated.is_some()).then_some(Self { seen, stated })
    }

    /// Returns the variance of one lap's log.
    ///
    /// ```text
    /// σ̂² = (d₀·σ₀² + Σ dᵢ·sᵢ²) / (d₀ + Σ dᵢ)        d₀ = 10 where σ₀ is stated, else 0
    /// ```
    /// * Units: none (logs).
    /// * Source: Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>.
    pub fn variance(&self) -> f64 {
        moderated(self.prior(), self.seen)
    }

    /// Returns the standard deviation, likewise.
    pub fn sd(&self) -> f64 {
        self.variance().sqrt()
    }

    /// Returns the degrees of freedom of the variance, where it stands for the laps of one rig: d₀ + min(Σ dᵢ, 4).
    pub fn degrees(&self) -> f64 {
        self.prior().1 + self.seen.degrees.min(MOST_LENT)
    }

    /// Returns the standard deviation that the lab states.
    pub fn stated(&self) -> Option<f64> {
        self.stated
    }

    /// Returns how many degrees of freedom the laps of other cells have given.
    pub fn measured_degrees(&self) -> f64 {
        self.seen.degrees
    }

    fn prior(&self) -> (f64, f64) {
        self.stated.map_or((0.0, 0.0), |stated| (stated, STATED_DEGREES))
    }

    /// Returns the variance of one lap's log where a cell's own few laps are held together with it, and its degrees of
    /// freedom; `None` where they differ by more than it allows.
    ///
    /// ```text
    /// (ν·σ̂² + d·s²) / (ν + d) with ν + d degrees        none where P(F > s²/σ̂²) < 20 %
    /// ```
    /// * Errors: as of [`f_upper_tail`].
    /// * Units: none (logs).
    /// * Source: moderated variance, Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>; the F test of two variances.
    pub fn held_with(&self, own: Unit) -> Result<Option<(f64, f64)>, StatError> {
        let (variance, degrees) = (self.variance(), self.degrees());
        if own.degrees == 0.0 {
            return Ok(Some((variance, degrees)));
        }
        let ratio = own.squares / own.degrees / variance;
        if !ratio.is_finite() || f_upper_tail(ratio, own.degrees, degrees)? < CONTRADICTS {
            return Ok(None);
        }
        let all = degrees + own.degrees;
        Ok(Some(((degrees * variance + own.squares) / all, all)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const QUIET: Unit = Unit { squares: 8e-4, degrees: 8.0 };

    #[test]
    fn laps_of_others_lend_their_spread_and_few_degrees() {
        let known = LapSpread::of([QUIET, QUIET], None).unwrap();
        assert!((known.sd() - 0.01).abs() < 1e-12);
        assert_eq!((known.degrees(), known.measured_degrees()), (4.0, 16.0));
        assert_eq!(LapSpread::of([], None), None);
        assert_eq!(LapSpread::of([Unit::default()], None), None);
    }

    #[test]
    fn what_is_stated_counts_for_ten_and_is_held_together_with_what_is_seen() {
        let stated = LapSpread::of([], Some(0.02)).unwrap();
        assert_eq!((stated.sd(), stated.degrees()), (0.02, 10.0));
        // (10·4e-4 + 8e-4)/18.
        let both = LapSpread::of([QUIET], Some(0.02)).unwrap();
        assert!((both.variance() - 4.8e-3 / 18.0).abs() < 1e-15);
        assert_eq!(both.degrees(), 14.0);
    }

    #[test]
    fn two_laps_of_ones_own_are_held_together_with_it_unless_they_contradict_it() {
        let known = LapSpread::of([QUIET], None).unwrap();
        // (4·1e-4 + 2e-4)/5.
        let (variance, degrees) =
            known.held_with(Unit { squares: 2e-4, degrees: 1.0 }).unwrap().unwrap();
        assert!((variance - 1.2e-4).abs() < 1e-15 && degrees == 5.0);
        assert_eq!(known.held_with(Unit { squares: 1e-2, degrees: 1.0 }).unwrap(), None);
        assert_eq!(known.held_with(Unit::default()).unwrap(), Some((known.variance(), 4.0)));
    }

    #[test]
    fn what_has_too_few_laps_itself_lends_nothing() {
        assert_eq!(LapSpread::of([Unit { squares: 1.0, degrees: 1.0 }], None), None);
    }
}
