//! Going on with an interrupted session exactly where it stood.

use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::capacity::{self, SearchLap, next_load};
use honest_lap_core::plan::{DoneLap, Part, PlannedLap, Planner};
use honest_lap_core::record::SessionPage;
use honest_lap_core::record::{Campaign, CampaignPart, LapHead, Outcome, SessionName, Workload};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use std::collections::BTreeMap;

/// A session that is resumed.
#[derive(Clone, Debug)]
pub struct Resumed {
    /// Its name.
    pub name: SessionName,
    /// The seed of its order.
    pub seed: u64,
    /// What it was to run.
    pub campaign: Campaign,
    /// Its workloads, as the study writes them now; their tasks are the same as then.
    pub workloads: Vec<Workload>,
    /// The laps that are dealt with.
    pub driven: Vec<DoneLap>,
    /// What was tried in searches that are not over, by their place in the order.
    pub tried: BTreeMap<usize, Vec<SearchLap>>,
    /// Every lap of it that was run, as planned.
    pub places: Vec<PlannedLap>,
    /// The number of its last lap.
    pub last_number: u32,
    /// The time its laps took.
    pub spent: Nanos,
}

/// Finds the session called `name`, or the last one of `rig`, and where it stood.
///
/// Laps that were interrupted or lost with the tool are run again; failed ones if `again`.
pub fn find(
    name: &str,
    again: bool,
    rig: &str,
    open: &OpenStudy,
    logbook: Option<&Logbook>,
) -> Result<Resumed, CmdError> {
    let nothing = || CmdError::request("there is no session to go on with", "begin one: lap run");
    let logbook = logbook.ok_or_else(nothing)?;
    let sessions = logbook.sessions()?;
    let page = match SessionName::parse(name) {
        Some(wanted) => sessions.into_iter().find(|page| page.record.name == wanted),
        None if name.is_empty() => sessions
            .into_iter()
            .rev()
            .find(|page| page.record.name.rig == rig && page.record.about.campaign.is_some()),
        None => None,
    };
    let page = page.ok_or_else(nothing)?;
    let session = &page.record.name;
    let Some(campaign) = page.record.about.campaign.clone() else {
        return Err(CmdError::request(
            format!("session {session} does not say what it was to run"),
            "it was typed in, or run by a version that did not note it: begin a new one",
        ));
    };
    if session.rig != rig {
        return Err(CmdError::request(
            format!("session {session} was run on rig {}, and this is {rig}", session.rig),
            "go on with it on its own machine",
        ));
    }
    let workloads = same_workloads(&page, &campaign, open, logbook)?;
    let laps = logbook.laps_of(session)?;
    standing(page, campaign, workloads, &laps, again)
}

/// Returns the campaign's workloads, which must be what they were.
fn same_workloads(
    page: &SessionPage,
    campaign: &Campaign,
    open: &OpenStudy,
    logbook: &Logbook,
) -> Result<Vec<Workload>, CmdError> {
    let laps = logbook.laps_of(&page.record.name)?;
    let mut workloads = Vec::new();
    for part in &campaign.parts {
        let changed = || {
            CmdError::request(
                format!("workload {} has changed since {}", part.workload, page.record.name),
                "laps of two definitions do not belong into one session: begin a new one, lap run",
            )
        };
        let workload = open.study.workload(&part.workload).ok_or_else(changed)?;
        let task = logbook.task_number(&workload.name, &workload.task)?;
        let same_task = laps
            .iter()
            .filter(|lap| lap.workload == part.workload)
            .all(|lap| Some(lap.task) == task);
        if !same_task || workload.variants() != part.variants || workload.block() != part.block {
            return Err(changed());
        }
        let (laps, warm_up) = (part.laps, part.warm_up);
        workloads.push(Workload { laps, warm_up, ..workload.clone() });
    }
    Ok(workloads)
}

fn standing(
    page: SessionPage,
    campaign: Campaign,
    workloads: Vec<Workload>,
    laps: &[LapHead],
    again: bool,
) -> Result<Resumed, CmdError> {
    let parts: Vec<Part> = campaign.parts.iter().map(CampaignPart::part).collect();
    let mut planner = Planner::new(parts, campaign.goal, page.record.seed);
    let (mut driven, mut places) = (Vec::<DoneLap>::new(), Vec::new());
    let mut tried: BTreeMap<usize, Vec<SearchLap>> = BTreeMap::new();
    for lap in laps {
        let part = campaign.parts.iter().position(|part| part.workload == lap.workload);
        let planned = part.and_then(|part| {
            let variant = campaign.parts[part].variants.iter().position(|v| *v == lap.settings)?;
            Some(PlannedLap { part, variant, round: lap.round, warm_up: lap.warm_up })
        });
        let Some((planned, place)) = planned.and_then(|p| Some((p, planner.place_of(p)?))) else {
            return Err(CmdError::request(
                format!("lap {} is none that its session was to run", lap.name),
                "begin a new session: lap run",
            ));
        };
        places.push(planned);
        if let Some(rule) = workloads[planned.part].task.kind.load() {
            tried.entry(place).or_default().extend(capacity::tried(lap, rule));
            continue;
        }
        let failed = lap.outcome.is_failure();
        let undone = matches!(lap.outcome, Outcome::Interrupted | Outcome::Lost);
        if !(undone || failed && again) {
            driven.retain(|known| known.place != place);
            driven.push(DoneLap { place, failed, time: lap.counted() });
        }
    }
    tried.retain(|&place, tried| {
        let rule = workloads[planner.order()[place].part].task.kind.load();
        let open = rule.is_some_and(|rule| next_load(&rule.search(None), tried).is_some());
        if !open {
            driven.push(DoneLap { place, failed: false, time: None });
        }
        open
    });
    if driven.len() == planner.order().len() {
        let name = &page.record.name;
        return Err(CmdError::request(
            format!("session {name} has run everything that it was to run"),
            "begin a new one with `lap run`; `--resume --again` runs failed laps again",
        ));
    }
    Ok(Resumed {
        seed: page.record.seed,
        name: page.record.name,
        campaign,
        workloads,
        driven,
        tried,
        places,
        last_number: laps.last().map_or(0, |lap| lap.name.number),
        spent: laps.iter().filter_map(|lap| lap.wall).fold(Nanos(0), Nanos::plus),
    })
}
