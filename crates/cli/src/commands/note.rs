//! `lap note`: a remark on a lap, a session, a rig or a workload.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::record::{LapName, Remark, RemarkKind, SessionName, Subject};
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use honest_lap_view::table::Role;

/// Add a remark to a lap, a session, a rig or a workload; or show the remarks
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap note heron-3 \"room at 27 degrees, window open\"\n  lap note heron-3.7 \"the fan was loud\"\n  \
                        lap note fly-through --felt \"stutters at every turn\"    printed beside the figures\n  lap note                                                every remark"
)]
pub struct NoteArgs {
    /// A lap (heron-3.7), a session (heron-3), a rig (heron) or a workload
    #[arg(value_name = "NAME")]
    name: Option<String>,
    /// The remark; without one, those that are there are shown
    #[arg(value_name = "TEXT")]
    text: Option<String>,
    /// It says how it felt, which no figure does: printed beside the figures
    #[arg(long, requires = "text")]
    felt: bool,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &NoteArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    // What is only shown is never written to.
    let mut logbook = match args.text {
        Some(_) => open.logbook_to_add_to(ctx)?,
        None => Logbook::open(&open.logbook())?,
    };
    let subject = match &args.name {
        Some(name) => Some(subject(name, &open, &logbook)?),
        None => None,
    };
    match (subject, &args.text) {
        (Some(subject), Some(text)) if !text.trim().is_empty() => {
            let kind = if args.felt { RemarkKind::Felt } else { RemarkKind::Note };
            let line = format!("noted on {subject}");
            let remark = Remark { kind, subject, made: ctx.now(), text: text.clone() };
            logbook.append_remark(&remark, &ctx.mark()?)?;
            ctx.ui.say(Role::Plain, &line);
        }
        (Some(_), Some(_)) => {
            return Err(CmdError::request("the remark is empty", "say something, in quotes"));
        }
        (subject, _) => {
            let mut remarks = logbook.remarks()?;
            remarks.retain(|remark| subject.as_ref().is_none_or(|s| remark.subject == *s));
            ctx.ui.print(&sheet::remarks(&remarks), args.output.format)?;
        }
    }
    Ok(Exit::Done)
}

/// Returns what `name` names.
fn subject(name: &str, open: &OpenStudy, logbook: &Logbook) -> Result<Subject, CmdError> {
    if let Some(lap) = LapName::parse(name)
        && logbook.lap(&lap)?.is_some()
    {
        return Ok(Subject::Lap(lap));
    }
    let sessions = logbook.sessions()?;
    if let Some(session) = SessionName::parse(name)
        && sessions.iter().any(|page| page.record.name == session)
    {
        return Ok(Subject::Session(session));
    }
    let rig = sessions.iter().any(|page| page.record.name.rig == name)
        || open.study.rigs.iter().any(|rig| rig.name == name);
    let workload = open.study.workload(name).is_some()
        || sessions.iter().any(|page| page.workloads.iter().any(|known| known == name));
    match (rig, workload) {
        (true, false) => Ok(Subject::Rig(name.to_owned())),
        (false, true) => Ok(Subject::Workload(name.to_owned())),
        (true, true) => Err(CmdError::request(
            format!("`{name}` is a rig and a workload"),
            "note it on a session or a lap instead, such as heron-3",
        )),
        (false, false) => Err(CmdError::request(
            format!("there is no lap, session, rig or workload called `{name}`"),
            "`lap show` lists every session; its laps are named heron-3.1, heron-3.2, …",
        )),
    }
}
