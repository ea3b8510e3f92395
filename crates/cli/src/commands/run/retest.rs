//! `lap run --retest`: of the chosen workloads those that a lap on this rig would resolve something of.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Analysis, Question, analyse};
use honest_lap_core::plan::retests;
use honest_lap_core::record::Workload;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet::resolves_words;
use honest_lap_view::table::Role;

/// Returns what is left of `chosen`, each with as many laps as it wants.
pub(super) fn only(
    chosen: Vec<Workload>,
    rig: &str,
    open: &OpenStudy,
    logbook: Option<&Logbook>,
    ctx: &Ctx,
) -> Result<Vec<Workload>, CmdError> {
    let Some(logbook) = logbook else {
        return Err(CmdError::request(
            "nothing has been run yet, so nothing is in doubt",
            "lap run",
        ));
    };
    let study = &open.study;
    let lab = read_lab(study, logbook, ctx)?;
    let Analysis { findings, views, laps, .. } = analyse(&lab, &Question::default())?;
    let wanted = retests(study, &findings, &views, &laps);
    let mut left = Vec::new();
    for workload in chosen {
        let of = wanted.iter().find(|want| want.rig == rig && want.workload == workload.name);
        let Some(want) = of else { continue };
        let mut settles: Vec<&str> = want.resolves.iter().map(resolves_words).collect();
        settles.sort_unstable();
        settles.dedup();
        let settles = settles.join(", ");
        ctx.ui.say_labelled("retest", Role::Quiet, &format!("{}: {settles}", workload.name));
        left.push(Workload { laps: want.laps, ..workload });
    }
    Ok(left)
}
