//! The table of every figure that is compared: an analysis, row by row.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Analysis, Question, analyse};
use honest_lap_core::capacity::step_name;
use honest_lap_core::judge::{Against, Cell, Difference, Plain, Row, WorkloadView};
use honest_lap_core::record::{Elsewhere, TIME};
use honest_lap_core::stat::{Interval, Summary};
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::{Field, Holds, Rows};
use honest_lap_view::sheet::{Doubted, Shown, in_study_order};
use honest_lap_view::words::finding::{name, unlike_words};
use honest_lap_view::words::{ground_name, verdict_of, why_not};

use Holds::{Flag, Number, Text, Whole};

pub const SUMS: [(&str, Holds); 34] = [
    ("workload", Text),
    ("variant", Text),
    ("measure", Text),
    ("unit", Text),
    ("better", Text),
    ("rig", Text),
    ("is_baseline", Flag),
    ("place_best", Whole),
    ("place_worst", Whole),
    ("typical", Number),
    ("typical_low", Number),
    ("typical_high", Number),
    ("rate_per_s", Number),
    ("work_unit", Text),
    ("share_of_peak", Number),
    ("cv", Number),
    ("laps_counted", Whole),
    ("laps_not_counted", Whole),
    ("not_counted_because", Text),
    ("sessions", Whole),
    ("mean", Number),
    ("median", Number),
    ("min", Number),
    ("max", Number),
    ("ratio", Number),
    ("ratio_low", Number),
    ("ratio_high", Number),
    ("time_saved", Number),
    ("by_rate", Flag),
    ("verdict", Text),
    ("ground", Text),
    ("differs", Text),
    ("doubts", Text),
    ("step", Text),
];

/// Writes a row for every figure, and returns how many.
pub fn sums(
    open: &OpenStudy,
    logbook: &Logbook,
    ctx: &Ctx,
    to: &mut dyn Rows,
) -> Result<usize, CmdError> {
    let lab = read_lab(&open.study, logbook, ctx)?;
    let analysis = analyse(&lab, &Question::default())?;
    let shown = Shown { analysis: &analysis, remarks: &[], reads: "" };
    let mut written = 0;
    for view in in_study_order(&open.study, &analysis.views) {
        let doubted = Doubted::about(&view.workload, &shown);
        for row in view.groups.iter().flat_map(|group| &group.rows) {
            to.row(&figures(&analysis, view, row, &doubted))
                .map_err(|err| CmdError::output(&err))?;
            written += 1;
        }
        for number in analysis.elsewhere.iter().filter(|number| number.is_of(view)) {
            to.row(&published(&number.number)).map_err(|err| CmdError::output(&err))?;
            written += 1;
        }
    }
    Ok(written)
}

fn figures(
    analysis: &Analysis<'_>,
    view: &WorkloadView,
    row: &Row,
    doubted: &Doubted<'_>,
) -> [Field; 34] {
    let (cell, plain) = (row.cell.as_ref(), row.plain.as_ref());
    let difference = match &row.against {
        Against::Other(difference) => Some(difference),
        Against::Baseline | Against::Alone => None,
    };
    let interval = cell.and_then(|cell| cell.interval().ok());
    let interval = interval.or_else(|| plain.and_then(|plain| plain.interval().ok()));
    let summary = cell.and_then(|cell| cell.summary().ok());
    let summary = summary.or_else(|| plain.and_then(|plain| plain.summary().ok()));
    let of = |read: fn(&Summary) -> f64| Field::Number(summary.as_ref().map(read));
    let end = |of: Option<Interval>, read: fn(Interval) -> f64| Field::Number(of.map(read));
    let ratio_ends = difference.and_then(|d| d.interval);
    let timed = view.measure.name == TIME;
    let work = analysis.works.get(&view.workload).filter(|_| timed);
    let rate = row.rate.as_ref();
    let of_peak = rate.and_then(|rate| rate.of_peak.as_ref()).map(|of| of.share);
    let whole = |count: usize| Field::whole(Some(count as u64));
    let doubts = doubted.of(row).into_iter().map(|(_, doubt)| name(&doubt.doubt).to_owned());
    let differs = row.differs.iter().map(unlike_words);
    let saved = difference.filter(|_| view.measure.is_time()).and_then(Difference::time_saved);
    [
        Field::text(&view.workload),
        Field::text(row.settings.to_string()),
        Field::text(&view.measure.name),
        Field::text(&view.measure.unit),
        Field::text(view.measure.better.word()),
        Field::text(&row.rig),
        Field::Flag(Some(row.against == Against::Baseline)),
        Field::whole(row.places.map(|places| places.best as u64)),
        Field::whole(row.places.map(|places| places.worst as u64)),
        Field::Number(cell.map(Cell::typical).or_else(|| plain.map(Plain::mean))),
        end(interval, |ends| ends.low),
        end(interval, |ends| ends.high),
        Field::Number(rate.filter(|_| work.is_some()).map(|rate| rate.a_second.value)),
        Field::Text(work.map(|work| work.unit().to_owned())),
        Field::Number(of_peak),
        Field::Number(summary.and_then(|summary| summary.cv)),
        whole(row.counts.counted),
        whole(row.counts.not_counted()),
        listed(why_not(&row.counts)),
        whole(row.counts.sessions),
        of(|summary| summary.mean),
        of(|summary| summary.median),
        of(|summary| summary.min),
        of(|summary| summary.max),
        Field::Number(difference.and_then(|d| d.speed)),
        end(ratio_ends, |ends| ends.low),
        end(ratio_ends, |ends| ends.high),
        Field::Number(saved),
        Field::Flag(difference.map(|d| d.by_rate)),
        Field::text(verdict(&row.against, view)),
        Field::Text(difference.map(|d| ground_name(d).to_owned())),
        listed(differs.collect()),
        listed(doubts.collect()),
        Field::Text(cell.and_then(|cell| step_name(&view.steps, cell.typical()))),
    ]
}

fn verdict(against: &Against, view: &WorkloadView) -> String {
    match against {
        Against::Baseline => "baseline".to_owned(),
        Against::Alone => "nothing to compare with".to_owned(),
        Against::Other(difference) => verdict_of(&view.measure, difference.verdict),
    }
}

fn listed(items: Vec<String>) -> Field {
    Field::Text((!items.is_empty()).then(|| items.join("; ")))
}

/// Returns the row of a number from elsewhere, which is part of no verdict.
fn published(number: &Elsewhere) -> [Field; 34] {
    std::array::from_fn(|place| match SUMS[place] {
        ("workload", _) => Field::text(&number.workload),
        ("variant", _) => Field::text(number.settings.to_string()),
        ("measure", _) => Field::text(&number.measure),
        ("unit", _) => Field::text(&number.unit),
        ("better", _) => Field::text(number.better.word()),
        ("rig", _) => Field::text(&number.rig),
        ("typical", _) => Field::Number(Some(number.value)),
        ("verdict", _) => Field::text("from elsewhere"),
        (_, Text) => Field::Text(None),
        (_, Whole) => Field::Whole(None),
        (_, Number) => Field::Number(None),
        (_, Flag) => Field::Flag(None),
    })
}
