//! `lap show`: sessions, the laps of one, or one lap in full.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_core::record::{LapHead, LapName, SessionName, Study};
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use honest_lap_view::table::Sheet;

/// Show sessions, the laps of one, or one lap in full
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap show               every session\n  lap show heron         the sessions of one rig\n  \
                        lap show heron-3       one session, lap by lap\n  lap show heron-3.7     one lap in full"
)]
pub struct ShowArgs {
    /// A rig (heron), a session (heron-3) or a lap (heron-3.7); every session if left out
    name: Option<String>,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &ShowArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let title = open.study.title.as_deref();
    let sheet = match args.name.as_deref() {
        None => sheet::sessions(title, &logbook.sessions()?, None),
        Some(name) => named(&logbook, &open.study, name)?,
    };
    ctx.ui.print(&sheet, args.output.format)?;
    Ok(Exit::Done)
}

/// Returns the sheet of what `name` names: a lap, a session, or a rig.
fn named(logbook: &Logbook, study: &Study, name: &str) -> Result<Sheet, CmdError> {
    if let Some(lap) = LapName::parse(name) {
        let mut page = logbook.lap(&lap)?;
        if let Some(page) = &mut page {
            page.body.pass = logbook.pass(&lap)?.map(Box::new);
            study.tell([page.head.variant()]);
        }
        let remarks = logbook.remarks()?;
        let records = logbook.records()?;
        let session = records.iter().find(|record| record.name == lap.session);
        let threads = session.and_then(|record| record.found.threads);
        return page
            .map(|page| sheet::lap(&page, threads, &remarks))
            .ok_or_else(|| unknown("lap", name));
    }
    let sessions = logbook.sessions()?;
    if let Some(session) = SessionName::parse(name)
        && let Some(page) = sessions.iter().find(|page| page.record.name == session)
    {
        let mut laps = logbook.laps_of(&session)?;
        study.tell(laps.iter_mut().map(LapHead::variant));
        return Ok(sheet::session(page, &laps, &logbook.remarks()?));
    }
    if sessions.iter().any(|page| page.record.name.rig == name) {
        return Ok(sheet::sessions(study.title.as_deref(), &sessions, Some(name)));
    }
    Err(unknown("rig, session or lap", name))
}

fn unknown(what: &str, name: &str) -> CmdError {
    CmdError::request(
        format!("there is no {what} called `{name}`"),
        "`lap show` lists every session; its laps are named heron-3.1, heron-3.2, …",
    )
}
