//! `lap compare`: each workload best first, the answer ahead of its table and the method behind.

mod answer;
mod doubted;
mod elsewhere;
mod notes;
mod paper;

pub use answer::answer;
pub use doubted::Doubted;
use doubted::{felt, raised};
use elsewhere::elsewhere;
pub use notes::changes_words;
use notes::{method, notes, searched};
pub use paper::{of_peak_words, share_of};

use crate::words::finding::{name, unlike_words};
use crate::words::{
    display_read, ground, ground_name, lap_of, settle, speed, speed_interval, time_saved,
    verdict_role, why_not,
};
use honest_lap_core::analysis::Analysis;
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::endurance;
use honest_lap_core::finding::Finding;
use honest_lap_core::frame;
use honest_lap_core::judge::{
    Against, Cell as Sum, Group, Held, Places, Row, Verdict, WorkloadView,
};
use honest_lap_core::record::{Measure, Remark, Study, TIME, Work};
use honest_lap_draw::{
    Cell, Column, Group as Table, Layout, Role, Sheet, Show, TimeUnit, decimals, fixed, percent,
    significant,
};
use std::collections::BTreeSet;

/// What a comparison shows.
pub struct Shown<'a> {
    /// What the laps support.
    pub analysis: &'a Analysis<'a>,
    /// What people said.
    pub remarks: &'a [Remark],
    /// Why what is not comparable was compared anyway.
    pub despite: Option<&'a str>,
}

/// Returns the comparison's sheet.
pub fn compare(study: &Study, shown: &Shown<'_>) -> Sheet {
    let analysis = shown.analysis;
    let views = &analysis.views;
    let mut groups = Vec::new();
    let mut told: BTreeSet<&str> = BTreeSet::new();
    for view in in_study_order(study, views) {
        let first = told.insert(&view.workload);
        for (place, group) in view.groups.iter().enumerate() {
            let doubted = Doubted::about(&view.workload, shown);
            let work = analysis.works.get(&view.workload);
            let mut table = table(view, group, work, &doubted, study);
            if let (true, 0, Some(workload)) = (first, place, study.workload(&view.workload)) {
                table.lead.splice(0..0, workload.about.clone());
            }
            table.notes.extend(searched(&analysis.laps, view, group));
            if first && place == 0 {
                // What concerns all rigs is said in the size of the answer, not of a footnote.
                table.lead.extend(doubted.of_all());
                table.notes.extend(felt(shown.remarks, &view.workload));
            }
            groups.push(table);
        }
        groups.extend(elsewhere(study, view));
    }
    let mut lead: Vec<String> = study.question.iter().cloned().collect();
    lead.extend(Doubted::about("", shown).of_all());
    if groups.is_empty() {
        lead.push("No laps have been driven yet: lap run".to_owned());
    }
    let sheet = Sheet {
        schema: "honest-lap/compare",
        version: 2,
        title: study.title.clone(),
        lead,
        notes: method(analysis),
        groups,
    };
    let mut sheet = sheet;
    sheet.lead.extend(analysis.changes.as_deref().map(changes_words));
    super::carrying(sheet, shown.despite)
}

/// Returns the workloads as the study lists them; those it no longer has come last.
pub fn in_study_order<'a>(study: &Study, views: &'a [WorkloadView]) -> Vec<&'a WorkloadView> {
    let place = |view: &&WorkloadView| {
        study.workloads.iter().position(|workload| workload.name == view.workload)
    };
    let mut views: Vec<&WorkloadView> = views.iter().collect();
    views.sort_by_key(|view| place(view).unwrap_or(usize::MAX));
    views
}

fn table(
    view: &WorkloadView,
    group: &Group,
    work: Option<&Work>,
    doubted: &Doubted<'_>,
    study: &Study,
) -> Table {
    let across_rigs = matches!(group.held, Held::Variant(_));
    let time = view.measure.name == TIME;
    let scale = Scale::of(&view.measure, &group.rows);
    // A rate is of the whole lap's time.
    let work = work.filter(|_| time);
    let peak = paper::note(view, group, work, study);
    Table {
        heading: Some(heading(view, group)),
        lead: answer(group, &view.measure),
        columns: columns(across_rigs, ranked(group), &view.measure, &scale, work, peak.is_some()),
        rows: group
            .rows
            .iter()
            .map(|row| cells(view, row, &scale, work, &doubted.of(row), study))
            .collect(),
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: doubted.footnotes(&group.rows).into_iter().chain(notes(group)).chain(peak).collect(),
    }
}

/// Returns what a group is headed with: `dome-still threads=2`.
pub fn heading(view: &WorkloadView, group: &Group) -> String {
    let of = match view.measure.name == TIME {
        true => view.workload.clone(),
        false => format!("{} · {}", view.workload, view.measure.name),
    };
    match &group.held {
        Held::Variant(settings) => lap_of(&of, settings),
        Held::Rigs => format!("{of}: the variants on each rig"),
    }
}

/// Returns whether a group shows places: of two rigs the verdict says it already.
fn ranked(group: &Group) -> bool {
    group.rows.iter().filter(|row| row.places.is_some()).count() > 2
}

/// Returns the places that a rig may have: `2`, or `2 to 4` where the laps do not tell.
fn place_words(places: Places) -> String {
    match places.best == places.worst {
        true => places.best.to_string(),
        false => format!("{} to {}", places.best, places.worst),
    }
}

/// The unit of a table: one that suits its times, or the measure's own.
pub struct Scale {
    time: Option<TimeUnit>,
    pub symbol: String,
    /// Whether the values were worked out from many, and have more digits than anyone read.
    worked_out: bool,
}

impl Scale {
    pub fn of(measure: &Measure, rows: &[Row]) -> Self {
        if !measure.is_time() {
            let name = measure.name.as_str();
            let worked_out =
                name == CAPACITY || frame::is_measure(name) || endurance::is_measure(name);
            return Self { time: None, symbol: measure.unit.clone(), worked_out };
        }
        let typical = rows.iter().filter_map(|row| row.cell.as_ref()).map(|cell| cell.typical());
        let least = typical.fold(f64::INFINITY, f64::min);
        let unit = TimeUnit::of(if least.is_finite() { least } else { 1.0 });
        Self { time: Some(unit), symbol: unit.symbol.to_owned(), worked_out: false }
    }

    /// Returns a value to the digits that its spread supports.
    pub fn show(&self, value: f64, spread: Option<f64>) -> String {
        let scaled = |value: f64| self.time.map_or(value, |unit| unit.value(value));
        let value = scaled(value);
        // Values that do not differ spread by what adding them up rounds off: that is no spread.
        let spread = spread.filter(|spread| scaled(*spread) > value.abs() * 1e-9);
        match spread.and_then(|spread| decimals(scaled(spread))) {
            Some(digits) => fixed(value, digits),
            None if self.time.is_some() => significant(value, 3),
            None if self.worked_out && value.fract() != 0.0 => significant(value, 4),
            // Values that were read alike are shown as they were read.
            None => display_read(value),
        }
    }
}

fn columns(
    across_rigs: bool,
    ranked: bool,
    measure: &Measure,
    scale: &Scale,
    work: Option<&Work>,
    peaked: bool,
) -> Vec<Column> {
    let figure = |key, title: &str| match scale.symbol.is_empty() {
        true => Column::figure(key, title),
        false => Column::figure(key, title).unit(&scale.symbol),
    };
    let rate_unit = work.map_or_else(String::new, |work| format!("{}/s", work.unit()));
    let mut variant = Column::text("variant", "variant");
    let mut place = Column::text("place_best", "place");
    if !ranked {
        place.show = Show::Machines;
    }
    let mut rate = Column::figure("rate_per_s", "rate").unit(rate_unit).spare(1);
    if across_rigs {
        variant = Column::machine("variant");
    }
    if work.is_none() {
        rate = Column::machine("rate_per_s");
    }
    let mut of_peak = Column::figure("share_of_peak", "of peak").spare(1);
    if !peaked {
        of_peak = Column::machine("share_of_peak");
    }
    let mut saved = Column::figure("time_saved", "time");
    if !measure.is_time() {
        saved = Column::machine("time_saved");
    }
    let (typical, ratio) = match (measure.name == TIME, measure.is_time()) {
        (true, _) => ("typical lap", "speed"),
        (false, true) => ("typical", "speed"),
        (false, false) => ("typical", "ratio"),
    };
    vec![
        Column::machine("workload"),
        place,
        Column::machine("place_worst"),
        Column::text("rig", "rig"),
        variant,
        Column::machine("measure"),
        Column::machine("unit"),
        Column::machine("better"),
        figure("typical", typical),
        figure("interval", "typical, 95 %").people().spare(2),
        Column::machine("typical_low"),
        Column::machine("typical_high"),
        rate,
        of_peak,
        Column::machine("work_unit"),
        Column::figure("cv", "spread").spare(1),
        Column::figure("laps", "laps").people().spare(3),
        Column::machine("laps_counted"),
        Column::machine("laps_not_counted"),
        Column::machine("not_counted_because"),
        Column::machine("sessions"),
        Column::machine("mean"),
        Column::machine("median"),
        Column::machine("median_low"),
        Column::machine("median_high"),
        Column::machine("min"),
        Column::machine("max"),
        Column::machine("is_baseline"),
        Column::figure("ratio", ratio),
        Column::text("ratio_interval", format!("{ratio}, 95 %")).people(),
        Column::machine("ratio_low"),
        Column::machine("ratio_high"),
        saved,
        Column::text("verdict", "verdict").wrap(21),
        Column::machine("ground"),
        Column::machine("would_settle"),
        Column::machine("doubts"),
        Column::machine("day_spread"),
        Column::machine("differs"),
        Column::machine("source"),
    ]
}

fn cells(
    view: &WorkloadView,
    row: &Row,
    scale: &Scale,
    work: Option<&Work>,
    doubts: &[(usize, &Finding)],
    study: &Study,
) -> Vec<Cell> {
    let of_peak = share_of(view, row, work, study).map(|(share, _)| share);
    let cell = row.cell.as_ref();
    let interval = cell.and_then(|cell| cell.interval().ok());
    let spread = interval.map(|interval| (interval.high - interval.low) / 2.0);
    let summary = cell.and_then(|cell| cell.summary().ok());
    let median = cell.and_then(Sum::median_interval);
    let shown = |value: f64| scale.show(value, spread);
    let time = |value: Option<f64>| Cell::or_missing(value, |v| Cell::number(v, shown(v)));
    let difference = match &row.against {
        Against::Other(difference) => Some(difference),
        Against::Baseline | Against::Alone => None,
    };
    let rate = |typical: f64| Some(work?.of(&row.settings)?.value / typical);
    let rate_of = cell.and_then(|cell| rate(cell.typical()));
    let rate_cell = |rate: f64| {
        let relative = spread.zip(cell).map(|(s, cell)| s / cell.typical());
        let digits = relative.and_then(|relative| decimals(rate * relative));
        Cell::number(rate, digits.map_or_else(|| significant(rate, 3), |d| fixed(rate, d)))
    };
    let number = |value: f64, text: String| Cell::number(value, text);
    // Only a cell of one day needs to be told what a day may differ by.
    let one_day = cell.filter(|cell| cell.sessions() == 1);
    let day_spread = one_day.map(|cell| cell.between().sd());
    let speed_end = |end: fn(&honest_lap_core::stat::Interval) -> f64| {
        let ends = difference.and_then(|d| d.interval).map(|interval| end(&interval));
        Cell::or_missing(ends, |value| number(value, significant(value, 4)))
    };
    vec![
        Cell::text(&view.workload),
        Cell::or_missing(row.places, |places| {
            Cell::whole(places.best as u64).shown(place_words(places))
        }),
        Cell::or_missing(row.places, |places| Cell::whole(places.worst as u64)),
        Cell::text(&row.rig).shown(marked(&row.rig, doubts)),
        Cell::text(row.settings.to_string()),
        Cell::text(&view.measure.name),
        Cell::text(&view.measure.unit),
        Cell::text(view.measure.better.word()),
        time(cell.map(Sum::typical)),
        Cell::or_missing(interval, |i| Cell::text(format!("{} – {}", shown(i.low), shown(i.high)))),
        time(interval.map(|i| i.low)),
        time(interval.map(|i| i.high)),
        Cell::or_missing(rate_of, rate_cell),
        Cell::or_missing(of_peak, |share| number(share, of_peak_words(share))),
        Cell::or_missing(work, |work| Cell::text(work.unit())),
        Cell::or_missing(summary.and_then(|s| s.cv), |cv| number(cv, percent(cv))),
        Cell::text(laps(row)),
        Cell::whole(row.counts.counted as u64),
        Cell::whole(row.counts.not_counted() as u64),
        Cell::list(why_not(&row.counts)),
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
            difference
                .filter(|_| view.measure.is_time())
                .and_then(|d| d.time_saved().zip(time_saved(d))),
            |(v, text)| number(v, text),
        ),
        verdict(&row.against, &view.measure),
        Cell::or_missing(difference, |d| Cell::text(ground_name(d))),
        Cell::or_missing(difference.and_then(|d| d.settle), |s| Cell::text(settle(s))),
        Cell::list(doubts.iter().map(|(_, doubt)| name(&doubt.doubt).to_owned()).collect()),
        Cell::or_missing(day_spread, |spread| number(spread, percent(spread))),
        Cell::list(row.differs.iter().map(unlike_words).collect()),
        Cell::text("laps"),
    ]
}

/// Returns a rig's name with the numbers of the doubts about its laps: `wren ¹ ³`.
pub fn marked(rig: &str, doubts: &[(usize, &Finding)]) -> String {
    let numbers = doubts.iter().map(|(number, _)| format!("\u{a0}{}", raised(*number)));
    numbers.fold(rig.to_owned(), |text, number| text + &number)
}

/// Returns counted laps, of how many where some do not count though they should, and sessions.
fn laps(row: &Row) -> String {
    let counts = &row.counts;
    let missed = counts.not_done.values().sum::<usize>() + counts.set_aside + counts.without;
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

fn verdict(against: &Against, measure: &Measure) -> Cell {
    let difference = match against {
        Against::Baseline => return Cell::text("baseline").role(Role::Quiet),
        Against::Alone => return Cell::text("nothing beside it").role(Role::Quiet),
        Against::Other(difference) => difference,
    };
    let role = verdict_role(difference.verdict);
    let words = difference.verdict.said_of(measure);
    let judged = !matches!(difference.verdict, Verdict::Refused(_));
    let shown = match ground(difference) {
        "" => words.clone(),
        // Kept together where the cell wraps.
        on if judged => format!("{words}, {}", on.replace(' ', "\u{a0}")),
        _ => words.clone(),
    };
    Cell::text(words).shown(shown).role(role)
}
