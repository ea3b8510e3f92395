//! The difference of two cells: a ratio of speed, its interval, its verdict, what would resolve it.

use super::apart::Apart;
use super::assumption::Assumptions;
use super::cell::{Allowances, Cell};
use super::verdict::{LEAST_LAPS, Refusal, Verdict, judge};
use crate::estimate::{
    self, BetweenSessions, ENOUGH_SESSIONS, Estimate, LapSpread, in_turn, pairs_needed,
};
use crate::stat::{Interval, LapsNeeded, StatError, laps_needed, standard_deviation};
use serde::Serialize;

/// What a comparison stands on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Ground {
    /// Pairs run in the same rounds of the same sessions: they share what a day does to both.
    Pairs(usize),
    /// One value a session on both sides, this many on the side with fewer.
    Sessions(usize),
    /// At least one side has one session only, so the interval is widened by between-session variation.
    ThisSessionOnly,
    /// At least one side has too few laps to show how far they differ, so that is assumed.
    AssumedSpread,
}

/// What would make an open comparison say more.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Needed {
    /// Laps on each side, until both have this many.
    LapsUpTo(usize),
    /// This many laps a side, in one session, as a range.
    Laps(LapsNeeded),
    /// Sessions on each side, until both have this many.
    SessionsUpTo(usize),
    /// This many sessions a side, as a range.
    Sessions(LapsNeeded),
}

/// Laps or sessions that nobody runs to resolve one comparison: what needs more is as good as never resolved.
const WORTH_RUNNING: u32 = 30;

impl Needed {
    /// Returns whether so few laps or sessions are needed that it is worth running them.
    pub fn is_worth_running(&self) -> bool {
        match self {
            Self::LapsUpTo(_) | Self::SessionsUpTo(_) => true,
            Self::Laps(need) | Self::Sessions(need) => need.plain <= WORTH_RUNNING,
        }
    }
}

/// A cell held against its baseline.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Difference {
    /// Ratio of speed, baseline's time over this cell's: above 1 is faster. `None` if refused.
    #[serde(rename = "ratio")]
    pub speed: Option<f64>,
    /// Its 95 % interval; `None` for a single lap.
    pub interval: Option<Interval>,
    /// What it supports.
    #[serde(flatten)]
    pub verdict: Verdict,
    /// What it stands on.
    pub ground: Ground,
    /// What would make it say more, where it says too little.
    pub needed: Option<Needed>,
    /// Standard uncertainty of its log that reading by hand leaves.
    pub reading: f64,
    /// How far both lie apart where they have no ratio, since one has a value of zero or less.
    pub apart: Option<Apart>,
    /// Whether it is one of work in a second: both do not do the same work.
    pub by_rate: bool,
}

impl Difference {
    /// Returns the share of time saved against the baseline: 0.4 is 40 % less, −0.25 is 25 % more.
    ///
    /// Of unlike work it is none: how long each takes says nothing.
    pub fn time_saved(&self) -> Option<f64> {
        self.speed.filter(|_| !self.by_rate).map(|speed| 1.0 - 1.0 / speed)
    }

    /// Returns whether its own interval excludes 1 and its verdict, which it shares a chance of error
    /// for, does not.
    pub fn is_by_chance(&self) -> bool {
        let apart = self.interval.is_some_and(|ends| ends.low > 1.0 || ends.high < 1.0);
        apart && matches!(self.verdict, Verdict::TooClose | Verdict::SameWithin(_))
    }

    /// Returns whether there is no verdict.
    pub fn is_refused(&self) -> bool {
        matches!(self.verdict, Verdict::Refused(_))
    }

    /// Returns the difference without its verdict, for which a side has too few laps.
    fn with_too_few(self, laps: usize) -> Self {
        let needed = Some(Needed::LapsUpTo(LEAST_LAPS));
        Self { verdict: Verdict::Refused(Refusal::FewLaps(laps)), needed, ..self }
    }

    /// Returns a difference of which nothing can be said.
    pub(crate) fn refused(why: Refusal, ground: Ground, needed: Option<Needed>) -> Self {
        let (speed, interval, reading, apart, by_rate) = (None, None, 0.0, None, false);
        let verdict = Verdict::Refused(why);
        Self { speed, interval, verdict, ground, needed, reading, apart, by_rate }
    }
}

/// Returns `cell` held against `base`, where the two were not run in turn: two rigs, or laps of different days.
///
/// * Judged by [`estimate::difference`].
/// * One lap on a side that has one session: a bare ratio, no interval, no verdict. Two: no verdict.
pub fn across_rigs(base: &Cell, cell: &Cell, assume: &Assumptions) -> Difference {
    let fewest_sessions = base.sessions().min(cell.sessions());
    let lent = base.assumed().or(cell.assumed()).is_some();
    let ground = match fewest_sessions {
        ..ENOUGH_SESSIONS if lent => Ground::AssumedSpread,
        1 => Ground::ThisSessionOnly,
        _ => Ground::Sessions(fewest_sessions),
    };
    // Laps matter only on a side that is judged by them.
    let laps_of = |c: &Cell| (!c.is_enough()).then(|| c.laps());
    let fewest_laps = [base, cell].into_iter().filter_map(laps_of).min();
    if let Some(laps) = fewest_laps.filter(|&laps| laps < 2) {
        return too_few(base.typical() / cell.typical(), None, laps, ground);
    }
    let ratio = estimate::difference(&base.side(), &cell.side());
    let said = judged(ratio, base.allowances().with(cell.allowances()), ground, assume);
    if let Some(laps) = fewest_laps {
        return said.with_too_few(laps);
    }
    if ground == Ground::AssumedSpread {
        let needed = (said.verdict == Verdict::TooClose).then_some(Needed::LapsUpTo(LEAST_LAPS));
        return Difference { needed, ..said };
    }
    let needed = (said.verdict == Verdict::TooClose)
        .then(|| needed_across(base, cell, fewest_sessions, assume.margin));
    Difference { needed: needed.flatten(), ..said }
}

/// Returns `cell` held against `base`, where both were run in turn in the same sessions.
///
/// * Shape: `sessions` holds (base, cell) of each round, session by session. O(n).
/// * Judged by [`in_turn`]; with nothing known of laps, one pair: no interval; two: no verdict.
/// * `lent`: how far laps differ, where these pairs are too few to show it.
pub fn within_session(
    sessions: &[Vec<(f64, f64)>],
    allowances: Allowances,
    between: &BetweenSessions,
    lent: Option<LapSpread>,
    assume: &Assumptions,
) -> Difference {
    let pairs: usize = sessions.iter().map(Vec::len).sum();
    let lent = lent.filter(|_| (1..LEAST_LAPS).contains(&pairs));
    let ground = lent.map_or(Ground::Pairs(pairs), |_| Ground::AssumedSpread);
    let Some(logs) = log_ratios(sessions) else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    if pairs < 2 && lent.is_none() {
        return match logs.concat().first() {
            Some(log) => too_few((-log).exp(), None, 1, ground),
            None => Difference::refused(Refusal::NoLaps, ground, None),
        };
    }
    let ratio =
        in_turn(&logs, between, lent).map(|ratio| ratio.widened(allowances.reading.powi(2)));
    let said = judged(ratio, allowances, ground, assume);
    if lent.is_some() {
        let needed = (said.verdict == Verdict::TooClose).then_some(Needed::LapsUpTo(LEAST_LAPS));
        return Difference { needed, ..said };
    }
    if pairs < LEAST_LAPS {
        return said.with_too_few(pairs);
    }
    let needed = (said.verdict == Verdict::TooClose)
        .then(|| needed_pairs(&logs, allowances, between, assume.margin).ok())
        .flatten();
    Difference { needed, ..said }
}

/// Returns ln(cell / base) of every pair; `None` where a value has no logarithm.
pub(super) fn log_ratios(sessions: &[Vec<(f64, f64)>]) -> Option<Vec<Vec<f64>>> {
    let has_log = |value: f64| value.is_finite() && value > 0.0;
    let log = |&(base, cell): &(f64, f64)| {
        (has_log(base) && has_log(cell)).then(|| cell.ln() - base.ln())
    };
    sessions.iter().map(|pairs| pairs.iter().map(log).collect()).collect()
}

/// Returns the difference that an estimated time ratio `cell / base` comes to.
pub(super) fn judged(
    ratio: Result<Estimate, StatError>,
    allowances: Allowances,
    ground: Ground,
    assume: &Assumptions,
) -> Difference {
    let shares = assume.shares(allowances.alpha());
    let found = ratio.and_then(|ratio| Ok((ratio, judge(&ratio, assume.margin, shares)?)));
    let Ok((ratio, judged)) = found else {
        return Difference::refused(Refusal::NoRatio, ground, None);
    };
    let half = judged.half_95;
    Difference {
        speed: Some((-ratio.log).exp()),
        // A time ratio b / a turned into a ratio of speed a / b.
        interval: Some(Interval {
            low: (-ratio.log - half).exp(),
            high: (-ratio.log + half).exp(),
        }),
        verdict: judged.verdict,
        ground,
        needed: None,
        reading: allowances.reading,
        apart: None,
        by_rate: false,
    }
}

fn too_few(speed: f64, interval: Option<Interval>, laps: usize, ground: Ground) -> Difference {
    Difference {
        speed: Some(speed),
        interval,
        verdict: Verdict::Refused(Refusal::FewLaps(laps)),
        ground,
        needed: Some(Needed::LapsUpTo(LEAST_LAPS)),
        reading: 0.0,
        apart: None,
        by_rate: false,
    }
}

fn needed_across(base: &Cell, cell: &Cell, sessions: usize, margin: f64) -> Option<Needed> {
    if sessions < ENOUGH_SESSIONS {
        return Some(Needed::SessionsUpTo(ENOUGH_SESSIONS));
    }
    let spread = |c: &Cell| standard_deviation(c.session_logs());
    let (Ok(a), Ok(b)) = (spread(base), spread(cell)) else { return None };
    let df = (base.sessions() + cell.sessions() - 2) as f64;
    let pooled = ((base.sessions() - 1) as f64 * a * a + (cell.sessions() - 1) as f64 * b * b) / df;
    let need = laps_needed(pooled.sqrt(), df, settling_half_width(margin)).ok()?;
    Some(Needed::Sessions(more_than(sessions, need)))
}

fn needed_pairs(
    logs: &[Vec<f64>],
    allowances: Allowances,
    between: &BetweenSessions,
    margin: f64,
) -> Result<Needed, StatError> {
    let sessions = logs.iter().filter(|session| !session.is_empty()).count();
    if sessions > 1 {
        return Ok(Needed::SessionsUpTo(ENOUGH_SESSIONS.max(sessions + 1)));
    }
    let differences = logs.concat();
    let need = pairs_needed(
        standard_deviation(&differences)?,
        (differences.len() - 1) as f64,
        settling_half_width(margin).ln_1p(),
        allowances.reading,
        between,
    )?;
    // What laps of one day cannot show takes more days.
    Ok(need.map_or(Needed::SessionsUpTo(ENOUGH_SESSIONS), |need| {
        Needed::Laps(more_than(differences.len(), need))
    }))
}

/// Returns the half-width, as a fraction, at which every comparison is settled: half the margin
/// on the log scale. A ratio within it of 1 then has its interval inside the margin, and is the
/// same; a ratio farther off has an interval that excludes 1.
fn settling_half_width(margin: f64) -> f64 {
    (1.0 + margin).sqrt() - 1.0
}

/// Returns `need` as more than what was not enough.
fn more_than(driven: usize, need: LapsNeeded) -> LapsNeeded {
    let least = u32::try_from(driven + 1).unwrap_or(u32::MAX);
    LapsNeeded { plain: need.plain.max(least), assured: need.assured.max(least) }
}

#[cfg(test)]
#[path = "difference_tests.rs"]
mod tests;
