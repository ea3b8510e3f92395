//! Joining what was recorded elsewhere into a study's logbook: what is asked of whoever brings it.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::{OpenStudy, STUDY_FILE};
use crate::whole_file::write_whole;
use honest_lap_core::record::{SessionName, is_rig_name};
use honest_lap_logbook::{Logbook, Merged, Visitor};
use honest_lap_study::with_rig_key;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

/// Whose machine is whose.
#[derive(clap::Args, Debug, Default)]
pub struct JoinArgs {
    /// Call the other machine's rig OLD by the name NEW from now on
    #[arg(long, value_name = "OLD=NEW", value_parser = call)]
    call: Vec<(String, String)>,
    /// This rig is the same machine in both, though its system was set up anew
    #[arg(long, value_name = "RIG")]
    same: Vec<String>,
}

impl JoinArgs {
    /// Returns the answer that a rig is the same machine in both.
    pub fn same(rig: &str) -> Self {
        Self { same: vec![rig.to_owned()], ..Self::default() }
    }
}

fn call(text: &str) -> Result<(String, String), String> {
    let (old, new) = text.split_once('=').ok_or("write it as OLD=NEW, such as heron=heron-b")?;
    if !is_rig_name(new) {
        return Err(format!("`{new}` cannot name a rig: use letters, digits, `-` and `_`"));
    }
    Ok((old.to_owned(), new.to_owned()))
}

/// Checks the logbook at `path`, of which a copy goes into the private folder `folder`, and joins it into `logbook`; with
/// `preview` nothing is recorded. `shown` names it.
pub fn join(
    args: &JoinArgs,
    (path, shown): (&Path, &str),
    folder: &Path,
    logbook: &mut Logbook,
    preview: bool,
    ctx: &Ctx,
) -> Result<Merged, CmdError> {
    let visitor = Visitor::check(path, &folder.join("copy.db"))?;
    let mut calls = Vec::new();
    let two_machines = visitor.two_machines(logbook)?;
    for two in two_machines.iter().filter(|two| !args.same.contains(&two.rig)) {
        let (rig, (recorded, machine)) = (&two.rig, &two.theirs);
        let Some((_, name)) = args.call.iter().find(|(old, _)| old == rig) else {
            return Err(CmdError::request(
                format!("rig {rig} is one machine here and another in {shown}"),
                format!(
                    "nothing was recorded; say which it is: `--call {rig}={rig}-b` names the other \
                     machine, `--same {rig}` says that it is ours, set up anew"
                ),
            ));
        };
        calls.push(((recorded.as_str(), machine.as_str()), name));
    }
    if preview {
        return Ok(logbook.preview(&visitor)?);
    }
    // What is refused is refused before anything is written.
    logbook.agrees_with(&visitor)?;
    for (machine, name) in calls {
        logbook.call_machine(machine, name, &ctx.now(), &ctx.mark()?)?;
    }
    Ok(logbook.take_in(&visitor)?)
}

/// Asks, once, whose the keys are that came with sessions and that the study does not list; the answer is written into it.
pub fn new_keys(
    keys: &BTreeMap<String, Vec<SessionName>>,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<(), CmdError> {
    for (key, sessions) in keys.iter().filter(|(key, _)| open.study.rig_of_key(key).is_none()) {
        let rigs: BTreeSet<&str> = sessions.iter().map(|name| name.rig.as_str()).collect();
        let names = rigs.iter().copied().collect::<Vec<_>>().join(", ");
        let what = format!(
            "sessions of {names} are signed with a key that the study does not list: {key}"
        );
        ctx.ui.say_labelled("note", Role::Open, &what);
        let asked = match rigs.iter().next() {
            // A key that signed for several rigs is the key of whoever wrote them down.
            Some(rig) if rigs.len() == 1 => {
                let question = format!("does `lap rig` on {rig} show this key?");
                let said = ctx.ui.agreed(&question).map_err(|err| CmdError::output(&err))?;
                said.map(|yes| (yes, *rig))
            }
            _ => None,
        };
        match asked {
            Some((true, rig)) => {
                list_key(rig, key, open)?;
                ctx.ui.say(Role::Plain, &format!("{STUDY_FILE} lists it as a key of {rig}"));
            }
            Some((false, _)) => ctx.ui.say(Role::Plain, "it stays unknown, and lap verify says so"),
            None => {
                let help =
                    "if `lap rig` shows it on that machine, add `key = \"…\"` to its [rig.NAME]";
                ctx.ui.say_labelled("help", Role::Heading, help);
            }
        }
    }
    Ok(())
}

/// Adds a key to those of a rig in the study, which stays as it was written.
fn list_key(rig: &str, key: &str, open: &OpenStudy) -> Result<(), CmdError> {
    let path = open.folder.join(STUDY_FILE);
    // What was added for the key before this one is there too.
    let text = std::fs::read_to_string(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    let with = with_rig_key(&text, rig, key).filter(|with| honest_lap_study::read(with).is_ok());
    let with = with.ok_or_else(|| {
        CmdError::request(
            format!("{STUDY_FILE} has no place for the key; it was not added"),
            format!("add `key = \"{key}\"` to [rig.{rig}]"),
        )
    })?;
    write_whole(&open.folder, &path, with.as_bytes())
}

/// Returns what joining came to.
pub fn merged_words(merged: &Merged) -> String {
    if *merged == Merged::default() {
        return "nothing new".to_owned();
    }
    let laps =
        format!("{} in {}", count(merged.laps, "new lap"), count(merged.sessions, "new session"));
    match merged.remarks {
        0 => laps,
        n => format!("{laps}, {}", count(n, "new remark")),
    }
}
