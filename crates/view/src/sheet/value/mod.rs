//! `lap value`: rigs by work for their price, the steps up, and what an upgrade pays.

mod cells;
mod columns;
mod upgrade;

use cells::{ends, money, number, times};
use columns::{OF_RIGS, OF_STEPS, OF_WANTED, columns, group, row};
use upgrade::pays;

use crate::number::{fixed, percent};
use crate::table::{Cell, Group, Role, Sheet};
use crate::words::finding::name;
use crate::words::{capped_words, entry_words, listed, no_index_words, speed, speed_interval};
use honest_lap_core::analysis::Worth;
use honest_lap_core::finding::Finding;
use honest_lap_core::judge::{Difference, Missing, Verdict};
use honest_lap_core::lab::ToldBy;
use honest_lap_core::record::Study;
use honest_lap_core::stat::Ranged;
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
