//! Columns that the study does not know: offered as workloads, and added to it behind all that it has.

use super::EnterArgs;
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::{OpenStudy, STUDY_FILE};
use crate::whole_file::write_whole;
use honest_lap_core::entry::{Drafted, Grid, new_workloads};
use honest_lap_study::with_workloads;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;

/// A study with workloads that are not written down yet.
pub(super) struct Offered {
    new: Vec<Drafted>,
    names: String,
}

/// Has `open` know the columns of `grid` that its study does not, once that is agreed; nothing is written yet. Where it is not,
/// the columns are mistakes of the table.
pub(super) fn offered(
    grid: &Grid,
    args: &EnterArgs,
    open: &mut OpenStudy,
    ctx: &Ctx,
) -> Result<Option<Offered>, CmdError> {
    let new = match args.table {
        Some(_) => new_workloads(grid, &open.study, &args.columns),
        None => Vec::new(),
    };
    if new.is_empty() {
        return Ok(None);
    }
    let called = |one: &Drafted| match one.name == one.heading {
        true => one.name.clone(),
        false => format!("{} ({})", one.name, one.heading),
    };
    let names = new.iter().map(called).collect::<Vec<_>>().join(", ");
    if !args.new_workload {
        let what = count(new.len(), "workload");
        let question = format!("{what} that the study has not: {names}; add to {STUDY_FILE}?");
        let asked = ctx.ui.agreed(&question).map_err(|err| CmdError::output(&err))?;
        if asked != Some(true) {
            return Ok(None);
        }
    }
    let text = with_workloads(&study_text(open)?, &new);
    let Ok(study) = honest_lap_study::read(&text) else {
        let problem = format!("{STUDY_FILE} has no place for {names}; nothing was recorded");
        return Err(CmdError::request(problem, "add them yourself: [workload.NAME]"));
    };
    open.study = study;
    Ok(Some(Offered { new, names }))
}

fn study_text(open: &OpenStudy) -> Result<String, CmdError> {
    let path = open.folder.join(STUDY_FILE);
    std::fs::read_to_string(&path).map_err(|err| CmdError::io("read", &path, &err))
}

impl Offered {
    /// Writes the study down.
    pub(super) fn written(&self, open: &OpenStudy, ctx: &Ctx) -> Result<(), CmdError> {
        let text = with_workloads(&study_text(open)?, &self.new);
        write_whole(&open.folder, &open.folder.join(STUDY_FILE), text.as_bytes())?;
        let what = count(self.new.len(), "workload");
        let line = format!("{STUDY_FILE}: {what} added: {}", self.names);
        ctx.ui.say(Role::Plain, &line);
        Ok(())
    }
}
