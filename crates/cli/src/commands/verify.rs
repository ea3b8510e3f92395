//! `lap verify`: proves that nothing recorded has changed.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_draw::Role;
use honest_lap_logbook::{Logbook, LogbookError, SealedSession};
use honest_lap_view::sheet;
use honest_lap_view::sheet::{CheckedLogbook, CheckedSession};

/// Prove that nothing recorded has changed
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap verify                    check every record of the logbook\n  \
                        lap verify --noted 3f9c…      and that nothing was taken off since that seal was noted\n  \
                        lap verify --format json      for programs; exit status 1 if anything was changed"
)]
pub struct VerifyArgs {
    /// A seal that was noted before: a session's is found for good, by 16 digits or more; the whole logbook's until more
    /// is recorded
    #[arg(long, value_name = "SEAL")]
    noted: Option<String>,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &VerifyArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = match Logbook::open(&open.logbook()) {
        // Somebody has been at it: that is an answer, and not a failure to find one.
        Err(err @ LogbookError::Foreign { .. }) => {
            ctx.ui.say_labelled("changed", Role::Failed, &err.to_string());
            let help = "restore the file from a copy; nothing was read from this one";
            ctx.ui.say_labelled("help", Role::Heading, help);
            return Ok(Exit::No);
        }
        opened => opened?,
    };
    let (sessions, remarks) = (logbook.verify()?, logbook.verify_remarks()?);
    let seal = Logbook::seal(&sessions, &remarks);
    let noted = match &args.noted {
        Some(noted) if *noted != seal => Some(logbook.has_seal(noted)?),
        Some(_) => Some(true),
        None => None,
    };
    let checked = CheckedLogbook {
        seal,
        noted,
        strays: logbook.strays()?,
        sessions: sessions.into_iter().map(checked).collect(),
        remarks: remarks.seals.len(),
        broken_remark: remarks.broken,
        faults: logbook.faults()?,
    };
    ctx.ui.print(&sheet::verify(&checked), args.output.format)?;
    let whole = checked.faults.is_empty()
        && checked.strays.is_empty()
        && checked.noted != Some(false)
        && checked.broken_remark.is_none()
        && checked.sessions.iter().all(|session| session.broken.is_none());
    Ok(if whole { Exit::Done } else { Exit::No })
}

fn checked(session: SealedSession) -> CheckedSession {
    let SealedSession { name, laps, seal, broken } = session;
    CheckedSession { name, laps, seal, broken: broken.map(|broken| broken.to_string()) }
}
