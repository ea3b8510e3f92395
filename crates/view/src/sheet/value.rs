//! `lap value`: rigs by work for their price, the steps up, and what an upgrade pays.

use crate::number::{fixed, percent, significant};
use crate::table::{Cell, Column, Group, Layout, Role, Sheet, Show};
use crate::words::finding::name;
use crate::words::{
    capped_words, entry_words, interval_words, listed, no_index_words, speed, speed_interval,
};
use honest_lap_core::analysis::Worth;
use honest_lap_core::finding::Finding;
use honest_lap_core::judge::{Difference, Missing, Verdict};
use honest_lap_core::lab::ToldBy;
use honest_lap_core::record::Study;
use honest_lap_core::stat::{Interval, Ranged};
use honest_lap_core::value::{Beside, Economy, Power, Standing, Step, Upgrade, ValueRow, Wanted};
use std::collections::BTreeSet;

/// Returns the sheet of what rigs are worth; of upgrades that were `asked_for` it says why there is none.
pub fn value(study: &Study, worth: &Worth, asked_for: bool, findings: &[Finding]) -> Sheet {
    let Worth { found, missing, capped, upgrades } = worth;
    let mut groups = vec![rigs(found)];
    if !found.steps.is_empty() {
        groups.push(steps(&found.steps));
    }
    if !found.unmeasured.is_empty() {
        groups.push(wanted(&found.unmeasured));
    }
    groups.extend(upgrades.iter().map(pays));
    let mut notes = method(found, upgrades);
    if asked_for && upgrades.is_empty() {
        notes.insert(
            0,
            "What an upgrade pays needs to know how often the work is done: jobs_a_month = 120 in a \
             workload, or --jobs."
                .to_owned(),
        );
    }
    let names: BTreeSet<&str> = findings.iter().map(|finding| name(&finding.doubt)).collect();
    if !names.is_empty() {
        let names: Vec<String> = names.into_iter().map(str::to_owned).collect();
        notes.push(format!("Doubts about these laps: {}: lap doubts.", listed(&names)));
    }
    Sheet {
        schema: "honest-lap/value",
        version: 2,
        title: study.title.clone(),
        lead: lead(found, missing).into_iter().chain(capped_words(capped)).collect(),
        groups,
        notes,
    }
}

fn lead(found: &Economy, missing: &[Missing]) -> Vec<String> {
    let edge: Vec<String> = found
        .rows
        .iter()
        .filter(|row| row.standing == Standing::Edge)
        .map(|row| row.rig.clone())
        .collect();
    let mut lead = Vec::new();
    if !missing.is_empty() {
        let lack = missing.iter().map(|m| format!("{} on {}", entry_words(&m.of), listed(&m.rigs)));
        lead.push(format!(
            "There is no verdict in {}. What follows is over what all rigs have.",
            listed(&lack.collect::<Vec<_>>())
        ));
    }
    if found.units_differ {
        lead.push(
            "Prices are in several currencies, and are not held against each other.".to_owned(),
        );
    } else if found.rows.iter().all(|row| row.price.is_none()) {
        lead.push("No rig has a price: add price = \"1450 EUR\" to [rig.NAME].".to_owned());
    } else if !edge.is_empty() {
        lead.push(format!("No other rig costs as little and does as much: {}.", listed(&edge)));
    }
    lead
}

/// Which of the columns a group shows to people.
const OF_RIGS: [&str; 13] = [
    "rig",
    "price",
    "work",
    "work_said",
    "per_price",
    "per_price_said",
    "mean_w",
    "peak_w",
    "idle_w",
    "per_watt",
    "per_joule",
    "per_joule_said",
    "stands",
];
const OF_STEPS: [&str; 7] =
    ["from", "to", "costs", "dearer_by", "brings", "brings_said", "more_work"];
const OF_WANTED: [&str; 4] = ["rig", "price", "to_match", "to_stand"];
const OF_UPGRADES: [&str; 4] = ["workload", "jobs", "hours", "hours_said"];

/// Returns the columns of all groups, of which people see `shown`.
fn columns(shown: &[&str]) -> Vec<Column> {
    let figure = Column::figure;
    let mut all = vec![
        Column::text("rig", "rig"),
        Column::text("from", "from"),
        Column::text("to", "to"),
        Column::text("workload", "workload"),
        figure("price", "price"),
        Column::machine("price_unit"),
        figure("work", "work"),
        Column::text("work_said", "95 % CI").people().spare(3),
        Column::machine("work_low"),
        Column::machine("work_high"),
        figure("per_price", "for its price"),
        Column::text("per_price_said", "95 % CI").people(),
        Column::machine("per_price_low"),
        Column::machine("per_price_high"),
        figure("mean_w", "mean").unit("W").spare(4),
        figure("peak_w", "peak").unit("W").spare(2),
        figure("idle_w", "idle").unit("W").spare(1),
        Column::machine("power_from"),
        figure("per_watt", "for a watt").spare(2),
        figure("per_joule", "for a joule").spare(4),
        Column::text("per_joule_said", "95 % CI").people().spare(2),
        Column::machine("per_joule_low"),
        Column::machine("per_joule_high"),
        Column::text("stands", "how it stands").wrap(26),
        figure("costs", "costs more"),
        figure("dearer_by", "dearer by"),
        figure("brings", "brings"),
        Column::text("brings_said", "95 %").people(),
        Column::machine("brings_low"),
        Column::machine("brings_high"),
        figure("more_work", "does"),
        figure("to_match", "as much for its price"),
        Column::machine("like"),
        figure("to_stand", "not beaten above"),
        Column::machine("beaten_by"),
        figure("jobs", "jobs a month"),
        figure("hours", "hours saved a month"),
        Column::text("hours_said", "95 %").people(),
        Column::machine("hours_low"),
        Column::machine("hours_high"),
        Column::machine("worth_a_month"),
        Column::machine("months_until_paid"),
        Column::machine("months_low"),
        Column::machine("months_high"),
    ];
    for column in &mut all {
        if !shown.contains(&&*column.key) && column.show == Show::All {
            column.show = Show::Machines;
        }
    }
    // What only people read is nothing to programs, and nothing to those who see another table.
    all.retain(|column| column.show != Show::People || shown.contains(&&*column.key));
    all
}

/// Returns a row of `columns`, from the cells that it has.
fn row(columns: &[Column], cells: Vec<(&str, Cell)>) -> Vec<Cell> {
    let cell = |column: &Column| {
        let found = cells.iter().find(|(key, _)| *key == column.key);
        found.map_or_else(Cell::missing, |(_, cell)| cell.clone())
    };
    columns.iter().map(cell).collect()
}

fn group(
    heading: Option<String>,
    lead: Vec<String>,
    columns: Vec<Column>,
    rows: Vec<Vec<Cell>>,
) -> Group {
    let (layout, drawing, notes) = (Layout::Table, Vec::new(), Vec::new());
    Group { heading, lead, columns, rows, layout, drawing, notes }
}

fn number(value: f64) -> Cell {
    Cell::number(value, significant(value, 3))
}

fn times(value: f64) -> Cell {
    Cell::number(value, format!("{}×", fixed(value, 2)))
}

fn ends(interval: Interval) -> String {
    interval_words(&fixed(interval.low, 2), &fixed(interval.high, 2))
}

fn money(value: f64, unit: &str) -> Cell {
    Cell::number(value, format!("{value} {unit}"))
}

fn compared(difference: &Difference) -> (Cell, Cell) {
    (
        Cell::or_missing(difference.speed.zip(speed(difference)), |(v, text)| {
            Cell::number(v, text)
        }),
        Cell::or_missing(speed_interval(difference), Cell::text),
    )
}

fn rigs(found: &Economy) -> Group {
    let columns = columns(&OF_RIGS);
    let rows = found.rows.iter().map(|rig| row(&columns, of_rig(rig))).collect();
    group(None, Vec::new(), columns, rows)
}

fn of_rig(rig: &ValueRow) -> Vec<(&'static str, Cell)> {
    let end = |value: Option<f64>| Cell::or_missing(value, number);
    let mut cells = vec![
        ("rig", Cell::text(&rig.rig)),
        ("price", price(rig)),
        ("price_unit", Cell::or_missing(rig.price.as_ref(), |p| Cell::text(&p.unit))),
        ("stands", stands(rig)),
    ];
    match &rig.work {
        Beside::Stands(difference) => {
            let (work, said) = compared(difference);
            cells.extend([("work", work), ("work_said", said)]);
            cells.push(("work_low", end(difference.interval.map(|i| i.low))));
            cells.push(("work_high", end(difference.interval.map(|i| i.high))));
        }
        Beside::Baseline => {
            cells.push(("work", Cell::missing().shown("baseline").role(Role::Quiet)));
        }
        Beside::Unsaid(_) => {
            cells.push(("work", Cell::missing().shown("cannot be said").role(Role::Open)));
        }
    }
    if let Some(Ranged { value: ratio, interval }) = rig.per_price {
        cells.extend([("per_price", times(ratio)), ("per_price_said", Cell::text(ends(interval)))]);
        cells.push(("per_price_low", number(interval.low)));
        cells.push(("per_price_high", number(interval.high)));
    }
    let Power { mean, peak, idle, measured } = rig.power;
    cells.extend([("mean_w", end(mean)), ("peak_w", end(peak)), ("idle_w", end(idle))]);
    if mean.or(peak).is_some() {
        cells.push(("power_from", Cell::text(if measured { "laps" } else { "study" })));
    }
    if let Some(ratio) = rig.per_watt {
        cells.push(("per_watt", times(ratio.value)));
    }
    if let Beside::Stands(difference) = &rig.per_joule {
        let (ratio, said) = compared(difference);
        cells.extend([("per_joule", ratio), ("per_joule_said", said)]);
        cells.push(("per_joule_low", end(difference.interval.map(|i| i.low))));
        cells.push(("per_joule_high", end(difference.interval.map(|i| i.high))));
    }
    cells
}

fn price(rig: &ValueRow) -> Cell {
    match &rig.price {
        None if rig.owned => Cell::number(0.0, "owned"),
        price => Cell::or_missing(price.as_ref(), |price| money(price.value, &price.unit)),
    }
}

fn stands(rig: &ValueRow) -> Cell {
    match &rig.standing {
        Standing::Edge => Cell::text("not beaten on both").role(Role::Better),
        Standing::Beaten(other) => Cell::text(format!("beaten by {other}")).role(Role::Worse),
        Standing::Open(other) => Cell::text(format!("{other} may beat it")).role(Role::Open),
        Standing::Unknown if rig.price.is_none() && !rig.owned => {
            Cell::text("no price").role(Role::Quiet)
        }
        Standing::Unknown => {
            let why = match &rig.work {
                Beside::Unsaid(why) => format!("cannot be said: {}", no_index_words(why)),
                Beside::Baseline | Beside::Stands(_) => "cannot be said".to_owned(),
            };
            Cell::text(why).role(Role::Open)
        }
    }
}

fn steps(steps: &[Step]) -> Group {
    let columns = columns(&OF_STEPS);
    let cells = |step: &Step| {
        let (brings, said) = compared(&step.brings);
        let shown = match step.brings.verdict {
            Verdict::TooClose | Verdict::Refused(_) => brings.role(Role::Open),
            _ => brings,
        };
        let ends = step.brings.interval;
        vec![
            ("from", Cell::text(&step.from)),
            ("to", Cell::text(&step.to)),
            ("costs", money(step.costs.value, &step.costs.unit)),
            ("price_unit", Cell::text(&step.costs.unit)),
            ("brings", shown),
            ("brings_said", said),
            ("dearer_by", share(step.dearer_by)),
            ("more_work", Cell::or_missing(step.more_work, more)),
            ("brings_low", Cell::or_missing(ends, |i| number(i.low))),
            ("brings_high", Cell::or_missing(ends, |i| number(i.high))),
        ]
    };
    let rows = steps.iter().map(|step| row(&columns, cells(step))).collect();
    group(Some("one step up".to_owned()), Vec::new(), columns, rows)
}

fn share(share: Option<f64>) -> Cell {
    Cell::or_missing(share, |share| Cell::number(share, percent(share)))
}

fn more(share: f64) -> Cell {
    let way = if share < 0.0 { "less" } else { "more" };
    Cell::number(share, format!("{} {way}", percent(share.abs())))
}

/// Returns what rigs that were not measured would have to reach, in the work of the baseline.
fn wanted(all: &[Wanted]) -> Group {
    let columns = columns(&OF_WANTED);
    let work = |value: f64, rig: &str| Cell::number(value, format!("{}×, {rig}", fixed(value, 2)));
    let cells = |wanted: &Wanted| {
        let stand = wanted.to_stand.as_ref();
        let matched = wanted.to_match.zip(wanted.like.as_deref());
        vec![
            ("rig", Cell::text(&wanted.rig)),
            ("price", money(wanted.price.value, &wanted.price.unit)),
            ("price_unit", Cell::text(&wanted.price.unit)),
            ("to_match", Cell::or_missing(matched, |(value, rig)| work(value, rig))),
            ("like", Cell::or_missing(wanted.like.as_ref(), Cell::text)),
            ("to_stand", Cell::or_missing(stand, |(value, rig)| work(*value, rig))),
            ("beaten_by", Cell::or_missing(stand, |(_, rig)| Cell::text(rig))),
        ]
    };
    let rows = all.iter().map(|wanted| row(&columns, cells(wanted))).collect();
    let lead = "What each would have to do, in the baseline's work: as much for its price as the best here; and, not to \
                be beaten on both, more than any that costs no more.";
    group(Some("not measured yet".to_owned()), vec![lead.to_owned()], columns, rows)
}

fn pays(upgrade: &Upgrade) -> Group {
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
fn answer(upgrade: &Upgrade) -> Vec<String> {
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

fn method(found: &Economy, upgrades: &[Upgrade]) -> Vec<String> {
    let mut notes = vec![
        "Work is the index of lap compare --overall, against the baseline's; work for its price is that \
         times the baseline's price over the rig's. Prices are taken as exact."
            .to_owned(),
    ];
    if found.rows.iter().any(|row| row.power.measured) {
        let by = &found.power_by;
        let read = if by.mean.is_empty() { &by.energy } else { &by.mean };
        let told = match by.told_by {
            ToldBy::Sensors => {
                "what the machine's own sensors showed during the laps: the mean and the peak of what they \
                 see, which is seldom the whole machine"
                    .to_owned()
            }
            ToldBy::Reading => format!("what was read as `{read}`"),
            ToldBy::Meter => format!("what an outside meter showed during the laps (`{read}`)"),
        };
        notes.push(format!(
            "Power is {told}. Idle power is as stated. Work for a joule compares energy lap by lap; work for a \
             watt divides by mean power."
        ));
    }
    if !upgrades.is_empty() {
        notes.push(
            "Hours saved: jobs times the difference of average laps; intervals of workloads are added up, \
             as if a good or bad day struck all of them. What electricity costs is left out, and what the old rig \
             fetches where no sells_for says it."
                .to_owned(),
        );
    }
    notes
}
