//! Two ways at once: one varied setting against rigs, and whether its gain is the same on all of them.

use super::ask::Ask;
use super::assumption::Assumptions;
use super::cell::Allowances;
use super::difference::{Difference, Ground, judged, log_ratios};
use super::table::{Table, shared_by};
use super::unlike_work::costs;
use super::verdict::LEAST_LAPS;
use super::view::Row;
use crate::estimate::{Estimate, difference, in_turn};
use crate::record::Settings;
use crate::stat::{Interval, Ranged};
use serde::Serialize;

/// One value of a setting on one rig.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Gain {
    /// The rig.
    pub rig: String,
    /// The setting's value.
    pub value: String,
    /// What it gains against the setting's first value on the same rig; none of that value itself.
    pub gain: Option<Difference>,
    /// Where the setting counts something: the gain over how many times as much there is of it.
    pub efficiency: Option<Ranged>,
    /// How its gain stands to that of the baseline's rig: above 1 is a larger gain.
    pub against: Option<Difference>,
}

/// One setting of a workload's measure, against rigs.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct TwoWay {
    /// The other settings, which are the same throughout.
    #[serde(serialize_with = "crate::record::by_name")]
    #[cfg_attr(test, schemars(with = "std::collections::BTreeMap<String, String>"))]
    pub held: Settings,
    /// The setting's first value.
    pub first: String,
    /// The rig whose gain the others are held against.
    pub baseline: String,
    /// The gains, rig by rig.
    pub gains: Vec<Gain>,
}

/// Returns the gain of every value of `setting` on every rig of `table`, for each of the other settings.
///
/// ```text
/// gain = speed with the value / speed with the first        efficiency = gain / (value / first)
/// ratio of gains = exp(d rig − d baseline), d = mean ln gain, variances added, degrees by Satterthwaite
/// ```
/// Gains pair the laps of the same rounds where there are any: they share their days. Values that were run on
/// different days carry between-session variation on both sides.
///
/// * Shape: `None` where no two variants differ in `setting` alone.
/// * Source: Satterthwaite (1946), <https://doi.org/10.2307/3002019>; Amdahl (1967) for efficiency.
/// * Units: none (ratios).
pub fn two_way(table: &Table<'_>, setting: &str, ask: &Ask, assume: &Assumptions) -> Vec<TwoWay> {
    let known = ask.variant_order.get(table.workload).map_or(&[][..], Vec::as_slice);
    let place = |row: &Row| known.iter().position(|v| *v == row.settings).unwrap_or(usize::MAX);
    let mut rows: Vec<&Row> =
        table.rows.iter().filter(|row| row.settings.get(setting).is_some()).collect();
    let number = |row: &Row| row.settings.get(setting).and_then(|text| text.parse::<f64>().ok());
    rows.sort_by(|a, b| {
        let numbers = number(a).zip(number(b));
        let by_number = numbers.map_or(std::cmp::Ordering::Equal, |(a, b)| a.total_cmp(&b));
        place(a).cmp(&place(b)).then(by_number).then_with(|| a.settings.cmp(&b.settings))
    });
    let mut held: Vec<Settings> = rows.iter().map(|row| row.settings.without(setting)).collect();
    held.sort();
    held.dedup();
    held.into_iter().filter_map(|held| one(table, setting, &held, &rows, ask, assume)).collect()
}

fn one(
    table: &Table<'_>,
    setting: &str,
    held: &Settings,
    rows: &[&Row],
    ask: &Ask,
    assume: &Assumptions,
) -> Option<TwoWay> {
    let rows: Vec<&Row> =
        rows.iter().copied().filter(|row| row.settings.without(setting) == *held).collect();
    let value = |row: &Row| row.settings.get(setting).unwrap_or_default().to_owned();
    let first = value(rows.first()?);
    if rows.iter().all(|row| value(row) == first) {
        return None;
    }
    let mut rigs: Vec<&str> = rows.iter().map(|row| row.rig.as_str()).collect();
    rigs.sort_by_key(|rig| {
        (ask.rig_order.iter().position(|known| known == rig).unwrap_or(usize::MAX), *rig)
    });
    rigs.dedup();
    let baseline = (*rigs.first()?).to_owned();
    let of = |rig: &str, wanted: &str| {
        rows.iter().copied().find(|row| row.rig == rig && value(row) == wanted)
    };
    // Of each rig, the values are held against the first; all comparisons of gains are one family.
    let values = |rig: &str| rows.iter().filter(|row| row.rig == rig && row.has_values()).count();
    let compared = rigs.iter().skip(1).map(|rig| values(rig).saturating_sub(1)).sum::<usize>();
    let among = Assumptions { family: shared_by(compared + 1), ..*assume };
    let mut gains = Vec::new();
    for rig in &rigs {
        for row in rows.iter().filter(|row| row.rig == *rig) {
            let base = of(rig, &first).filter(|base| base.settings != row.settings);
            let of_rig = Assumptions { family: shared_by(values(rig)), ..*assume };
            let gain = base.map(|base| table.difference(base, row, &of_rig));
            let counts = first.parse().ok().zip(value(row).parse::<f64>().ok());
            let efficiency = gain.and_then(|gain| {
                let (first, now): (f64, f64) = counts?;
                let times = now / first;
                let ends = gain.interval.filter(|_| times > 1.0 && times.is_finite())?;
                let interval = Interval { low: ends.low / times, high: ends.high / times };
                Some(Ranged { value: gain.speed? / times, interval })
            });
            let against = (*rig != baseline).then(|| {
                let theirs = (of(&baseline, &first)?, of(&baseline, &value(row))?);
                let ours = (base?, *row);
                gains_differ(table, theirs, ours, &among)
            });
            let (rig, value, against) = ((*rig).to_owned(), value(row), against.flatten());
            gains.push(Gain { rig, value, gain, efficiency, against });
        }
    }
    Some(TwoWay { held: held.clone(), first, baseline, gains })
}

/// Returns how the gain of `ours` stands to that of `theirs`: each is (first value, this value).
fn gains_differ(
    table: &Table<'_>,
    theirs: (&Row, &Row),
    ours: (&Row, &Row),
    assume: &Assumptions,
) -> Option<Difference> {
    let rows = [theirs.0, theirs.1, ours.0, ours.1];
    let allowances = rows
        .into_iter()
        .filter_map(|row| Some(row.cell.as_ref()?.allowances()))
        .reduce(Allowances::with)?;
    // Less is better for a judge: a larger gain is a shorter time.
    let ratio = slowdown(table, ours)?.minus(slowdown(table, theirs)?);
    let pairs = table.pairs(ours.0, ours.1).iter().map(Vec::len).sum();
    let said = judged(Ok(ratio), allowances, Ground::Pairs(pairs), assume);
    (!said.is_refused()).then_some(said)
}

/// Returns ln(time of `row` / time of `base`); `None` of too few laps.
fn slowdown(table: &Table<'_>, (base, row): (&Row, &Row)) -> Option<Estimate> {
    let (base_cell, cell) = (base.cell.as_ref()?, row.cell.as_ref()?);
    let better = table.measure.better;
    let pairs = table.pairs(base, row);
    if pairs.iter().map(Vec::len).sum::<usize>() >= LEAST_LAPS {
        let reading = base_cell.allowances().with(cell.allowances()).reading;
        return Some(
            in_turn(&log_ratios(&pairs)?, &cell.between(), None).ok()?.widened(reading.powi(2)),
        );
    }
    if !(base_cell.is_enough() && cell.is_enough()) {
        return None;
    }
    let (base, cell) = costs((base, base_cell), (row, cell), better);
    difference(&base.side(), &cell.side()).ok()
}

#[cfg(test)]
mod tests {
    use super::super::tabulate::tables;
    use super::*;
    use crate::judge::Verdict;
    use crate::lab::Laps;
    use crate::record::{LapHead, LapName};
    use crate::unit::Nanos;

    fn laps(rig: &str, threads: u32, ms: f64) -> Vec<LapHead> {
        let lap = |round: u32| {
            let number = 10 * threads + round;
            let name = LapName::parse(&format!("{rig}-1.{number}")).unwrap();
            let settings = Settings::new(vec![("threads".into(), threads.to_string())]);
            let off = 1.0 + 0.002 * f64::from(round % 3) + 0.001 * f64::from((threads + round) % 2);
            let wall = Nanos((ms * off * 1e6) as u64);
            LapHead { round, ..LapHead::done(name, "still", settings, wall) }
        };
        (1..=6).map(lap).collect()
    }

    fn found(wren_two: f64) -> TwoWay {
        let all = [
            laps("heron", 1, 1000.0),
            laps("heron", 2, 617.0),
            laps("wren", 1, 2000.0),
            laps("wren", 2, wren_two),
        ]
        .concat();
        let ask = Ask { margin: 0.02, rig_order: vec!["heron".into()], ..Ask::default() };
        let laps = Laps::from(&all);
        let tables = tables(&laps, &ask);
        two_way(&tables[0], "threads", &ask, &Assumptions::default()).remove(0)
    }

    #[test]
    fn a_gain_of_1_62_on_twice_as_much_is_81_per_cent() {
        let found = found(1234.0);
        let two = &found.gains[1];
        assert!((two.gain.unwrap().speed.unwrap() - 1.62).abs() < 0.01, "{two:?}");
        let Ranged { value: efficiency, interval } = two.efficiency.unwrap();
        assert!((efficiency - 0.81).abs() < 0.005 && interval.low < 0.81 && 0.81 < interval.high);
        assert_eq!((found.baseline.as_str(), found.first.as_str()), ("heron", "1"));
        assert_eq!(found.gains[0].gain, None);
    }

    #[test]
    fn gains_that_differ_between_rigs_are_told_and_equal_ones_are_not() {
        let verdict = |two: f64| found(two).gains[3].against.unwrap().verdict;
        assert_eq!(verdict(1500.0), Verdict::Slower, "a smaller gain");
        assert_eq!(verdict(1234.0), Verdict::SameWithin(0.02));
        let ratio = found(1500.0).gains[3].against.unwrap().speed.unwrap();
        assert!((ratio - 1234.0 / 1500.0).abs() < 1e-3, "{ratio}");
    }
}
