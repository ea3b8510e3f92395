//! The between-session variance: what a lab's own days have shown, held together with what is assumed beforehand.

use super::Estimate;

/// The between-session standard deviation that is assumed beforehand, of logs: 1.5 %.
pub const ASSUMED_SD: f64 = 0.015;

/// How many degrees of freedom the assumption is worth.
pub const PRIOR_DEGREES: f64 = 4.0;

/// What a variant is assumed to have of its own on a day, as a share of what the day has.
pub const INTERACTION: f64 = 0.25;

/// How many degrees of freedom it is worth where a lab that knows its machines states it.
pub const STATED_DEGREES: f64 = 10.0;

/// How many degrees of freedom the lab's own days may add: rigs differ in how far their days differ, so however many were
/// measured on others, those of one rig are known no better than this.
pub const MOST_FURTHER: f64 = 2.0;

/// What one rig's days of one workload show of one measure.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Unit {
    /// Squared deviations of its session means from their mean, less what its laps' own spread explains.
    pub squares: f64,
    /// Sessions less one.
    pub degrees: f64,
}

impl Unit {
    /// Returns the unit of a rig and a workload from the session means of its variants.
    ///
    /// ```text
    /// squares = max(0, Σ (m_s − m̄)² − (k − 1)·noise)        m_s = mean over variants of (y_sv − ȳ_v)
    /// ```
    /// Its variants share its days: they are averaged first and add no degrees.
    ///
    /// * Shape: `deviations` holds, for each of the k sessions, the mean deviation of its variants from their own
    ///   means; `noise` is the variance of one of them by the laps' own spread.
    /// * Units: none (logs).
    /// * Source: analysis of variance by the method of moments, Searle et al. (1992), *Variance Components*, 3.5.
    pub fn of(deviations: &[f64], noise: f64) -> Self {
        let sessions = deviations.len() as f64;
        if sessions < 2.0 {
            return Self::default();
        }
        let mean = deviations.iter().sum::<f64>() / sessions;
        let squares: f64 = deviations.iter().map(|deviation| (deviation - mean).powi(2)).sum();
        let degrees = sessions - 1.0;
        Self { squares: (squares - degrees * noise).max(0.0), degrees }
    }
}

impl Unit {
    /// Returns what a rig's days show over several workloads that may have shared them.
    ///
    /// ```text
    /// degrees = min(Σ dᵢ, days − 1)        squares = degrees · Σ squaresᵢ / Σ dᵢ
    /// ```
    /// A day is counted once, however many workloads were run on it.
    ///
    /// * Units: none (logs).
    /// * Source: a rule of this tool: shared days are one sample of days.
    pub fn of_rig(workloads: &[Self], days: usize) -> Self {
        let all: f64 = workloads.iter().map(|unit| unit.degrees).sum();
        if all == 0.0 {
            return Self::default();
        }
        let degrees = all.min(days.saturating_sub(1) as f64);
        let squares: f64 = workloads.iter().map(|unit| unit.squares).sum();
        Self { squares: squares * degrees / all, degrees }
    }
}

/// Returns a variance that was seen, held together with a standard deviation that is taken beforehand and its degrees.
///
/// * Source: Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>.
pub(super) fn moderated((sd, degrees): (f64, f64), seen: Unit) -> f64 {
    (degrees * sd * sd + seen.squares) / (degrees + seen.degrees)
}

/// The between-session variance of one measure.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct BetweenSessions {
    /// Sum of squares of all units.
    squares: f64,
    /// Sum of degrees of freedom of all units.
    degrees: f64,
    /// The standard deviation that the lab states, of logs.
    stated: Option<f64>,
}

impl BetweenSessions {
    /// Returns what the independent units of a lab show, for one measure.
    pub fn of(units: impl IntoIterator<Item = Unit>) -> Self {
        units.into_iter().fold(Self::default(), |sum, unit| Self {
            squares: sum.squares + unit.squares,
            degrees: sum.degrees + unit.degrees,
            stated: None,
        })
    }

    /// Returns it held together with what a lab states instead of what is assumed.
    pub fn with_stated(self, stated: Option<f64>) -> Self {
        Self { stated, ..self }
    }

    /// Returns the standard deviation that the lab states.
    pub fn stated(&self) -> Option<f64> {
        self.stated
    }

    /// Returns the standard deviation that is taken beforehand, and its degrees of freedom.
    fn prior(&self) -> (f64, f64) {
        self.stated.map_or((ASSUMED_SD, PRIOR_DEGREES), |stated| (stated, STATED_DEGREES))
    }

    /// Returns the variance, moderated towards what is assumed.
    ///
    /// ```text
    /// τ̂² = (d₀·τ₀² + Σ dᵢ·sᵢ²) / (d₀ + Σ dᵢ)        τ₀ = 1.5 %, d₀ = 4; where τ₀ is stated, d₀ = 10
    /// ```
    /// * Units: none (logs).
    /// * Source: Smyth (2004), <https://doi.org/10.2202/1544-6115.1027>.
    pub fn variance(&self) -> f64 {
        moderated(self.prior(), Unit { squares: self.squares, degrees: self.degrees })
    }

    /// Returns the standard deviation, likewise.
    pub fn sd(&self) -> f64 {
        self.variance().sqrt()
    }

    /// Returns the degrees of freedom of the variance, where it stands for the days of one rig: d₀ + min(Σ dᵢ, 2).
    pub fn degrees(&self) -> f64 {
        self.prior().1 + self.degrees.min(MOST_FURTHER)
    }

    /// Returns the variance that a variant is assumed to have of its own on a day: a quarter of the day's deviation.
    pub(super) fn interaction(&self) -> f64 {
        self.variance() * INTERACTION * INTERACTION
    }

    /// Returns whether no day of the lab has shown anything yet, and it states nothing.
    pub fn is_assumed(&self) -> bool {
        self.degrees == 0.0 && self.stated.is_none()
    }

    /// Returns how many degrees of freedom the lab's own days have given.
    pub fn measured_degrees(&self) -> f64 {
        self.degrees
    }

    /// Returns the variance that sessions but those of `own` show, as an estimate of zero.
    pub(super) fn without(&self, own: Unit) -> Estimate {
        let degrees = (self.degrees - own.degrees).max(0.0);
        let squares = (self.squares - own.squares).max(0.0);
        let rest = Self { squares, degrees, ..*self };
        let degrees = rest.prior().1 + rest.degrees;
        Estimate { log: 0.0, variance: rest.variance(), degrees }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_measured_is_what_is_assumed() {
        let none = BetweenSessions::default();
        assert!(none.is_assumed());
        assert!((none.sd() - 0.015).abs() < 1e-15);
        assert_eq!(none.degrees(), 4.0);
        assert_eq!(Unit::of(&[0.3], 0.0), Unit::default(), "one session says nothing");
    }

    #[test]
    fn days_draw_it_towards_what_they_show() {
        // Deviations −1 %, 0, 1 %: squares 2e-4 on 2 degrees. (4·2.25e-4 + 2e-4)/6 = 1.8333e-4.
        let unit = Unit::of(&[-0.01, 0.0, 0.01], 0.0);
        let found = BetweenSessions::of([unit]);
        assert!((found.variance() - 1.833_333e-4).abs() < 1e-9);
        assert_eq!((found.degrees(), found.measured_degrees()), (6.0, 2.0));
        // Taken out again, the assumption is left.
        assert!((found.without(unit).variance - 2.25e-4).abs() < 1e-12);
    }

    #[test]
    fn what_a_lab_states_stands_for_what_is_assumed_and_counts_for_more() {
        // 0.6 % on 10 degrees beside 2e-4 on 2: (10·3.6e-5 + 2e-4)/12.
        let found = BetweenSessions::of([Unit { squares: 2e-4, degrees: 2.0 }]);
        let found = found.with_stated(Some(0.006));
        assert!((found.variance() - 5.6e-4 / 12.0).abs() < 1e-15);
        assert_eq!((found.degrees(), found.measured_degrees()), (12.0, 2.0));
        assert!(!BetweenSessions::default().with_stated(Some(0.006)).is_assumed());
    }

    #[test]
    fn a_day_counts_once_however_many_workloads_share_it() {
        let unit = Unit { squares: 2e-4, degrees: 2.0 };
        let shared = Unit::of_rig(&[unit; 5], 3);
        assert!((shared.squares - 2e-4).abs() < 1e-12 && shared.degrees == 2.0);
        let apart = Unit::of_rig(&[unit; 2], 6);
        assert!((apart.squares - 4e-4).abs() < 1e-12 && apart.degrees == 4.0);
        assert_eq!(Unit::of_rig(&[], 1), Unit::default());
    }

    #[test]
    fn what_laps_explain_is_no_variance_between_days() {
        let unit = Unit::of(&[-0.01, 0.0, 0.01], 0.5e-4);
        assert!((unit.squares - 1e-4).abs() < 1e-15);
        assert_eq!(Unit::of(&[-0.01, 0.0, 0.01], 1.0).squares, 0.0);
    }
}
