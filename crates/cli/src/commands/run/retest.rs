//! `lap run --retest`: of the chosen workloads those that a lap on a rig would resolve something of.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Analysis, Question, analyse};
use honest_lap_core::plan::{Retest, retests};
use honest_lap_core::record::Workload;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet::resolves_words;
use honest_lap_view::table::Role;

/// Returns which laps would resolve something, on every rig.
pub(super) fn wanted(
    open: &OpenStudy,
    logbook: Option<&Logbook>,
    ctx: &Ctx,
) -> Result<Vec<Retest>, CmdError> {
    let Some(logbook) = logbook else {
        return Err(CmdError::request(
            "nothing has been run yet, so nothing is in doubt",
            "lap run",
        ));
    };
    let lab = read_lab(&open.study, logbook, ctx)?;
    let Analysis { findings, views, series, .. } = analyse(&lab, &Question::default())?;
    Ok(retests(&open.study, &findings, &views, &series))
}

/// Returns what of `chosen` is wanted on `rig`, each with as many laps as it wants, and says what they resolve.
pub(super) fn only(wanted: &[Retest], chosen: &[Workload], rig: &str, ctx: &Ctx) -> Vec<Workload> {
    let mut left = Vec::new();
    for workload in chosen {
        let of = wanted.iter().find(|want| want.rig == rig && want.workload == workload.name);
        let Some(want) = of else { continue };
        let mut settles: Vec<&str> = want.resolves.iter().map(resolves_words).collect();
        settles.sort_unstable();
        settles.dedup();
        let settles = settles.join(", ");
        let line = format!("{} on {rig}: {settles}", workload.name);
        ctx.ui.say_labelled("retest", Role::Quiet, &line);
        left.push(Workload { laps: want.laps, ..workload.clone() });
    }
    if left.is_empty() {
        ctx.ui.say(Role::Plain, &format!("no lap on {rig} would resolve anything: lap doubts"));
    }
    left
}
