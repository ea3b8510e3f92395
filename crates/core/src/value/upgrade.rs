//! What an upgrade pays: time saved a month, what that is worth, and months until it is paid.

use crate::judge::{Assumptions, Cell, HeldConstant, WorkloadView};
use crate::record::Study;
use crate::stat::{Interval, Ranged};
use crate::unit::Amount;
use serde::Serialize;

/// What one workload saves.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct JobSaving {
    /// The workload.
    pub workload: String,
    /// Jobs a month.
    pub jobs: f64,
    /// Hours saved a month, less than none where it gets slower.
    pub hours: f64,
    /// Their interval.
    pub interval: Interval,
}

/// What going from one rig to another pays.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Upgrade {
    /// From.
    pub from: String,
    /// To.
    pub to: String,
    /// By workload.
    pub jobs: Vec<JobSaving>,
    /// Workloads with a number of jobs of which a rig lacks figures: not in the sums.
    pub missing: Vec<String>,
    /// Hours saved a month, in all, with their interval.
    pub hours: Ranged,
    /// What those are worth a month, with the interval.
    pub worth: Option<Ranged>,
    /// What it costs: the new rig's price, nothing where that is owned.
    pub costs: Option<Amount>,
    /// What the old rig fetches, which is taken off.
    pub sells: Option<Amount>,
    /// Months until it is paid, and their interval; an open upper end is infinite, and `None` says
    /// that it never is.
    pub months: Option<Ranged>,
}

/// Returns what going from rig `from` to rig `to` pays; `None` where no workload says how often it is done.
///
/// ```text
/// hours saved = Σ jobs · (T from − T to) / 3600        half-width = Σ jobs · √(h from² + h to²) / 3600
/// months until paid = (price − what the old rig fetches) / (hours saved · worth of an hour)
/// ```
/// T is the arithmetic mean of the laps, since time is spent in the long ones too, and h half the 95 % interval of
/// the typical in proportion. Half-widths of workloads are added up as they are, as if a rig's good and bad days struck all of
/// them alike: that is never too narrow. A workload's variants share its jobs equally.
///
/// * Units: hours, and the money of `hour`; an hour in another currency than the price gives no months.
/// * What electricity costs is left out, and what the old rig fetches where its `sells_for` is not stated in the same money.
/// * Source: propagation of uncertainty, JCGM 100:2008 (GUM), 5.1.2 and 5.2.2.
pub fn upgrade(
    study: &Study,
    views: &[WorkloadView],
    from: &str,
    to: &str,
    assume: &Assumptions,
) -> Option<Upgrade> {
    let (mut jobs, mut missing) = (Vec::new(), Vec::new());
    for workload in &study.workloads {
        let Some(count) = workload.jobs_a_month else { continue };
        let mut views = views.iter().filter(|view| view.workload == workload.name);
        let saved = views
            .find(|view| view.measure.is_time())
            .and_then(|view| saved(view, from, to, assume));
        let Some((each, half)) = saved else {
            missing.push(workload.name.clone());
            continue;
        };
        let (hours, half) = (count * each / 3600.0, count * half / 3600.0);
        let interval = Interval { low: hours - half, high: hours + half };
        jobs.push(JobSaving { workload: workload.name.clone(), jobs: count, hours, interval });
    }
    if jobs.is_empty() && missing.is_empty() {
        return None;
    }
    let sum = |of: fn(&JobSaving) -> f64| jobs.iter().map(of).sum::<f64>();
    let interval =
        Interval { low: sum(|job| job.interval.low), high: sum(|job| job.interval.high) };
    let hours = Ranged { value: sum(|job| job.hours), interval };
    let worth = study.hour.as_ref().map(|hour| {
        let ends = Interval { low: interval.low * hour.value, high: interval.high * hour.value };
        Ranged { value: hours.value * hour.value, interval: ends }
    });
    let priced = |rig: &crate::record::Rig| {
        let unit = study.hour.as_ref().map(|hour| hour.unit.clone());
        let nothing = rig.owned.then(|| Amount { value: 0.0, unit: unit.unwrap_or_default() });
        nothing.or_else(|| rig.price.clone())
    };
    let costs = study.rig(to).and_then(priced);
    let sells = study.rig(from).and_then(|rig| rig.sells_for.clone());
    let sells = sells.filter(|sells| costs.as_ref().is_some_and(|costs| costs.unit == sells.unit));
    let off = sells.as_ref().map_or(0.0, |sells| sells.value);
    let one_money = costs.as_ref().zip(study.hour.as_ref()).is_some_and(|(a, b)| a.unit == b.unit);
    let months = worth.zip(costs.as_ref()).filter(|_| one_money).and_then(|(worth, price)| {
        let Ranged { value: worth, interval: ends } = worth;
        let price = (price.value - off).max(0.0);
        // Saving nothing for sure is never paid; saving perhaps nothing is paid perhaps never.
        let least = (ends.high > 0.0).then(|| price / ends.high)?;
        let most = if ends.low > 0.0 { price / ends.low } else { f64::INFINITY };
        let typical = if worth > 0.0 { price / worth } else { f64::INFINITY };
        Some(Ranged { value: typical, interval: Interval { low: least, high: most } })
    });
    let (from, to) = (from.to_owned(), to.to_owned());
    Some(Upgrade { from, to, jobs, missing, hours, worth, costs, sells, months })
}

/// Returns seconds saved a job, and half the width of their interval: the mean over variants.
fn saved(view: &WorkloadView, from: &str, to: &str, assume: &Assumptions) -> Option<(f64, f64)> {
    let (mut total, mut halves, mut variants) = (0.0, 0.0, 0.0);
    for group in view.groups.iter().filter(|group| matches!(group.held, HeldConstant::Variant(_))) {
        let cell = |rig: &str| group.rows.iter().find(|row| row.rig == rig)?.cell.as_ref();
        let half = |cell: &Cell| {
            let interval = cell.interval_shared(assume.shared_by).ok()?;
            Some((interval.high - interval.low) / 2.0 * cell.mean() / cell.typical())
        };
        let (old, new) = (cell(from)?, cell(to)?);
        total += old.mean() - new.mean();
        halves += half(old)?.hypot(half(new)?);
        variants += 1.0;
    }
    (variants > 0.0).then(|| (total / variants, halves / variants))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::judge::{Ask, compare};
    use crate::record::{LapHead, LapName, Launch, Rest, Rig, Settings, Task, Workload};
    use crate::unit::Nanos;

    fn study() -> Study {
        let money = |value| Some(Amount { value, unit: "EUR".into() });
        let workload = Workload {
            name: "still".into(),
            about: None,
            task: Task::of(Launch::Direct(Vec::new())),
            vary: Vec::new(),
            laps: 3,
            warm_up: 0,
            rest: Rest::default(),
            limit: Nanos(1),
            versions: Vec::new(),
            modes: Vec::new(),
            same_pictures: Vec::new(),
            inputs: Vec::new(),
            keep: false,
            weight: 1.0,
            group: None,
            jobs_a_month: Some(360.0),
            assume_cv: None,
            only: Vec::new(),
        };
        let rig = Rig { name: "kestrel".into(), price: money(2000.0), ..Rig::default() };
        Study { hour: money(40.0), rigs: vec![rig], workloads: vec![workload], ..Study::default() }
    }

    fn found(study: &Study, heron_s: f64, kestrel_s: f64) -> Option<Upgrade> {
        let mut laps = Vec::new();
        for (rig, seconds) in [("heron", heron_s), ("kestrel", kestrel_s)] {
            for session in 1..=3 {
                for lap in 1..=3 {
                    let name = LapName::parse(&format!("{rig}-{session}.{lap}")).unwrap();
                    let off = 1.0 + 0.0005 * f64::from(session - 2);
                    let wall = Nanos((seconds * off * 1e9) as u64);
                    laps.push(LapHead::done(name, "still", Settings::default(), wall));
                }
            }
        }
        let views = compare(&laps, &Ask { margin: 0.02, ..Ask::default() });
        upgrade(study, &views, "heron", "kestrel", &Assumptions::of(0.02))
    }

    #[test]
    fn time_saved_pays_for_the_machine() {
        // 360 jobs · 100 s = 10 h a month, at 40 EUR an hour: 2000 / 400 = 5 months.
        let found = found(&study(), 300.0, 200.0).unwrap();
        let Ranged { value: hours, interval } = found.hours;
        assert!((hours - 10.0).abs() < 1e-3, "{hours}");
        // Intervals of ±0.124 % of 300 and 200 s: √(0.373² + 0.248²)·360/3600 = 0.0448 h.
        assert!((interval.high - hours - 0.0448).abs() < 5e-4, "{interval:?}");
        let Ranged { value: months, interval: ends } = found.months.unwrap();
        assert!((months - 5.0).abs() < 1e-3 && ends.low < 5.0 && ends.high > 5.0);
    }

    #[test]
    fn what_the_old_rig_fetches_is_taken_off_its_price() {
        let mut study = study();
        let fetches = |value| Some(Amount { value, unit: "EUR".into() });
        study.rigs.push(Rig { name: "heron".into(), sells_for: fetches(400.0), ..Rig::default() });
        let upgrade = found(&study, 300.0, 200.0).unwrap();
        // (2000 − 400)/400.
        assert!((upgrade.months.unwrap().value - 4.0).abs() < 1e-3, "{upgrade:?}");
        study.rigs[1].sells_for = Some(Amount { value: 400.0, unit: "USD".into() });
        assert!((found(&study, 300.0, 200.0).unwrap().months.unwrap().value - 5.0).abs() < 1e-3);
        study.rigs[0].owned = true;
        assert_eq!(found(&study, 300.0, 200.0).unwrap().months.unwrap().value, 0.0);
    }

    #[test]
    fn a_slower_machine_is_never_paid_and_one_that_may_be_as_slow_perhaps_never() {
        assert_eq!(found(&study(), 200.0, 300.0).unwrap().months, None);
        let perhaps = found(&study(), 200.0, 199.9).unwrap().months.unwrap();
        assert!(perhaps.interval.high.is_infinite() && perhaps.value.is_finite());
    }

    #[test]
    fn without_jobs_there_is_nothing_to_pay_and_another_currency_gives_no_months() {
        let mut study = study();
        study.hour = Some(Amount { value: 40.0, unit: "USD".into() });
        assert_eq!(found(&study, 300.0, 200.0).unwrap().months, None);
        study.workloads[0].jobs_a_month = None;
        assert_eq!(found(&study, 300.0, 200.0), None);
    }
}
