//! What an upgrade pays.

use super::cells::number;
use super::columns::{OF_UPGRADES, columns, group, row};
use crate::number::significant;
use crate::table::{Cell, Group};
use crate::words::listed;
use honest_lap_core::stat::{Interval, Ranged};
use honest_lap_core::value::Upgrade;

pub(super) fn pays(upgrade: &Upgrade) -> Group {
    let columns = columns(&OF_UPGRADES);
    let hours = |value: f64| Cell::number(value, significant(value, 3));
    let said = |interval: Interval| {
        format!("{} to {}", significant(interval.low, 3), significant(interval.high, 3))
    };
    let months = upgrade.months;
    let finite = |value: Option<f64>| Cell::or_missing(value.filter(|v| v.is_finite()), number);
    let cells = |job: &honest_lap_core::value::JobSaving| {
        vec![
            ("from", Cell::text(&upgrade.from)),
            ("to", Cell::text(&upgrade.to)),
            ("workload", Cell::text(&job.workload)),
            ("jobs", number(job.jobs)),
            ("hours", hours(job.hours)),
            ("hours_said", Cell::text(said(job.interval))),
            ("hours_low", number(job.interval.low)),
            ("hours_high", number(job.interval.high)),
            ("worth_a_month", Cell::or_missing(upgrade.worth, |worth| number(worth.value))),
            ("months_until_paid", finite(months.map(|months| months.value))),
            ("months_low", finite(months.map(|months| months.interval.low))),
            ("months_high", finite(months.map(|months| months.interval.high))),
        ]
    };
    let rows = upgrade.jobs.iter().map(|job| row(&columns, cells(job))).collect();
    let heading = format!("from {} to {}", upgrade.from, upgrade.to);
    group(Some(heading), answer(upgrade), columns, rows)
}

/// Returns what an upgrade pays, in sentences.
pub(super) fn answer(upgrade: &Upgrade) -> Vec<String> {
    let Ranged { value: hours, interval } = upgrade.hours;
    let mut lead = Vec::new();
    if !upgrade.jobs.is_empty() {
        let worth = match (&upgrade.worth, &upgrade.costs) {
            (Some(worth), Some(price)) => {
                format!(", worth {} {}", significant(worth.value, 3), price.unit)
            }
            _ => String::new(),
        };
        let figure = |value: f64| significant(value, 3);
        lead.push(match (interval.low > 0.0, interval.high < 0.0) {
            (_, true) => format!(
                "Takes {} hours a month longer ({} to {}).",
                figure(-hours),
                figure(-interval.high),
                figure(-interval.low)
            ),
            (true, _) => format!(
                "Saves {} hours a month ({} to {}){worth}.",
                figure(hours),
                figure(interval.low),
                figure(interval.high)
            ),
            _ => format!(
                "May save up to {} hours a month, or take up to {} longer.",
                figure(interval.high),
                figure(-interval.low)
            ),
        });
    }
    let less = upgrade.sells.as_ref().map(|sells| format!(", less {sells} for {},", upgrade.from));
    let costs = upgrade.costs.as_ref().map(|costs| format!("{costs}{}", less.unwrap_or_default()));
    lead.extend(match (&upgrade.months, upgrade.worth, costs) {
        (Some(Ranged { value: months, interval: ends }), _, Some(price)) => {
            Some(match ends.high.is_finite() {
                true => format!(
                    "Its price of {price} is paid in about {} months ({} to {}).",
                    significant(*months, 2),
                    significant(ends.low, 2),
                    significant(ends.high, 2)
                ),
                false => format!(
                    "Its price of {price} is paid in {} months at best, and perhaps never.",
                    significant(ends.low, 2)
                ),
            })
        }
        (None, Some(_), Some(price)) if !upgrade.jobs.is_empty() => {
            Some(match interval.high > 0.0 {
                true => {
                    format!("Its price of {price} is in another currency than the hour's worth.")
                }
                false => format!("Its price of {price} never pays for itself."),
            })
        }
        _ => None,
    });
    if !upgrade.missing.is_empty() {
        lead.push(format!("Left out, since a rig lacks figures: {}.", listed(&upgrade.missing)));
    }
    lead
}
