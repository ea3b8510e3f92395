//! `lap compare`: each workload best first, the answer ahead of its table and the method behind.

mod answer;
mod notes;

use answer::answer;
use notes::{doubted, method, notes};

use super::words::{ground, ground_name, lap_of, settle, speed, speed_interval, time_saved};
use super::{nanos, time_cell};
use honest_lap_core::doubt::Doubt;
use honest_lap_core::judge::{
    Against, Cell as Sum, Group, Held, Row, SessionSpread, Verdict, WorkloadView,
};
use honest_lap_core::study::Study;
use honest_lap_core::unit::Amount;
use honest_lap_draw::{
    Cell, Column, Group as Table, Layout, Role, Sheet, TimeUnit, decimals, fixed, percent,
    significant,
};
use std::collections::BTreeMap;

/// How much work one lap of a workload does.
pub type Works = BTreeMap<String, Amount>;

/// Returns the comparison's sheet.
pub fn compare(
    study: &Study,
    views: &[WorkloadView],
    works: &Works,
    doubts: &[Doubt],
    spread: SessionSpread,
    margin: f64,
) -> Sheet {
    let mut groups = Vec::new();
    for view in in_study_order(study, views) {
        for (place, group) in view.groups.iter().enumerate() {
            let mut table = table(view, group, works.get(&view.workload));
            if let (0, Some(workload)) = (place, study.workload(&view.workload)) {
                table.lead.splice(0..0, workload.about.clone());
            }
            // In the size of the answer, not of a footnote. Variants on a rig are judged in pairs
            // of one session, so they repeat a doubt only where no table of rigs has said it.
            if place == 0 || matches!(group.held, Held::Variant(_)) {
                table.lead.extend(doubted(doubts, &view.workload));
            }
            groups.push(table);
        }
    }
    let mut lead: Vec<String> = study.question.iter().cloned().collect();
    if groups.is_empty() {
        lead.push("No laps have been driven yet: lap run".to_owned());
    }
    Sheet {
        schema: "honest-lap/compare",
        version: 1,
        title: study.title.clone(),
        lead,
        notes: method(views, spread, margin),
        groups,
    }
}

/// Returns the workloads as the study lists them; those it no longer has come last.
fn in_study_order<'a>(study: &Study, views: &'a [WorkloadView]) -> Vec<&'a WorkloadView> {
    let place = |view: &&WorkloadView| {
        study.workloads.iter().position(|workload| workload.name == view.workload)
    };
    let mut views: Vec<&WorkloadView> = views.iter().collect();
    views.sort_by_key(|view| place(view).unwrap_or(usize::MAX));
    views
}

fn table(view: &WorkloadView, group: &Group, work: Option<&Amount>) -> Table {
    let across_rigs = matches!(group.held, Held::Variant(_));
    let heading = match &group.held {
        Held::Variant(settings) => lap_of(&view.workload, settings),
        Held::Rigs => format!("{}: the variants on each rig", view.workload),
    };
    let scale = Scale::of(&group.rows);
    Table {
        heading: Some(heading),
        lead: answer(group),
        columns: columns(across_rigs, scale.unit, work),
        rows: group.rows.iter().map(|row| cells(view, row, scale, work)).collect(),
        layout: Layout::Table,
        notes: notes(group),
    }
}

/// The unit of a table.
#[derive(Clone, Copy)]
struct Scale {
    unit: TimeUnit,
}

impl Scale {
    fn of(rows: &[Row]) -> Self {
        let typical = rows.iter().filter_map(|row| row.cell.as_ref()).map(|cell| cell.typical());
        let least = typical.fold(f64::INFINITY, f64::min);
        Self { unit: TimeUnit::of(if least.is_finite() { least } else { 1.0 }) }
    }

    fn show(self, seconds: f64, spread: Option<f64>) -> String {
        let value = self.unit.value(seconds);
        match spread.and_then(|spread| decimals(self.unit.value(spread))) {
            Some(digits) => fixed(value, digits),
            None => significant(value, 3),
        }
    }
}

fn columns(across_rigs: bool, unit: TimeUnit, work: Option<&Amount>) -> Vec<Column> {
    let time = |key, title: &str| Column::figure(key, title).unit(unit.symbol);
    let rate_unit = work.map_or_else(String::new, |work| format!("{}/s", work.unit));
    let mut variant = Column::text("variant", "variant");
    let mut rate = Column::figure("rate_per_s", "rate").unit(rate_unit).spare(1);
    if across_rigs {
        variant = Column::machine("variant");
    }
    if work.is_none() {
        rate = Column::machine("rate_per_s");
    }
    vec![
        Column::machine("workload"),
        Column::text("rig", "rig"),
        variant,
        time("typical_ns", "typical lap"),
        time("interval", "typical, 95 %").people().spare(2),
        Column::machine("typical_low_ns"),
        Column::machine("typical_high_ns"),
        rate,
        Column::machine("work_unit"),
        Column::figure("cv", "spread").spare(1),
        Column::figure("laps", "laps").people().spare(3),
        Column::machine("laps_counted"),
        Column::machine("laps_not_counted"),
        Column::machine("not_counted_because"),
        Column::machine("sessions"),
        Column::machine("mean_ns"),
        Column::machine("median_ns"),
        Column::machine("median_low_ns"),
        Column::machine("median_high_ns"),
        Column::machine("min_ns"),
        Column::machine("max_ns"),
        Column::machine("is_baseline"),
        Column::figure("speed_ratio", "speed"),
        Column::text("speed_interval", "speed, 95 %").people(),
        Column::machine("speed_low"),
        Column::machine("speed_high"),
        Column::figure("time_saved", "time"),
        Column::text("verdict", "verdict").wrap(21),
        Column::machine("ground"),
        Column::machine("would_settle"),
    ]
}

fn cells(view: &WorkloadView, row: &Row, scale: Scale, work: Option<&Amount>) -> Vec<Cell> {
    let cell = row.cell.as_ref();
    let interval = cell.and_then(|cell| cell.interval().ok());
    let spread = interval.map(|interval| (interval.high - interval.low) / 2.0);
    let summary = cell.and_then(|cell| cell.summary().ok());
    let median = cell.and_then(Sum::median_interval);
    let shown = |seconds: f64| scale.show(seconds, spread);
    let time = |seconds: Option<f64>| Cell::or_missing(seconds, |s| time_cell(nanos(s), shown(s)));
    let difference = match &row.against {
        Against::Other(difference) => Some(difference),
        Against::Baseline | Against::Alone => None,
    };
    let rate = |typical: f64, work: &Amount| {
        let (rate, relative) = (work.value / typical, spread.map(|s| s / typical));
        let digits = relative.and_then(|relative| decimals(rate * relative));
        Cell::number(rate, digits.map_or_else(|| significant(rate, 3), |d| fixed(rate, d)))
    };
    let number = |value: f64, text: String| Cell::number(value, text);
    let speed_end = |end: fn(&honest_lap_core::stat::Interval) -> f64| {
        let ends = difference.and_then(|d| d.interval).map(|interval| end(&interval));
        Cell::or_missing(ends, |value| number(value, significant(value, 4)))
    };
    vec![
        Cell::text(&view.workload),
        Cell::text(&row.rig),
        Cell::text(row.settings.to_string()),
        time(cell.map(Sum::typical)),
        Cell::or_missing(interval, |i| Cell::text(format!("{} – {}", shown(i.low), shown(i.high)))),
        time(interval.map(|i| i.low)),
        time(interval.map(|i| i.high)),
        Cell::or_missing(cell.zip(work), |(cell, work)| rate(cell.typical(), work)),
        Cell::or_missing(work, |work| Cell::text(&work.unit)),
        Cell::or_missing(summary.and_then(|s| s.cv), |cv| number(cv, percent(cv))),
        Cell::text(laps(row)),
        Cell::whole(row.counts.counted as u64),
        Cell::whole(row.counts.not_counted() as u64),
        Cell::list(row.counts.why_not()),
        Cell::whole(row.counts.sessions as u64),
        time(summary.map(|s| s.mean)),
        time(summary.map(|s| s.median)),
        time(median.map(|m| m.interval.low)),
        time(median.map(|m| m.interval.high)),
        time(summary.map(|s| s.min)),
        time(summary.map(|s| s.max)),
        Cell::flag(row.against == Against::Baseline),
        Cell::or_missing(difference.and_then(|d| d.speed.zip(speed(d))), |(v, text)| {
            number(v, text)
        }),
        Cell::or_missing(difference.and_then(speed_interval), Cell::text),
        speed_end(|interval| interval.low),
        speed_end(|interval| interval.high),
        Cell::or_missing(
            difference.and_then(|d| d.time_saved().zip(time_saved(d))),
            |(v, text)| number(v, text),
        ),
        verdict(&row.against),
        Cell::or_missing(difference, |d| Cell::text(ground_name(d))),
        Cell::or_missing(difference.and_then(|d| d.settle), |s| Cell::text(settle(s))),
    ]
}

/// Returns counted laps, of how many where some do not count though they should, and sessions.
fn laps(row: &Row) -> String {
    let counts = &row.counts;
    let missed: usize = counts.not_done.values().sum();
    let of = if missed > 0 {
        format!("{} of {}", counts.counted, counts.counted + missed)
    } else {
        counts.counted.to_string()
    };
    match counts.sessions {
        0 | 1 => of,
        sessions => format!("{of} in {sessions}"),
    }
}

fn verdict(against: &Against) -> Cell {
    let difference = match against {
        Against::Baseline => return Cell::text("baseline").role(Role::Quiet),
        Against::Alone => return Cell::text("nothing beside it").role(Role::Quiet),
        Against::Other(difference) => difference,
    };
    let role = match difference.verdict {
        Verdict::Faster | Verdict::FasterWithin(_) => Role::Better,
        Verdict::Slower | Verdict::SlowerWithin(_) => Role::Worse,
        Verdict::SameWithin(_) => Role::Plain,
        Verdict::TooClose | Verdict::Refused(_) => Role::Open,
    };
    let words = difference.verdict.to_string();
    let judged = !matches!(difference.verdict, Verdict::Refused(_));
    let shown = match ground(difference) {
        "" => words.clone(),
        // Kept together where the cell wraps.
        on if judged => format!("{words}, {}", on.replace(' ', "\u{a0}")),
        _ => words.clone(),
    };
    Cell::text(words).shown(shown).role(role)
}
