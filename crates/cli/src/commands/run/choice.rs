//! What is run: the workloads that were asked for, in which campaign, and how long that should take.

use super::args::RunArgs;
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::plan::{Forecast, Part};
use honest_lap_core::record::{Campaign, CampaignPart, Goal, LapHead, Workload};
use honest_lap_logbook::Logbook;
use honest_lap_view::table::Role;

/// The most counted laps of a variant where a run ends by itself.
const MOST_LAPS_UNTIL: u32 = 30;

/// Returns the campaign that runs `workloads`.
pub(super) fn campaign(workloads: &[Workload], goal: Goal) -> Campaign {
    let part = |workload: &Workload| CampaignPart {
        workload: workload.name.clone(),
        variants: workload.variants(),
        block: workload.block(),
        laps: workload.laps,
        // A lap that is to find an empty cache cannot be warmed up for.
        warm_up: if workload.task.fills_cache { 0 } else { workload.warm_up },
    };
    Campaign { parts: workloads.iter().map(part).collect(), goal }
}

/// Returns the workloads asked for, with what the command line says instead of the study.
pub(super) fn chosen(
    args: &RunArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Vec<Workload>, CmdError> {
    let all = &open.study.workloads;
    let names: Vec<&str> = all.iter().map(|workload| workload.name.as_str()).collect();
    if let Some(unknown) = args.workloads.iter().find(|name| !names.contains(&name.as_str())) {
        let near = names
            .iter()
            .filter(|name| strsim::damerau_levenshtein(unknown, name) <= 1 + name.len() / 4)
            .min_by_key(|name| strsim::damerau_levenshtein(unknown, name));
        let help = near.map_or_else(
            || format!("the study has: {}", names.join(", ")),
            |near| format!("did you mean `{near}`?"),
        );
        return Err(CmdError::request(format!("the study has no workload `{unknown}`"), help));
    }
    let wanted = |w: &&Workload| args.workloads.is_empty() || args.workloads.contains(&w.name);
    let (driven, by_hand): (Vec<&Workload>, Vec<&Workload>) =
        all.iter().filter(wanted).partition(|workload| workload.task.command.is_some());
    for workload in &by_hand {
        let name = &workload.name;
        let how = if workload.task.kind.load().is_some() { "try its loads" } else { "time it" };
        let line = format!("{name} is done by hand: {how} with `lap clock {name}`");
        ctx.ui.say_labelled("note", Role::Quiet, &line);
    }
    if driven.is_empty() {
        return Err(CmdError::request(
            "the tool can run none of these workloads: people do them",
            "time one with `lap clock WORKLOAD`, or type its times in with `lap enter`",
        ));
    }
    let most = args.until.map(|_| MOST_LAPS_UNTIL);
    Ok(driven
        .into_iter()
        .map(|workload| Workload {
            laps: args.laps_of(&workload.name).unwrap_or(match workload.task.kind.load() {
                // Of a load each is a search, and how many laps that takes it knows itself.
                Some(_) => workload.laps,
                // Nor does a lap of hours tell sooner how many of it are enough.
                None if workload.task.kind.endurance().is_some() => {
                    args.laps.unwrap_or(workload.laps)
                }
                None => args.laps.or(most).unwrap_or(workload.laps),
            }),
            warm_up: match workload.task.kind.load() {
                Some(_) => 0,
                None => args.warm_up.unwrap_or(workload.warm_up),
            },
            ..workload.clone()
        })
        .collect())
}

/// Returns what earlier laps on this rig say about how long laps take.
pub(super) fn forecast(
    workloads: &[Workload],
    rig: &str,
    logbook: Option<&Logbook>,
) -> Result<Forecast, CmdError> {
    let mut forecast = Forecast::default();
    let laps = logbook.map(Logbook::laps).transpose()?.unwrap_or_default();
    for (part, workload) in workloads.iter().enumerate() {
        let number = |book: &Logbook| book.task_number(&workload.name, &workload.task);
        let task = logbook.map(number).transpose()?.flatten();
        for (variant, settings) in workload.variants().iter().enumerate() {
            let same = |lap: &&LapHead| {
                lap.name.session.rig == rig
                    && lap.workload == workload.name
                    && Some(lap.task) == task
                    && lap.settings == *settings
            };
            let mut known = laps.iter().filter(same).filter_map(LapHead::counted).peekable();
            // An endurance lap says itself how long it takes.
            let lasts = workload.task.kind.endurance().map(|rule| rule.lasts);
            let lasts = lasts.filter(|_| known.peek().is_none());
            for wall in known.chain(lasts) {
                forecast.add(part, variant, wall);
            }
        }
    }
    Ok(forecast)
}

pub(super) fn tell_rounding(args: &RunArgs, workloads: &[Workload], ctx: &Ctx) {
    for workload in workloads {
        let (variants, block) = (workload.variants().len(), workload.block());
        let driven = Part { variants, block, laps: workload.laps, warm_up: 0 }.driven();
        if driven != workload.laps {
            let (name, asked) = (&workload.name, workload.laps);
            let who = if args.laps.is_some() { "--laps" } else { "the study" };
            let line = format!(
                "{name}: {driven} laps of each of its two variants, not {asked} as {who} says: \
                 pairs are run A B B A, in even number"
            );
            ctx.ui.say_labelled("note", Role::Quiet, &line);
        }
    }
}
