//! One question to a lab, one answer.

use super::ask::{ask, between, chosen};
use super::published::Published;
use super::question::{Across, Question, Way};
use super::refused::{QuestionError, check_names, no_such_setting};
use super::weigh::{Index, indexes, weighing};
use crate::both::both;
use crate::claim::{self, Claim, ClaimError, Names, Stand, check, parse_all};
use crate::finding::{Evidence, Finding, findings, of_laps, run};
use crate::judge::{
    Ask, Assumptions, Between, BetweenByMeasure, Direction, Missing, TwoWay, Weighing,
    WorkloadView, between_sessions, compare, in_common, tables, two_way, views,
};
use crate::lab::{BesideChange, Changed, Choice, Lab, LapSeries, PowerBy, beside, changes};
use crate::record::{Elsewhere, Measure, PublishedClaim, Rig, SessionName, Work};
use crate::value::{Beside, Economy, Upgrade, economy, upgrade};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// What a setting gains, for one measure of a workload.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Crossed {
    /// The workload.
    pub workload: String,
    /// The measure.
    pub measure: Measure,
    /// What was found.
    pub found: TwoWay,
}

/// A sentence, what it was taken to say, and the answer.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Answered {
    /// As it was said, and by whom.
    pub published: PublishedClaim,
    /// As it was understood.
    pub claim: Claim,
    /// The answer.
    pub found: claim::Reply,
}

/// A sentence that is not understood.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Unread {
    /// As it was said, and by whom.
    pub published: PublishedClaim,
    /// Which words are not understood.
    pub problem: String,
    /// What is.
    pub remedy: String,
}

/// What work is worth.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Worth {
    /// Work against money and energy, rig by rig.
    pub found: Economy,
    /// What some rig has no verdict in.
    pub missing: Vec<Missing>,
    /// What shows a display's rate or a limiter's on some rig, and is left out for all.
    pub capped: Vec<Missing>,
    /// What upgrades pay.
    pub upgrades: Vec<Upgrade>,
}

/// What the laps support. Complete when made; what programs read of it is this, by serde.
#[derive(Clone, Debug, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Analysis<'l> {
    /// What was asked.
    pub question: Question,
    /// What of the lab it was asked of.
    pub chosen: Choice,
    /// What is taken for granted.
    #[serde(rename = "assumptions")]
    pub assume: Assumptions,
    /// How far sessions of a rig are taken to differ, measure by measure.
    pub between_sessions: Vec<Between>,
    /// Every measure of every workload that is asked for, compared.
    #[serde(rename = "tables")]
    pub views: Vec<WorkloadView>,
    /// The laps of the compared forms of all tasks.
    #[serde(skip)]
    pub series: Vec<&'l LapSeries>,
    /// What may mislead, what could change most first.
    pub findings: Vec<Finding>,
    /// The workloads weighed.
    #[serde(rename = "overall")]
    pub indexes: Vec<Index>,
    /// What the setting that is asked for gains.
    pub gains: Vec<Crossed>,
    /// What changed between before and after, where that is asked.
    pub changes: Option<Vec<Changed>>,
    /// The sessions on its two sides, likewise.
    pub around_change: Vec<BesideChange>,
    /// The sentences that are asked about, answered.
    pub answered: Vec<Answered>,
    /// Those that are not understood.
    pub unread: Vec<Unread>,
    /// What work is worth, where that is asked.
    pub worth: Option<Worth>,
    /// How much work a lap of each compared workload does, where that is known.
    pub works: BTreeMap<String, Work>,
    /// Sessions that share the day of an earlier one, each with that.
    pub shared_days: Vec<(SessionName, SessionName)>,
    /// What others published of the workloads that are asked for: part of no verdict.
    pub elsewhere: Vec<Published>,
}

impl Analysis<'_> {
    /// Returns how many laps the compared forms of all tasks have.
    pub fn laps(&self) -> usize {
        self.series.iter().map(|series| series.len()).sum()
    }
}

/// Returns what the laps of `lab` say to `question`.
///
/// Everything is read and compared, whatever is shown: how far days differ is the study's own, and a figure must not
/// change with what is beside it.
///
/// * Errors: a name that the laps do not have; a sentence that is none.
pub fn analyse<'l>(lab: &'l Lab, question: &Question) -> Result<Analysis<'l>, QuestionError> {
    check_names(question, lab)?;
    let between = between(lab, question);
    let asked = Ask {
        beside: beside(lab, &question.columns),
        ..ask(lab, question, &question.measures, &between)
    };
    let assume = Assumptions::of(asked.margin);
    // Only laps of the compared form stand beside each other.
    let is_compared = |workload: &str, task: u32| asked.tasks.get(workload) == Some(&task);
    let of_compared = |series: &&LapSeries| is_compared(&series.workload, series.task);
    let series: Vec<&LapSeries> = lab.series().iter().filter(of_compared).collect();
    let run = run(&series);
    let laps = lab.laps_with(&question.measures);
    let (of_laps, (tables, mut compared)) = both(
        || of_laps(&series, &asked.untimed),
        || {
            let tables = chosen(question, tables(&laps, &asked));
            let compared = views(&tables, &asked, &assume);
            (tables, compared)
        },
    );
    let gains = gains(question, lab, &tables, &asked, &assume)?;
    let searches = lab.searches();
    let evidence = Evidence {
        series: &series,
        run: &run,
        versions: &lab.versions,
        views: &compared,
        untimed: &asked.untimed,
        sessions: &lab.sessions,
        modes: &lab.modes,
        is_of_change: lab.is_of_change(),
        study: &lab.study,
        assume: &assume,
        searches: &searches,
    };
    let mut findings = findings(of_laps, &evidence, &tables, &asked);
    findings.retain(|finding| finding.workload.is_empty() || question.is_about(&finding.workload));
    findings.iter_mut().for_each(|finding| finding.rename(&|name| lab.own_name(name).clone()));
    let weighing = weighing(&lab.study, &asked, assume);
    let indexes = indexes(question, &lab.study, &compared, &weighing);
    let (answered, unread) = answered(question, lab, &between, &weighing);
    compared.retain(|view| question.is_about(&view.workload));
    let worth = question.worth.as_ref();
    let worth = worth.map(|way| worth_of(way, question, lab, &between, &compared, &weighing));
    let changes = lab.is_of_change().then(|| changes(&lab.sessions, &lab.versions, &lab.modes));
    let shares = |(session, day): (&SessionName, &SessionName)| {
        (session != day).then(|| (lab.own_name(session).clone(), lab.own_name(day).clone()))
    };
    let shared_days = lab.days.iter().filter_map(shares).collect();
    let is_asked = |number: &&Elsewhere| {
        question.is_about(&number.workload)
            && lab.choice.means(&lab.study, &number.workload, &number.settings)
    };
    let elsewhere = lab.study.elsewhere.iter().filter(is_asked);
    let elsewhere = elsewhere.map(|number| Published::beside(number, &compared)).collect();
    Ok(Analysis {
        question: question.clone(),
        chosen: lab.choice.clone(),
        assume,
        between_sessions: between_sessions(&compared),
        elsewhere,
        views: compared,
        series,
        findings,
        indexes,
        gains,
        changes,
        around_change: lab.around_change(),
        answered,
        unread,
        worth,
        works: asked.works,
        shared_days,
    })
}

/// Returns what the setting gains on every rig, workload by workload.
fn gains(
    question: &Question,
    lab: &Lab,
    tables: &[crate::judge::Table<'_>],
    ask: &Ask,
    assume: &Assumptions,
) -> Result<Vec<Crossed>, QuestionError> {
    let Across::Setting(setting) = &question.across else { return Ok(Vec::new()) };
    let mut all = Vec::new();
    for table in tables.iter().filter(|table| question.is_about(table.workload)) {
        for found in two_way(table, setting, ask, assume) {
            let (workload, measure) = (table.workload.to_owned(), table.measure.clone());
            all.push(Crossed { workload, measure, found });
        }
    }
    match all.is_empty() {
        true => Err(no_such_setting(question, lab)),
        false => Ok(all),
    }
}

/// Returns the names that sentences may hold.
fn names(lab: &Lab) -> Names {
    let names = |of: fn(&LapSeries) -> &str| {
        let names: BTreeSet<&str> = lab.series().iter().map(of).collect();
        names.into_iter().map(str::to_owned).collect()
    };
    let title = |rig: &Rig| Some((rig.title.clone()?, rig.name.clone()));
    Names {
        rigs: names(|series| &series.session.rig),
        titles: lab.study.rigs.iter().filter_map(title).collect(),
        workloads: names(|series| &series.workload),
        measures: lab.measures(),
    }
}

/// Returns each sentence that is asked about with what the laps say to it, by the measure that it is about; and those that
/// are not understood, which keep nothing from the others.
fn answered(
    question: &Question,
    lab: &Lab,
    between: &BetweenByMeasure,
    weighing: &Weighing,
) -> (Vec<Answered>, Vec<Unread>) {
    let (mut all, mut unread) = (Vec::new(), Vec::new());
    if question.claims.is_empty() {
        return (all, unread);
    }
    let names = names(lab);
    for published in &question.claims {
        let unclear = |source: ClaimError| {
            let (published, ClaimError { problem, remedy }) = (published.clone(), source);
            Unread { published, problem, remedy }
        };
        let claims = match parse_all(&published.says, &names) {
            Ok(claims) => claims,
            Err(source) => {
                unread.push(unclear(source));
                continue;
            }
        };
        for (says, claim) in claims {
            let measures: Vec<String> = claim.measure.iter().cloned().collect();
            let (asked, laps) = (ask(lab, question, &measures, between), lab.laps_with(&measures));
            let tables = tables(&laps, &asked);
            let stand = Stand { tables: &tables, ask: &asked, assume: weighing.assume, weighing };
            match check(&claim, &stand) {
                Ok(found) => {
                    let published = PublishedClaim { says, who: published.who.clone() };
                    all.push(Answered { published, claim, found });
                }
                Err(source) => unread.push(unclear(source)),
            }
        }
    }
    (all, unread)
}

/// Returns what work is worth, and what upgrades of this `way` pay.
fn worth_of(
    way: &Way,
    question: &Question,
    lab: &Lab,
    between: &BetweenByMeasure,
    views: &[WorkloadView],
    weighing: &Weighing,
) -> Worth {
    let study = &lab.study;
    let weighing =
        Weighing { only: question.workloads.iter().cloned().collect(), ..weighing.clone() };
    let by = |measures: &[&str]| {
        let measures: Vec<String> = measures.iter().map(|&name| name.to_owned()).collect();
        let asked =
            Ask { directions: vec![Direction::Rigs], ..ask(lab, question, &measures, between) };
        compare(&*lab.laps_with(&measures), &asked)
    };
    let known = PowerBy::known(lab);
    let (energy, power) = (by(&[&known.energy]), by(&[&known.mean, &known.peak]));
    let (shared, [missing, capped]) = in_common(views.to_vec(), &weighing);
    let found = economy(study, &shared, &energy, (&power, &known), &weighing);
    let base = found.rows.iter().find(|row| row.work == Beside::Baseline);
    let from = way.from.as_deref().or_else(|| base.map(|row| row.rig.as_str())).unwrap_or_default();
    let to = |rig: &str| rig != from && way.to.as_ref().is_none_or(|to| to == rig);
    let upgrades = found
        .rows
        .iter()
        .filter(|row| to(&row.rig))
        .filter_map(|row| upgrade(study, views, from, &row.rig, &weighing.assume))
        .collect();
    Worth { found, missing, capped, upgrades }
}
