//! Rigs that nobody knew: offered, and added to the study with what the table calls them.

use super::EnterArgs;
use crate::by_hand::known_rigs;
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::{OpenStudy, STUDY_FILE};
use crate::whole_file::write_whole;
use honest_lap_core::entry::NewRig;
use honest_lap_logbook::Logbook;
use honest_lap_study::with_rig;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;

/// Adds new rigs to the study once that is agreed; returns whether it is.
pub(super) fn added(
    new: &[NewRig],
    args: &EnterArgs,
    open: &OpenStudy,
    existing: Option<&Logbook>,
    ctx: &Ctx,
) -> Result<bool, CmdError> {
    if new.is_empty() {
        return Ok(true);
    }
    let called = |rig: &NewRig| match rig.name == rig.title {
        true => rig.name.clone(),
        false => format!("{} ({})", rig.name, rig.title),
    };
    let names = new.iter().map(called).collect::<Vec<_>>().join(", ");
    if !args.new_rig {
        let question =
            format!("{} that nobody knows: {names}; add to {STUDY_FILE}?", count(new.len(), "rig"));
        let asked = ctx.ui.agreed(&question).map_err(|err| CmdError::output(&err))?;
        match asked {
            Some(true) => {}
            Some(false) => {
                ctx.ui.say(Role::Plain, "nothing was recorded");
                return Ok(false);
            }
            None => return Err(unknown(new, open, existing)?),
        }
    }
    let path = open.folder.join(STUDY_FILE);
    let mut text =
        std::fs::read_to_string(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    for rig in new {
        let title = Some(&rig.title).filter(|title| **title != rig.name);
        let with = with_rig(&text, &rig.name, title.map(String::as_str));
        text = with.filter(|text| honest_lap_study::read(text).is_ok()).ok_or_else(|| {
            let problem =
                format!("{STUDY_FILE} has no place for rig {}; nothing was recorded", rig.name);
            CmdError::request(problem, format!("add it yourself: [rig.{}]", rig.name))
        })?;
    }
    write_whole(&open.folder, &path, text.as_bytes())?;
    ctx.ui.say(Role::Plain, &format!("{STUDY_FILE}: {} added: {names}", count(new.len(), "rig")));
    Ok(true)
}

/// Returns the error of rigs that nobody knows: a slip of the pen is no new rig.
fn unknown(
    new: &[NewRig],
    open: &OpenStudy,
    existing: Option<&Logbook>,
) -> Result<CmdError, CmdError> {
    let known = known_rigs(&open.study, existing)?;
    let titles: Vec<String> = new.iter().map(|rig| format!("`{}`", rig.title)).collect();
    let problem = format!("no rig is called {}; nothing was recorded", titles.join(", "));
    let help = match known.is_empty() {
        true => "--new-rig adds a new one to study.toml".to_owned(),
        false => format!("known are: {}; --new-rig adds a new one to study.toml", known.join(", ")),
    };
    Ok(CmdError::request(problem, help))
}
