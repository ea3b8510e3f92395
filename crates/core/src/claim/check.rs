//! A claim against the laps: whether it holds, with the figures that say so.

use super::bounded::{bounded, off_band};
use super::names::ClaimError;
use super::nearest::nearest;
use super::reply::{Answer, Part, Reply, Said, Unsaid};
use super::sentence::{Bound, Caution, Claim, Saying, Scope, Side, Sort};
use crate::judge::{
    Ask, Assumptions, CellName, Difference, Direction, Ground, HeldConstant, RankRange, Refusal,
    Row, Table, Verdict, Weighing, between, views,
};
use crate::record::{Better, Measure, Settings};
use crate::stat::Ranged;
use std::collections::BTreeSet;

/// What claims are checked against.
#[derive(Clone, Copy, Debug)]
pub struct Stand<'a> {
    /// The laps, summed up by the measure that the claim is about.
    pub tables: &'a [Table<'a>],
    /// What was asked of them.
    pub ask: &'a Ask,
    /// What is taken for granted.
    pub assume: Assumptions,
    /// How workloads are weighed overall.
    pub weighing: &'a Weighing,
}

/// Returns what the laps say to `claim`.
///
/// ```text
/// at least r: holds if low ≥ r, does not if high < r        [low, high]: interval of the ratio
/// at most r: holds if high ≤ r, does not if low > r
/// about r: holds if it lies within r/(1 + m) … r·(1 + m), does not if it lies outside, m: the margin
/// faster: holds if low > 1, does not if high < 1 or both are the same within the margin
/// the same within x: holds if the 90 % interval lies within 1/(1 + x) … 1 + x (two one-sided tests)
/// place p: holds if no other place is possible, does not if p is not among those possible
/// ```
/// The interval is of 95 %, of a ratio so much wider that the verdicts of its table err in 5 % all together: faster holds
/// exactly where the verdict says so.
///
/// Said of several workloads it holds if it holds for each (an intersection–union test, which needs no
/// adjustment), and does not if it fails for one, at a chance of error that all of them share.
///
/// * Errors: a sentence that the laps have no meaning for.
/// * Source: Berger (1982), <https://doi.org/10.1080/00401706.1982.10487790>; Schuirmann (1987),
///   <https://doi.org/10.1007/BF01068419>.
pub fn check(claim: &Claim, stand: &Stand<'_>) -> Result<Reply, ClaimError> {
    let mut cautions = claim.cautions.clone();
    let parts = match &claim.scope {
        Scope::Overall => vec![whole(claim, stand, &mut cautions)?],
        Scope::Every => each(claim, stand, None),
        Scope::One { workload, settings } => each(claim, stand, Some((workload, settings))),
    };
    let has = |answer| parts.iter().any(|part| part.answer == answer);
    let up_to = matches!(claim.saying, Saying::Ratio { bound: Bound::UpTo, .. });
    let answer = match () {
        () if up_to && has(Answer::Holds) => Answer::Holds,
        () if up_to && has(Answer::CannotBeSaid) => Answer::CannotBeSaid,
        () if has(Answer::DoesNot) => Answer::DoesNot,
        () if parts.is_empty() || has(Answer::CannotBeSaid) => Answer::CannotBeSaid,
        () => Answer::Holds,
    };
    cautions.extend(time_called_speed(claim, &parts));
    if up_to {
        cautions.extend(largest(claim, &parts));
    }
    Ok(Reply { answer, nearest: nearest(claim, &parts), parts, cautions })
}

/// Returns the tables that the claim is about: those of its measure, or all that are work, as an index weighs them.
///
/// A value without the name of its measure is of the first.
fn about<'t>(claim: &Claim, stand: &Stand<'t>) -> Vec<&'t Table<'t>> {
    let mut seen = BTreeSet::new();
    let mut all: Vec<&Table<'_>> = stand.tables.iter().collect();
    all.retain(|table| match (&claim.measure, &claim.saying) {
        (Some(name), _) => table.measure.name == *name,
        (None, Saying::Value { .. }) => seen.insert(table.workload),
        (None, _) => table.is_work,
    });
    all
}

fn has_all(settings: &Settings, wanted: &Settings) -> bool {
    wanted.iter().all(|(key, value)| settings.get(key) == Some(value))
}

/// Returns the answer for every variant in scope.
fn each(claim: &Claim, stand: &Stand<'_>, one: Option<(&String, &Settings)>) -> Vec<Part> {
    let mut asked: Vec<(&Table<'_>, Settings)> = Vec::new();
    for table in about(claim, stand) {
        if one.is_some_and(|(workload, _)| table.workload != workload) {
            continue;
        }
        let in_scope = |row: &&Row| one.is_none_or(|(_, wanted)| has_all(&row.settings, wanted));
        let mut variants: Vec<Settings> =
            table.rows.iter().filter(in_scope).map(|row| row.settings.clone()).collect();
        variants.sort();
        variants.dedup();
        asked.extend(variants.into_iter().map(|settings| (table, settings)));
    }
    if let Saying::Ratio { a, .. } | Saying::Same { a, .. } | Saying::Value { a, .. } =
        &claim.saying
    {
        asked.retain(|(_, settings)| has_all(settings, &a.settings));
    }
    let several = count(asked.len());
    let part = |(table, settings): (&Table<'_>, Settings)| {
        let of = CellName::of(table.workload, &settings, &table.measure.name);
        let (answer, said) = of_variant(claim, stand, table, &settings, several);
        Part { of: Some(of), answer, said }
    };
    asked.into_iter().map(part).collect()
}

fn of_variant(
    claim: &Claim,
    stand: &Stand<'_>,
    table: &Table<'_>,
    settings: &Settings,
    several: u32,
) -> (Answer, Said) {
    let row = |side: &Side| table.row(&side.rig, settings);
    match &claim.saying {
        Saying::Ratio { a, b, .. } | Saying::Same { a, b, .. } => {
            let beside = beside(table, b, a, settings);
            let (Some(ours), Some(theirs)) = (row(a), beside) else {
                let lacks = if row(a).is_none() { &a.rig } else { &b.rig };
                return nothing(Unsaid::NoLaps(lacks.clone()));
            };
            let held = |assume: &Assumptions| table.difference(theirs, ours, assume);
            let shares = Shares { family: table.family(theirs, ours), several };
            judged(claim, stand, &table.measure, shares, &held)
        }
        Saying::Value { a, bound, value, .. } => {
            let Some(row) = row(a) else { return nothing(Unsaid::NoLaps(a.rig.clone())) };
            of_value(row, *bound, *value, stand, several, &table.measure)
        }
        Saying::Place { a, best, worst, from_last } => {
            let judged = views(std::slice::from_ref(table), stand.ask, &stand.assume);
            let mut groups = judged.iter().flat_map(|view| &view.groups);
            let here =
                |held: &HeldConstant| matches!(held, HeldConstant::Variant(at) if at == settings);
            let Some(group) = groups.find(|group| here(&group.held)) else {
                return nothing(Unsaid::ComparedNowhere);
            };
            let mine = group.rows.iter().find(|row| row.rig == a.rig);
            let Some(found) = mine.and_then(|row| row.places) else {
                return nothing(Unsaid::TooFewForPlace(a.rig.clone()));
            };
            // Who has no place may stand anywhere.
            let unplaced = group.rows.iter().filter(|row| row.places.is_none()).count();
            let found = RankRange { worst: found.worst + unplaced, ..found };
            of_place(found, group.rows.len(), (*best, *worst), *from_last)
        }
    }
}

/// Returns the row of `b` that stands beside `settings` of `a`: the same, but for what `b` asks.
fn beside<'t>(table: &'t Table<'_>, b: &Side, a: &Side, settings: &Settings) -> Option<&'t Row> {
    let stands = |row: &&Row| {
        let kept = |key: &str| b.settings.get(key).is_none() && a.settings.get(key).is_none();
        row.rig == b.rig
            && has_all(&row.settings, &b.settings)
            && settings
                .iter()
                .all(|(key, value)| !kept(key) || row.settings.get(key) == Some(value))
    };
    table.rows.iter().find(stands)
}

fn nothing(why: Unsaid) -> (Answer, Said) {
    (Answer::CannotBeSaid, Said::Nothing(why))
}

/// Returns the answer over all workloads.
fn whole(
    claim: &Claim,
    stand: &Stand<'_>,
    cautions: &mut Vec<Caution>,
) -> Result<Part, ClaimError> {
    let (a, b) = match &claim.saying {
        Saying::Ratio { a, b, .. } | Saying::Same { a, b, .. } => (a, Some(b)),
        Saying::Place { a, .. } => (a, None),
        Saying::Value { a, .. } => {
            let one = stand.tables.iter().map(|table| table.workload).collect::<BTreeSet<&str>>();
            let (&workload, 1) = (one.first().unwrap_or(&""), one.len()) else {
                return Err(on_which("a value is one workload's"));
            };
            let scope = (&workload.to_owned(), &a.settings);
            let mut parts = each(claim, stand, Some(scope));
            return parts.pop().filter(|_| parts.is_empty()).ok_or_else(|| on_which("it varies"));
        }
    };
    if !a.settings.is_empty() || b.is_some_and(|b| !b.settings.is_empty()) {
        return Err(on_which("settings are one workload's"));
    }
    let tables: Vec<Table<'_>> = about(claim, stand).into_iter().cloned().collect();
    let asked = Ask { directions: vec![Direction::Rigs], ..stand.ask.clone() };
    // What a verdict takes for granted matters to the index, and not to the cells that it is made of.
    let judged_views = views(&tables, &asked, &stand.assume);
    let index = |a: &str, b: &str, assume: &Assumptions| {
        let weighing = Weighing { assume: *assume, ..stand.weighing.clone() };
        between(&judged_views, &weighing, b, a)
    };
    let rows = tables.iter().flat_map(|table| &table.rows);
    let rigs: BTreeSet<&str> = rows.map(|row| row.rig.as_str()).collect();
    let family = count(rigs.len() - 1);
    let (answer, said) = match (&claim.saying, b) {
        (Saying::Place { best, worst, from_last, .. }, _) => {
            let others: Vec<&str> = rigs.into_iter().filter(|rig| *rig != a.rig).collect();
            let assume = Assumptions { shared_by: family, ..stand.assume };
            let mut found = RankRange { best: 1, worst: others.len() + 1 };
            for other in &others {
                let difference = match index(&a.rig, other, &assume) {
                    Ok(difference) => difference,
                    Err(why) => {
                        let rig = (*other).to_owned();
                        cautions.push(Caution::MayStandAnywhere { rig, why });
                        continue;
                    }
                };
                match difference.verdict {
                    Verdict::Slower | Verdict::SlowerWithin(_) => found.best += 1,
                    Verdict::Faster | Verdict::FasterWithin(_) => found.worst -= 1,
                    _ => {}
                }
            }
            of_place(found, others.len() + 1, (*best, *worst), *from_last)
        }
        (_, None) => unreachable!("a ratio and a sameness have two sides"),
        (_, Some(b)) => match index(&a.rig, &b.rig, &stand.assume) {
            Err(why) => nothing(Unsaid::NoIndex(why)),
            Ok(_) => {
                let measure = tables.first().map_or_else(Measure::time, |t| t.measure.clone());
                let refused =
                    |_| Difference::refused(Refusal::NoLaps, Ground::ThisSessionOnly, None);
                let held =
                    |assume: &Assumptions| index(&a.rig, &b.rig, assume).unwrap_or_else(refused);
                judged(claim, stand, &measure, Shares { family, several: 1 }, &held)
            }
        },
    };
    Ok(Part { of: None, answer, said })
}

fn on_which(why: &str) -> ClaimError {
    ClaimError {
        problem: format!("{why}, and the sentence does not say which"),
        remedy: "say where: on WORKLOAD, or on every task".to_owned(),
    }
}

/// Among how many a statement shares its chance of error.
#[derive(Clone, Copy, Debug)]
struct Shares {
    /// The verdicts of its table: a claim holds exactly where the verdict says so.
    family: u32,
    /// The places in which it is said, any of which may refute it.
    several: u32,
}

fn count(of: usize) -> u32 {
    u32::try_from(of).unwrap_or(u32::MAX).max(1)
}

/// Returns the answer to what is said of a ratio or a sameness.
fn judged(
    claim: &Claim,
    stand: &Stand<'_>,
    measure: &Measure,
    shares: Shares,
    held: &dyn Fn(&Assumptions) -> Difference,
) -> (Answer, Said) {
    let assume = Assumptions { shared_by: shares.family, ..stand.assume };
    let shared = Assumptions { shared_by: shares.family.saturating_mul(shares.several), ..assume };
    let plain = held(&assume);
    let said = Said::Ratio { difference: plain, measure: measure.clone() };
    let (Some(own), Some(wide)) = (plain.interval, held(&shared).interval) else {
        return (Answer::CannotBeSaid, said);
    };
    if matches!(plain.verdict, Verdict::Refused(_)) {
        return (Answer::CannotBeSaid, said);
    }
    let answer = match &claim.saying {
        Saying::Same { within, .. } => {
            let near = held(&Assumptions { margin: *within, ..assume }).verdict;
            let is_same = matches!(
                near,
                Verdict::SameWithin(_) | Verdict::FasterWithin(_) | Verdict::SlowerWithin(_)
            );
            if is_same { Answer::Holds } else { off_band(wide, 1.0, *within) }
        }
        Saying::Ratio { sort, bound, ratio, .. } => {
            // Half the energy is twice as good.
            let (bound, ratio) = match (sort, measure.better) {
                (Sort::Values, Better::Less) => match bound {
                    Bound::Between(to) => (Bound::Between(ratio.recip()), to.recip()),
                    bound => (bound.turned(), ratio.recip()),
                },
                _ => (*bound, *ratio),
            };
            let same = matches!(plain.verdict, Verdict::SameWithin(_));
            bounded(bound, ratio, own, wide, stand.assume.margin, same)
        }
        Saying::Place { .. } | Saying::Value { .. } => Answer::CannotBeSaid,
    };
    (answer, said)
}

fn of_value(
    row: &Row,
    bound: Bound,
    value: f64,
    stand: &Stand<'_>,
    several: u32,
    measure: &Measure,
) -> (Answer, Said) {
    let Some(cell) = row.cell.as_ref() else { return nothing(Unsaid::NoneCounts) };
    let one_day = cell.sessions() == 1;
    if !cell.is_enough() {
        return nothing(Unsaid::FewLaps(cell.laps()));
    }
    let interval = |assume: &Assumptions| cell.interval_shared(assume.shared_by);
    let shared = Assumptions { shared_by: several, ..stand.assume };
    let (Ok(own), Ok(wide)) = (interval(&stand.assume), interval(&shared)) else {
        return nothing(Unsaid::NoLogarithm);
    };
    let answer = bounded(bound, value, own, wide, stand.assume.margin, false);
    let value = Ranged { value: cell.typical(), interval: own };
    let assumed = cell.is_assumed();
    (answer, Said::Value { value, one_day, assumed, measure: measure.clone() })
}

fn of_place(
    found: RankRange,
    of: usize,
    (best, worst): (usize, usize),
    from_last: bool,
) -> (Answer, Said) {
    let (best, worst) =
        if from_last { (of + 1 - worst.min(of), of + 1 - best.min(of)) } else { (best, worst) };
    let answer = match () {
        () if best <= found.best && found.worst <= worst => Answer::Holds,
        () if worst < found.best || found.worst < best => Answer::DoesNot,
        () => Answer::CannotBeSaid,
    };
    (answer, Said::Ranks { places: found, among: of })
}

/// Returns the ratio that goes farthest the way that is said, where it is, and what is usual.
fn largest(claim: &Claim, parts: &[Part]) -> Option<Caution> {
    let speed = |part: &Part| match &part.said {
        Said::Ratio { difference, .. } => Some((part.of.clone()?, difference.speed?)),
        _ => None,
    };
    let all: Vec<(CellName, f64)> = parts.iter().filter_map(speed).collect();
    let Saying::Ratio { sort, ratio, .. } = &claim.saying else { return None };
    let measure = parts.iter().find_map(|part| match &part.said {
        Said::Ratio { measure, .. } => Some(measure),
        _ => None,
    })?;
    // More of what less is better of is slower.
    let turned = *sort == Sort::Values && measure.better == Better::Less;
    let slower = (*ratio < 1.0) != turned;
    let farther = |a: &f64, b: &f64| if slower { b.total_cmp(a) } else { a.total_cmp(b) };
    let (of, largest) = all.iter().max_by(|a, b| farther(&a.1, &b.1))?.clone();
    let typical = (all.iter().map(|(_, speed)| speed.ln()).sum::<f64>() / all.len() as f64).exp();
    Some(Caution::UpTo { largest, of, typical, among: all.len() })
}

/// Returns a word of caution where the share that was called faster is that of the time saved.
fn time_called_speed(claim: &Claim, parts: &[Part]) -> Option<Caution> {
    let Saying::Ratio { faster_by: Some(share), ratio, .. } = &claim.saying else { return None };
    let [Part { said: Said::Ratio { difference, measure }, answer, .. }] = parts else {
        return None;
    };
    let (interval, speed) = (difference.interval?, difference.speed?);
    let saved = (1.0 - 1.0 / interval.low)..=(1.0 - 1.0 / interval.high);
    let is_speed = (interval.low..=interval.high).contains(ratio);
    let misled = *answer != Answer::Holds && saved.contains(share) && !is_speed;
    (measure.better == Better::Less && misled).then(|| Caution::TimeSavedCalledSpeed {
        share: *share,
        measure: measure.name.clone(),
        speed,
    })
}

#[cfg(test)]
#[path = "check_tests.rs"]
mod tests;
