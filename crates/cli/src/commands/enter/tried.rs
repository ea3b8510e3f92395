//! `lap enter WORKLOAD --load 46 --held`: what came of a load that a person tried.

use super::EnterArgs;
use crate::by_hand::{HandSession, known_rig, variant};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::hand_search::HandSearch;
use crate::study_file::OpenStudy;
use honest_lap_core::record::{LoadOutcome, Loads, Origin, SessionAbout};
use honest_lap_logbook::Logbook;
use honest_lap_view::table::Role;

/// Records the lap, and says which load is next.
pub fn record(
    load: &str,
    args: &EnterArgs,
    open: &OpenStudy,
    existing: Option<&Logbook>,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let name = args.workload.as_deref().unwrap_or_default();
    let workload = open.study.workload(name).ok_or_else(|| {
        let names: Vec<&str> = open.study.workloads.iter().map(|w| w.name.as_str()).collect();
        CmdError::request(
            format!("the study has no workload `{name}`"),
            format!("it has: {}", names.join(", ")),
        )
    })?;
    let mut search = HandSearch::of(workload, variant(workload, &args.variant)?)?;
    let Some(place) = search.rule.place(load) else {
        let loads = match &search.rule.loads {
            Loads::Range { from, to, step: 1 } => format!("from {from} to {to}"),
            Loads::Range { from, to, step } => format!("from {from} to {to} by {step}"),
            Loads::Named(names) => names.join(", "),
        };
        return Err(CmdError::request(
            format!("`{load}` is no load of {name}; nothing was recorded"),
            format!("they are: {loads}"),
        ));
    };
    let Some(rig) = &args.rig else {
        return Err(CmdError::request("which rig was it tried on?", "say it: --rig NAME"));
    };
    known_rig(rig, args.new_rig, &open.study, existing)?;
    let came = match (args.held, args.strained) {
        (true, _) => LoadOutcome::Held,
        (_, true) => LoadOutcome::Strained,
        _ => LoadOutcome::Broke,
    };
    let about = SessionAbout {
        origin: Origin::Entered,
        reader: args.by.clone(),
        source: args.from.clone(),
        on: args.on,
        ..SessionAbout::default()
    };
    let mut logbook = open.logbook_to_write(ctx)?;
    let recorded = {
        let lap = [search.lap(place, came, ctx)];
        HandSession::record(&mut logbook, rig, &about, &lap, ctx)?
    };
    let line = format!("{}: {} {}", recorded.name(), search.named(place), came.word());
    ctx.ui.say(Role::Plain, &line);
    search.resume(open, &logbook, (rig, Some(recorded.name())), ctx)?;
    let next = match search.next() {
        Some(next) => format!(
            "next: try {}: lap enter {name} --rig {rig} --load {} --held (or --strained, --broke)",
            search.named(next),
            search.rule.text(next)
        ),
        None => format!("the edge is known: lap compare {name}"),
    };
    ctx.ui.say(Role::Quiet, &next);
    Ok(Exit::Done)
}
