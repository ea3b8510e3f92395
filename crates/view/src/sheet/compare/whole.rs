//! The comparison as a whole: a table for every group of every workload.

use super::answer::answer;
use super::beside::{self, limits, limits_in_short};
use super::columns::columns;
use super::doubted::{Doubted, felt, raised};
use super::elsewhere::{Line, among, apart, apart_in_short, lines, row, sources};
use super::naming::{heading, in_study_order, ranked};
use super::notes::{
    ended_by_itself, few_searched, method, notes, searched, some_notes, under_a_cap,
};
use super::paper::{self, of_peak_words};
use super::scale::{RateScale, Scale};
use super::shown::Shown;
use crate::number::{percent, significant};
use crate::sheet::carrying::carrying;
use crate::sheet::change::of_change;
use crate::table::{Cell, Group as Table, Layout, Role, Sheet};
use crate::words::finding::{name, unlike_words};
use crate::words::{
    apart_interval, apart_words, count, failed_words, ground, ground_name, interval_words,
    limit_words, needed_words, speed, speed_interval, time_saved, verdict_of, verdict_role,
    why_not,
};
use honest_lap_core::analysis::Published;
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::finding::Finding;
use honest_lap_core::judge::{
    Against, Cell as Sum, Group, HeldConstant, Plain, RankRange, Refusal, Row, Verdict,
    WorkloadView,
};
use honest_lap_core::record::{Measure, Study, TIME, Work};
use std::collections::BTreeSet;

/// The tables of a workload's measure.
pub struct Tables<'a> {
    /// What they show.
    pub view: &'a WorkloadView,
    /// One for each of its groups, in their order.
    pub own: Vec<Table>,
    /// Numbers from elsewhere, if there are any.
    pub elsewhere: Option<Table>,
}

/// How much is said below a table.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Detail<'a> {
    /// What fits a screen, and where the rest is.
    Short {
        /// Of many rigs only the neighbours of this one, the first, and the baseline.
        near: Option<&'a str>,
    },
    /// Every doubt with its evidence, every reason, and the method.
    Full,
}

/// Returns the tables of everything that is compared, in the order of the study.
pub fn tables<'a>(study: &Study, shown: &Shown<'a>, detail: Detail<'_>) -> Vec<Tables<'a>> {
    let analysis = shown.analysis;
    let mut all = Vec::new();
    let mut told: BTreeSet<&str> = BTreeSet::new();
    for view in in_study_order(study, &analysis.views) {
        let first = told.insert(&view.workload);
        let mut own = Vec::new();
        for (place, group) in view.groups.iter().enumerate() {
            let doubted = Doubted::about(&view.workload, shown);
            let work = analysis.works.get(&view.workload);
            let theirs = among(&analysis.elsewhere, view, group);
            let asked = &analysis.question.columns;
            let mut table = table(view, (group, &theirs), work, &doubted, (detail, asked));
            if let (true, 0, Some(workload)) = (first, place, study.workload(&view.workload)) {
                table.lead.splice(0..0, workload.about.clone());
            }
            let few = few_searched(&analysis.series, view, group);
            let leads = view.measure.name == CAPACITY && !few.is_empty();
            if leads {
                // What was seen stands beside what is estimated from it.
                table.lead.extend(few.iter().cloned());
            }
            match detail {
                Detail::Full if leads => {}
                Detail::Full => table.notes.extend(searched(&analysis.series, view, group)),
                Detail::Short { .. } => {
                    if !leads {
                        table.notes.splice(0..0, few);
                    }
                    if place == 0 {
                        table.notes.extend(apart_in_short(&analysis.elsewhere, view));
                    }
                }
            }
            if first && place == 0 {
                if detail == Detail::Full {
                    // What concerns all rigs is said in the size of the answer, not of a footnote.
                    table.lead.extend(doubted.of_all());
                }
                table.notes.extend(felt(shown.remarks, &view.workload));
                table.notes.extend(under_a_cap(view, analysis));
            }
            own.push(table);
        }
        let apart = apart(&analysis.elsewhere, view).filter(|_| detail == Detail::Full);
        all.push(Tables { view, own, elsewhere: apart });
    }
    all
}

/// Returns the comparison's sheet, all of its tables.
pub fn compare(study: &Study, shown: &Shown<'_>, detail: Detail<'_>) -> Sheet {
    let analysis = shown.analysis;
    let of = |tables: Tables<'_>| tables.own.into_iter().chain(tables.elsewhere);
    let groups: Vec<Table> = tables(study, shown, detail).into_iter().flat_map(of).collect();
    let full = detail == Detail::Full;
    let mut lead: Vec<String> = Vec::new();
    if full || groups.len() != 1 {
        lead.extend(study.question.iter().cloned());
    }
    if full {
        lead.extend(Doubted::about("", shown).of_all());
    }
    if groups.is_empty() {
        lead.push("No laps have been run yet: lap run".to_owned());
    }
    let sheet = Sheet {
        schema: "honest-lap/compare",
        version: 2,
        title: study.title.clone().filter(|_| full || groups.len() != 1),
        lead,
        notes: if full {
            method(analysis)
        } else {
            ended_by_itself(analysis).into_iter().collect()
        },
        groups,
    };
    let mut sheet = sheet;
    sheet.lead.extend(of_change(shown));
    carrying(sheet, shown.analysis)
}

fn table(
    view: &WorkloadView,
    (group, theirs): (&Group, &[&Published]),
    work: Option<&Work>,
    doubted: &Doubted<'_>,
    (detail, asked): (Detail<'_>, &[String]),
) -> Table {
    let across_rigs = matches!(group.held, HeldConstant::Variant(_));
    let time = view.measure.name == TIME;
    let scale = Scale::of(view, &group.rows);
    // A rate is of the whole lap's time.
    let work = work.filter(|_| time);
    let peak = paper::note(group);
    let near = match detail {
        Detail::Short { near } => near,
        Detail::Full => None,
    };
    let all = lines(group, theirs);
    let of_all = all.len();
    let kept = neighbours(all, group, near);
    let left_out = of_all - kept.len();
    let mut notes: Vec<String> = match detail {
        Detail::Short { .. } => doubted
            .in_short(&view.workload, &group.rows)
            .into_iter()
            .chain(some_notes(group))
            .chain(limits_in_short(group, doubted))
            .collect(),
        Detail::Full => doubted
            .footnotes(&group.rows)
            .into_iter()
            .chain(notes(group))
            .chain(limits(group))
            .chain(peak.clone())
            .collect(),
    };
    notes.extend(sources(theirs, detail == Detail::Full));
    if left_out > 0 {
        notes.insert(0, format!("{} not shown", count(left_out, "other row")));
    }
    let rate = work.map(|work| RateScale::of(work, &group.rows));
    let rate = rate.as_ref();
    let mut columns =
        columns(across_rigs, ranked(group), &view.measure, &scale, rate, peak.is_some());
    let at = beside::add_columns(&mut columns, &group.rows, asked);
    let line = |line: Line<'_>| match line {
        Line::Ours(row) => {
            let mut cells = cells(view, row, &scale, work.zip(rate), &doubted.of(row));
            cells.splice(at..at, beside::cells(row, asked));
            cells
        }
        Line::Theirs(published) => row(published, &columns, &scale),
    };
    Table {
        heading: Some(heading(view, group)),
        lead: answer(group, &view.measure),
        rows: kept.into_iter().map(line).collect(),
        columns,
        layout: Layout::Table,
        drawing: Vec::new(),
        notes,
    }
}

/// Rows above and below the one that is asked for.
const NEIGHBOURS: usize = 3;

/// Returns the lines near that of `rig`, the first, and the baseline; all of them where none is asked for.
fn neighbours<'a>(all: Vec<(usize, Line<'a>)>, group: &Group, rig: Option<&str>) -> Vec<Line<'a>> {
    let place = rig.and_then(|rig| group.rows.iter().position(|row| row.rig == rig));
    let is_near = |(at, line): &(usize, Line<'_>)| {
        let Some(place) = place else { return true };
        let kept = match line {
            Line::Ours(row) => *at == 0 || row.against == Against::Baseline,
            Line::Theirs(_) => false,
        };
        kept || at.abs_diff(place) <= NEIGHBOURS
    };
    all.into_iter().filter(is_near).map(|(_, line)| line).collect()
}

/// Returns the ranks that a row may have: `2`, or `2–4` where the laps do not tell.
fn rank_words(places: RankRange) -> String {
    match places.best == places.worst {
        true => places.best.to_string(),
        false => format!("{}–{}", places.best, places.worst),
    }
}

fn cells(
    view: &WorkloadView,
    row: &Row,
    scale: &Scale,
    work: Option<(&Work, &RateScale)>,
    doubts: &[(usize, &Finding)],
) -> Vec<Cell> {
    let of_peak = row.rate.as_ref().and_then(|rate| rate.of_peak.as_ref()).map(|of| of.share);
    let cell = row.cell.as_ref();
    let plain = row.plain.as_ref();
    let interval = cell.and_then(|cell| cell.interval().ok());
    let interval = interval.or_else(|| plain.and_then(|plain| plain.interval().ok()));
    let spread = interval.map(|interval| (interval.high - interval.low) / 2.0);
    let summary = cell.and_then(|cell| cell.summary().ok());
    let summary = summary.or_else(|| plain.and_then(|plain| plain.summary().ok()));
    let median = cell.and_then(Sum::median_interval);
    let shown = |value: f64| scale.show(value, spread);
    let time = |value: Option<f64>| Cell::or_missing(value, |v| Cell::number(v, shown(v)));
    let difference = match &row.against {
        Against::Other(difference) => Some(difference),
        Against::Baseline | Against::Alone => None,
    };
    let apart = difference.and_then(|difference| difference.apart.as_ref());
    let apart_number =
        |value: Option<f64>| Cell::or_missing(value, |v| number_of(v, significant(v, 4)));
    let rate_of = row.rate.as_ref().zip(work).map(|(rate, (_, scale))| {
        let relative = spread.zip(cell).map(|(s, cell)| s / cell.typical());
        let value = rate.a_second.value;
        Cell::number(value, scale.show(value, relative))
    });
    let number = number_of;
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
            Cell::whole(places.best as u64).shown(rank_words(places))
        }),
        Cell::or_missing(row.places, |places| Cell::whole(places.worst as u64)),
        Cell::text(&row.rig).shown(marked(&row.rig, doubts)),
        Cell::text(row.settings.to_string()),
        Cell::text(&view.measure.name),
        Cell::text(&view.measure.unit),
        Cell::text(view.measure.better.word()),
        time(cell.map(Sum::typical).or_else(|| plain.map(Plain::mean))),
        Cell::or_missing(interval, |i| Cell::text(interval_words(&shown(i.low), &shown(i.high)))),
        time(interval.map(|i| i.low)),
        time(interval.map(|i| i.high)),
        rate_of.unwrap_or_else(Cell::missing),
        Cell::or_missing(of_peak, |share| number(share, of_peak_words(share))),
        Cell::or_missing(work, |(work, _)| Cell::text(work.unit())),
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
        match (difference.and_then(|d| d.speed.zip(speed(d))), apart) {
            (Some((ratio, text)), _) => number(ratio, text),
            (None, Some(apart)) => Cell::missing().shown(apart_words(apart, &view.measure)),
            (None, None) => Cell::missing(),
        },
        Cell::or_missing(
            difference
                .and_then(speed_interval)
                .or_else(|| apart.and_then(|apart| apart_interval(apart, &view.measure))),
            Cell::text,
        ),
        speed_end(|interval| interval.low),
        speed_end(|interval| interval.high),
        Cell::or_missing(
            difference
                .filter(|_| view.measure.is_time())
                .and_then(|d| d.time_saved().zip(time_saved(d))),
            |(v, text)| number(v, text),
        ),
        verdict(row, &view.measure),
        Cell::or_missing(difference, |d| Cell::text(ground_name(d))),
        Cell::or_missing(difference.and_then(|d| d.needed), |s| Cell::text(needed_words(s))),
        Cell::list(doubts.iter().map(|(_, doubt)| name(&doubt.doubt).to_owned()).collect()),
        Cell::or_missing(day_spread, |spread| number(spread, percent(spread))),
        Cell::list(row.differs.iter().map(unlike_words).collect()),
        apart_number(apart.map(|apart| apart.here - apart.base)),
        apart_number(apart.and_then(|apart| apart.interval).map(|interval| interval.low)),
        apart_number(apart.and_then(|apart| apart.interval).map(|interval| interval.high)),
        Cell::or_missing(row.limited.as_ref(), |limited| {
            Cell::text(limit_words(limited.limited.by))
        }),
        Cell::or_missing(difference, |difference| Cell::flag(difference.by_rate)),
        Cell::text("laps"),
        Cell::or_missing(cell.and_then(|cell| scale.step(cell.typical())), Cell::text),
    ]
}

fn number_of(value: f64, text: String) -> Cell {
    Cell::number(value, text)
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
        sessions => format!("{of}, {sessions} sessions"),
    }
}

fn verdict(row: &Row, measure: &Measure) -> Cell {
    let difference = match &row.against {
        Against::Baseline => return Cell::text("baseline").role(Role::Quiet),
        Against::Alone => return Cell::text("nothing to compare with").role(Role::Quiet),
        Against::Other(difference) => difference,
    };
    let role = verdict_role(difference.verdict);
    let words = verdict_of(measure, difference.verdict);
    // What it stands on matters where something is said.
    let said = !matches!(difference.verdict, Verdict::Refused(_) | Verdict::TooClose);
    let shown = match ground(difference) {
        "" => words.clone(),
        // Kept together where the cell wraps.
        _ if difference.verdict == Verdict::Refused(Refusal::Failed) => failed_words(&row.counts),
        on if said => format!("{words}, {}", on.replace(' ', "\u{a0}")),
        _ => words.clone(),
    };
    Cell::text(words).shown(shown).role(role)
}
