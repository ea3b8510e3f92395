//! Work per unit of money, per watt and per joule; which rigs stand on the edge of what can be had.

use super::wanted::{Placed, Wanted, unmeasured};
use crate::judge::{Difference, NoIndex, Verdict, Weighing, WorkloadView, between};
use crate::lab::PowerBy;
use crate::record::{Rig, Study};
use crate::stat::{Interval, Ranged, mean};
use crate::unit::Amount;
use serde::Serialize;
use std::collections::BTreeSet;

/// A rig's power, in watts, and whether its laps measured it or its study states it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Power {
    /// In the mean, at work.
    pub mean: Option<f64>,
    /// At most.
    pub peak: Option<f64>,
    /// With nothing to do; always as stated.
    pub idle: Option<f64>,
    /// Whether mean and peak were measured during the laps.
    pub measured: bool,
}

/// How a rig stands among all, by work and what it takes: its price, or its power.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Standing {
    /// No other takes less or as much and is not slower.
    Edge,
    /// Another takes less or as much, and is surely not slower.
    Beaten(String),
    /// Another takes less, and may be as fast.
    Open(String),
    /// It has no price or power, or no figure.
    Unknown,
}

/// How a rig stands to the baseline in something.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum Beside {
    /// It is the baseline.
    Baseline,
    /// How many times better it is.
    Stands(Difference),
    /// That cannot be said.
    Unsaid(NoIndex),
}

impl Beside {
    fn of(is_base: bool, found: Result<Difference, NoIndex>) -> Self {
        match found {
            _ if is_base => Self::Baseline,
            Ok(difference) => Self::Stands(difference),
            Err(why) => Self::Unsaid(why),
        }
    }

    /// Returns how many times better it is than the baseline, where that is known.
    fn ratio(&self) -> Option<f64> {
        match self {
            Self::Baseline => Some(1.0),
            Self::Stands(difference) => difference.speed,
            Self::Unsaid(_) => None,
        }
    }
}

/// A rig weighed.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct ValueRow {
    /// The rig.
    pub rig: String,
    /// Its price: none of its own where it is owned.
    pub price: Option<Amount>,
    /// Whether it is there already, so that to keep it costs nothing.
    pub owned: bool,
    /// How it stands to the baseline overall.
    pub work: Beside,
    /// Work per unit of money, as a ratio to the baseline's, with its interval.
    pub per_price: Option<Ranged>,
    /// Its power.
    pub power: Power,
    /// Work per watt of mean power, as a ratio to the baseline's.
    pub per_watt: Option<Ranged>,
    /// Work per joule: the baseline's energy over its own.
    pub per_joule: Beside,
    /// How it stands by work and price.
    pub standing: Standing,
    /// How it stands by work and mean power, where all powers are known in one way.
    pub standing_by_power: Standing,
}

/// One step up: from a rig on the edge to the next dearer one there.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Step {
    /// From.
    pub from: String,
    /// To.
    pub to: String,
    /// What it costs more.
    pub costs: Amount,
    /// The same as a share of what the first costs; none of what costs nothing.
    pub dearer_by: Option<f64>,
    /// How many times better it is.
    pub brings: Difference,
    /// By which share it does more work.
    pub more_work: Option<f64>,
}

/// What rigs are worth.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Economy {
    /// The rigs, most work for its price first; those without a price last.
    pub rows: Vec<ValueRow>,
    /// The steps up along the edge, cheapest first.
    pub steps: Vec<Step>,
    /// What rigs with a price that were not measured would have to reach.
    pub unmeasured: Vec<Wanted>,
    /// The measures that power and energy are taken from.
    pub power_by: PowerBy,
    /// Why prices are not held against each other, where they are in several units.
    pub units_differ: bool,
}

/// Returns what the rigs of `work` are worth, by their study's prices and their laps' power.
///
/// ```text
/// work per unit of money = index · price of the baseline / price        an index as of `lap compare --overall`
/// work per watt = index · mean power of the baseline / mean power
/// work per joule = index of energy: the weighted geometric mean of the baseline's energy over its own
/// ```
/// Prices are exact and measured power is taken as it is, so intervals are those of the index.
///
/// * Shape: `work` compares what workloads are about; `energy` their energy; `power` mean and peak power.
/// * The edge: a rig is beaten by one that costs no more and is surely faster, or costs less and is the
///   same within the margin or better (Pareto dominance with the verdicts of this tool).
/// * Units: money as the study states it, watts, joules; an index has none.
/// * Source: definitions of this tool; dominance after Pareto (1906), *Manuale di economia politica*.
pub fn economy(
    study: &Study,
    work: &[WorkloadView],
    energy: &[WorkloadView],
    power: (&[WorkloadView], &PowerBy),
    weighing: &Weighing,
) -> Economy {
    let (power, by) = power;
    let rigs = rigs(work, weighing);
    let Some(base) = rigs.first().copied() else { return Economy::default() };
    let owned = |rig: &str| study.rig(rig).is_some_and(|rig| rig.owned);
    let priced = |rig: &str| {
        let price = study.rig(rig).and_then(|rig| rig.price.clone());
        price.filter(|_| !owned(rig))
    };
    let units: BTreeSet<String> = rigs.iter().filter_map(|rig| Some(priced(rig)?.unit)).collect();
    let units_differ = units.len() > 1;
    let price = |rig: &str| {
        let of_own = if owned(rig) { Some(0.0) } else { Some(priced(rig)?.value) };
        of_own.filter(|_| !units_differ)
    };
    let base_power = power_of(study.rig(base), (power, by), base);
    let draws = |rig: &str| {
        let own = power_of(study.rig(rig), (power, by), rig);
        own.mean.filter(|_| own.measured == base_power.measured)
    };
    let mut rows: Vec<ValueRow> = rigs
        .iter()
        .map(|rig| {
            let stands = between(work, weighing, base, rig);
            let times = |factor: Option<f64>| {
                let difference = stands.as_ref().ok().filter(|d| !d.is_refused())?;
                let (speed, interval, factor) = (difference.speed?, difference.interval?, factor?);
                let ends = Interval { low: interval.low * factor, high: interval.high * factor };
                Some(Ranged { value: speed * factor, interval: ends })
            };
            let own = power_of(study.rig(rig), (power, by), rig);
            // What was measured and what somebody states are not held against each other.
            let watts = (own.measured == base_power.measured)
                .then(|| Some(base_power.mean? / own.mean?))
                .flatten();
            let is_base = *rig == base;
            ValueRow {
                rig: (*rig).to_owned(),
                price: priced(rig),
                owned: owned(rig),
                per_price: times(for_its_price(price(base), price(rig))).filter(|_| !is_base),
                per_watt: times(watts).filter(|_| !is_base),
                power: own,
                per_joule: Beside::of(is_base, between(energy, weighing, base, rig)),
                standing: standing(rig, &rigs, work, weighing, &price),
                standing_by_power: standing(rig, &rigs, work, weighing, &draws),
                work: Beside::of(is_base, stands),
            }
        })
        .collect();
    let value = |row: &ValueRow| match &row.per_price {
        Some(ratio) => -ratio.value,
        None if row.rig == base && price(base).is_some() => -1.0,
        None => f64::INFINITY,
    };
    rows.sort_by(|a, b| value(a).total_cmp(&value(b)).then_with(|| a.rig.cmp(&b.rig)));
    let unit = units.into_iter().next().unwrap_or_default();
    let steps = steps(&rows, work, weighing, (&price, &unit));
    let placed: Vec<Placed<'_>> =
        rows.iter().map(|row| (&*row.rig, price(&row.rig), row.work.ratio())).collect();
    let unmeasured = if units_differ { Vec::new() } else { unmeasured(study, &placed) };
    Economy { rows, steps, unmeasured, power_by: by.clone(), units_differ }
}

/// What a rig costs, where prices are in one money.
type Price<'a> = &'a dyn Fn(&str) -> Option<f64>;

/// Returns the factor that makes work into work for its price; none where one of both costs nothing.
fn for_its_price(base: Option<f64>, own: Option<f64>) -> Option<f64> {
    base.zip(own).filter(|(base, own)| *base > 0.0 && *own > 0.0).map(|(base, own)| base / own)
}

fn rigs<'a>(views: &'a [WorkloadView], weighing: &Weighing) -> Vec<&'a str> {
    let rows = views.iter().flat_map(|view| &view.groups).flat_map(|group| &group.rows);
    let all: BTreeSet<&str> = rows.map(|row| row.rig.as_str()).collect();
    let mut all: Vec<&str> = all.into_iter().collect();
    let place = |rig: &str| weighing.rig_order.iter().position(|known| known == rig);
    all.sort_by_key(|rig| (place(rig).unwrap_or(usize::MAX), *rig));
    all
}

/// Returns the power of a rig: over its workloads, each of which counts once however many variants it has; as stated
/// where nothing was measured.
fn power_of(stated: Option<&Rig>, (views, by): (&[WorkloadView], &PowerBy), rig: &str) -> Power {
    // One list for each workload.
    let of = |measure: &str| -> Vec<Vec<f64>> {
        let typical = |view: &WorkloadView| -> Vec<f64> {
            let rows = view.groups.iter().flat_map(|group| &group.rows);
            let own = rows.filter(|row| row.rig == rig).filter_map(|row| row.cell.as_ref());
            own.map(crate::judge::Cell::typical).collect()
        };
        views.iter().filter(|view| view.measure.name == measure).map(typical).collect()
    };
    let stated = stated.map(|rig| rig.power).unwrap_or_default();
    let means: Vec<f64> = of(&by.mean).iter().filter_map(|own| mean(own).ok()).collect();
    if means.is_empty() {
        return Power { mean: stated.mean, peak: stated.peak, idle: stated.idle, measured: false };
    }
    Power {
        mean: mean(&means).ok().map(|mean| mean * by.in_watts),
        peak: of(&by.peak).into_iter().flatten().reduce(f64::max).or(stated.peak),
        idle: stated.idle,
        measured: true,
    }
}

fn standing(
    rig: &str,
    rigs: &[&str],
    work: &[WorkloadView],
    weighing: &Weighing,
    takes: &dyn Fn(&str) -> Option<f64>,
) -> Standing {
    let Some(own) = takes(rig) else { return Standing::Unknown };
    let (mut open, mut known) = (None, false);
    for other in rigs.iter().filter(|other| **other != rig) {
        let Some(theirs) = takes(other) else { continue };
        let Ok(difference) = between(work, weighing, rig, other) else { continue };
        known |= !difference.is_refused();
        if theirs > own {
            continue;
        }
        let less = theirs < own;
        match difference.verdict {
            Verdict::Faster | Verdict::FasterWithin(_) => {
                return Standing::Beaten((*other).to_owned());
            }
            Verdict::SameWithin(_) | Verdict::SlowerWithin(_) if less => {
                return Standing::Beaten((*other).to_owned());
            }
            Verdict::TooClose => open = open.or(Some((*other).to_owned())),
            _ => {}
        }
    }
    match open {
        Some(other) => Standing::Open(other),
        None if known => Standing::Edge,
        None => Standing::Unknown,
    }
}

fn steps(
    rows: &[ValueRow],
    work: &[WorkloadView],
    weighing: &Weighing,
    (price, unit): (Price<'_>, &str),
) -> Vec<Step> {
    let stands = |row: &&ValueRow| matches!(row.standing, Standing::Edge | Standing::Open(_));
    let mut edge: Vec<(&ValueRow, f64)> =
        rows.iter().filter(stands).filter_map(|row| Some((row, price(&row.rig)?))).collect();
    edge.sort_by(|a, b| a.1.total_cmp(&b.1));
    let step = |pair: &[(&ValueRow, f64)]| {
        let ((from, less), (to, more)) = (pair[0], pair[1]);
        let brings = between(work, weighing, &from.rig, &to.rig).ok()?;
        let costs = Amount { value: more - less, unit: unit.to_owned() };
        let dearer_by = (less > 0.0).then(|| more / less - 1.0);
        let more_work = brings.speed.map(|speed| speed - 1.0);
        let (from, to) = (from.rig.clone(), to.rig.clone());
        Some(Step { from, to, costs, dearer_by, brings, more_work })
    };
    edge.windows(2).filter_map(step).collect()
}

#[cfg(test)]
#[path = "economy_tests.rs"]
mod tests;
