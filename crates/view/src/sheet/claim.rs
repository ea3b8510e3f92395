//! `lap claim`: the answer first, then its figures, the nearest true sentence, and what misleads.

use crate::number::significant;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::finding::name;
use crate::words::{
    caution_words, interval_words, lap_of, listed, measured, speed, speed_interval, time_saved,
    unsaid_words, verdict_of,
};
use honest_lap_core::analysis::Answered;
use honest_lap_core::claim::{Answer, Claim, Part, Reply, Said, Saying, Sort};
use honest_lap_core::finding::Finding;
use honest_lap_core::judge::{Assumptions, Difference, Ground};
use honest_lap_core::record::{Better, Measure, Study, TIME};
use honest_lap_core::stat::Ranged;
use honest_lap_core::unit::display_share;
use std::collections::BTreeSet;

/// Returns the sheet of answers.
pub fn claims(
    study: &Study,
    all: &[Answered],
    findings: &[Finding],
    assume: &Assumptions,
) -> Sheet {
    let counted = |answer| all.iter().filter(|one| one.found.answer == answer).count();
    let lead = (all.len() > 1).then(|| {
        format!(
            "Of {} claims {} held by the laps, {} refuted, and {} cannot be said.",
            all.len(),
            are(counted(Answer::Holds)),
            are(counted(Answer::DoesNot)),
            counted(Answer::CannotBeSaid)
        )
    });
    Sheet {
        schema: "honest-lap/claim",
        version: 1,
        title: study.title.clone().filter(|_| all.len() > 1),
        lead: lead.into_iter().collect(),
        groups: all.iter().map(|one| group(one, findings)).collect(),
        notes: method(all, assume),
    }
}

fn are(count: usize) -> String {
    format!("{count} {}", if count == 1 { "is" } else { "are" })
}

fn answer_words(answer: Answer) -> &'static str {
    match answer {
        Answer::Holds => "holds",
        Answer::DoesNot => "does not hold",
        Answer::CannotBeSaid => "cannot be said",
    }
}

fn role(answer: Answer) -> Role {
    match answer {
        Answer::Holds => Role::Better,
        Answer::DoesNot => Role::Worse,
        Answer::CannotBeSaid => Role::Open,
    }
}

fn group(one: &Answered, findings: &[Finding]) -> Group {
    let (published, found) = (&one.published, &one.found);
    let answer = answer_words(found.answer);
    let mut lead = vec![match &published.who {
        Some(who) => format!("{who} says so. By the laps it {}.", it(found.answer)),
        None => format!("This {}.", it(found.answer)),
    }];
    lead.extend(found.nearest.iter().map(|nearest| match found.answer {
        Answer::Holds => format!("The most that holds: {nearest}."),
        _ => format!("Closest supported claim: {nearest}."),
    }));
    let cautions: Vec<String> = found.cautions.iter().map(caution_words).collect();
    lead.extend(cautions.iter().map(|caution| format!("Mind the wording: {caution}.")));
    let row = |part: &Part| {
        let mut row = vec![
            Cell::text(&published.says),
            Cell::or_missing(published.who.as_ref(), Cell::text),
            Cell::text(answer),
            Cell::or_missing(found.nearest.as_ref(), Cell::text),
            Cell::list(cautions.clone()),
            Cell::text(on(part, &found.parts)),
        ];
        row.extend(figures(&one.claim, &part.said));
        row.push(Cell::text(answer_words(part.answer)).role(role(part.answer)));
        row
    };
    Group {
        heading: Some(format!("\"{}\"", published.says)),
        lead,
        columns: vec![
            Column::machine("claim"),
            Column::machine("who"),
            Column::machine("answer"),
            Column::machine("nearest"),
            Column::machine("cautions"),
            Column::text("of", "on"),
            Column::text("says", "measured").people().wrap(24),
            Column::text("interval", "interval").people(),
            Column::machine("figure"),
            Column::machine("figure_low"),
            Column::machine("figure_high"),
            Column::machine("figure_of"),
            Column::text("answer_here", "answer"),
        ],
        rows: found.parts.iter().map(row).collect(),
        layout: Layout::Table,
        drawing: Vec::new(),
        notes: doubted(found, findings),
    }
}

/// Returns what a part is of; its measure where the workload has several of them.
fn on(part: &Part, parts: &[Part]) -> String {
    let Some(of) = &part.of else { return "overall".to_owned() };
    let beside = parts.iter().filter_map(|part| part.of.as_ref());
    let mut beside = beside.filter(|other| other.workload == of.workload);
    let name = lap_of(&of.workload, &of.settings);
    match beside.any(|other| other.measure != of.measure) {
        true => format!("{name} {}", of.measure),
        false => name,
    }
}

fn it(answer: Answer) -> &'static str {
    match answer {
        Answer::CannotBeSaid => "cannot be said",
        other => answer_words(other),
    }
}

/// Returns what people read, the interval, and for programs the figure, its ends and what it is of.
fn figures(claim: &Claim, said: &Said) -> Vec<Cell> {
    let number = |value: f64| Cell::number(value, significant(value, 4));
    match said {
        Said::Ratio { difference, measure } => ratio(claim, difference, measure),
        Said::Value { value: Ranged { value, interval }, measure, .. } => {
            let shown = |value| measured(value, &measure.unit);
            vec![
                Cell::text(format!("{} {}", measure.name, shown(*value))),
                Cell::text(interval_words(&shown(interval.low), &shown(interval.high))),
                number(*value),
                number(interval.low),
                number(interval.high),
                Cell::text(&measure.name),
            ]
        }
        Said::Ranks { places, among } => {
            let range = match places.best == places.worst {
                true => format!("rank {}", places.best),
                false => format!("rank {}–{}", places.best, places.worst),
            };
            vec![
                Cell::text(format!("{range} of {among}")),
                Cell::missing(),
                Cell::missing(),
                Cell::whole(places.best as u64),
                Cell::whole(places.worst as u64),
                Cell::text("rank"),
            ]
        }
        Said::Nothing(why) => {
            let mut row = vec![Cell::text(unsaid_words(why)).role(Role::Open)];
            row.resize(6, Cell::missing());
            row
        }
    }
}

fn ratio(claim: &Claim, difference: &Difference, measure: &Measure) -> Vec<Cell> {
    let number = |value: Option<f64>| {
        Cell::or_missing(value, |value| Cell::number(value, significant(value, 4)))
    };
    let end = |end: fn(&honest_lap_core::stat::Interval) -> f64| {
        number(difference.interval.as_ref().map(end))
    };
    let of_values = matches!(claim.saying, Saying::Ratio { sort: Sort::Values, .. });
    // Of a quantity of which less is better, twice as good is half as much.
    if let (true, Better::Less, Some(speed), Some(interval)) =
        (of_values, measure.better, difference.speed, difference.interval)
    {
        let share = |times: f64| format!("{} %", significant(100.0 / times, 3));
        return vec![
            Cell::text(format!("{} of the {}", share(speed), measure.name)),
            Cell::text(interval_words(&share(interval.high), &share(interval.low))),
            number(Some(speed.recip())),
            number(Some(interval.high.recip())),
            number(Some(interval.low.recip())),
            Cell::text(format!("share of {}", measure.name)),
        ];
    }
    let what = match (measure.is_time(), claim.measure.as_deref()) {
        (true, None | Some(TIME)) => "the speed".to_owned(),
        _ => format!("as good in {}", measure.name),
    };
    let saved = time_saved(difference).filter(|_| measure.is_time());
    let saved = saved.map(|saved| format!(", {saved} time")).unwrap_or_default();
    let said = speed(difference).map(|speed| format!("{speed} {what}{saved}"));
    let said = match difference.is_refused() {
        true => Cell::text(verdict_of(measure, difference.verdict)).role(Role::Open),
        false => Cell::or_missing(said, Cell::text),
    };
    vec![
        said,
        Cell::or_missing(speed_interval(difference), Cell::text),
        number(difference.speed),
        end(|interval| interval.low),
        end(|interval| interval.high),
        Cell::text("times better"),
    ]
}

/// Returns a line for each doubt about a workload that the claim is about.
fn doubted(found: &Reply, findings: &[Finding]) -> Vec<String> {
    let about = |finding: &&Finding| {
        let of = |part: &Part| part.of.as_ref().is_none_or(|of| of.workload == finding.workload);
        found.parts.iter().any(of)
    };
    let about = findings.iter().filter(about);
    let names: BTreeSet<&str> = about.map(|finding| name(&finding.doubt)).collect();
    if names.is_empty() {
        return Vec::new();
    }
    let names: Vec<String> = names.into_iter().map(str::to_owned).collect();
    vec![format!(
        "Doubts about these laps: {}. lap doubts has them with their evidence.",
        listed(&names)
    )]
}

fn method(all: &[Answered], assume: &Assumptions) -> Vec<String> {
    let mut notes = vec![format!(
        "A claim holds if its interval lies where it says, and does not if the interval lies \
         elsewhere; otherwise the laps do not say. Intervals are of 95 %, and of ratios so much wider that \
         all verdicts of a table err in 5 % together: a claim holds exactly where lap compare says so. \
         'About' and 'faster' allow for the margin of {}. Said of every task, it must hold for each.",
        display_share(assume.margin)
    )];
    if all.len() > 1 {
        // The bound of Bonferroni: whatever the claims have to do with each other.
        let at_most = (5 * all.len()).min(100);
        notes.push(format!(
            "These are {} claims: each by itself errs in at most 5 % of cases, so some one of them may in up to {at_most}\u{a0}%.",
            all.len()
        ));
    }
    let said = all.iter().flat_map(|one| &one.found.parts);
    let mut stands_on = said.clone().map(|part| match &part.said {
        Said::Ratio { difference, .. } => difference.ground == Ground::AssumedSpread,
        Said::Value { assumed, .. } => *assumed,
        Said::Ranks { .. } | Said::Nothing(_) => false,
    });
    if stands_on.any(|assumed| assumed) {
        notes.push(
            "Some of it comes from too few laps to show how far they differ: that is assumed (lap compare says how much)."
                .to_owned(),
        );
    }
    let one_day = said.clone().any(|part| match &part.said {
        Said::Ratio { difference, .. } => difference.ground == Ground::ThisSessionOnly,
        Said::Value { one_day, .. } => *one_day,
        Said::Ranks { .. } | Said::Nothing(_) => false,
    });
    if one_day {
        notes.push(
            "Some of it comes from one session only: its interval is as wide as days differ (lap compare says \
             by how much)."
                .to_owned(),
        );
    }
    notes
}
