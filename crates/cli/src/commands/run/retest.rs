//! `lap run --retest`: of the chosen workloads those that a lap on this rig would settle something of.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::{Asked, Lab};
use crate::study_file::OpenStudy;
use honest_lap_core::plan::retests;
use honest_lap_core::record::Workload;
use honest_lap_draw::Role;
use honest_lap_logbook::Logbook;

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
            "nothing has been driven yet, so nothing is in doubt",
            "lap run",
        ));
    };
    let study = &open.study;
    let lab = Lab::read(study, logbook, ctx)?;
    let judged = lab.judged(&Asked::default(), study);
    let wanted = retests(study, &judged.doubts, &judged.views, &judged.laps);
    let mut left = Vec::new();
    for workload in chosen {
        let of = wanted.iter().find(|want| want.rig == rig && want.workload == workload.name);
        let Some(want) = of else { continue };
        let settles = want.settles.join(", ");
        ctx.ui.say_labelled("retest", Role::Quiet, &format!("{}: {settles}", workload.name));
        left.push(Workload { laps: want.laps, ..workload });
    }
    Ok(left)
}
