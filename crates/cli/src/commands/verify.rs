//! `lap verify`: proves that nothing recorded has changed.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_logbook::{Logbook, SealedSession};
use honest_lap_view::sheet;
use honest_lap_view::sheet::{CheckedLogbook, CheckedSession};

/// Prove that nothing recorded has changed
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap verify                    check every record of the logbook\n  \
                        lap verify --format json      for programs; exit status 1 if a seal is broken"
)]
pub struct VerifyArgs {
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &VerifyArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let (sessions, remarks) = (logbook.verify()?, logbook.verify_remarks()?);
    let checked = CheckedLogbook {
        seal: Logbook::seal(&sessions, &remarks),
        sessions: sessions.into_iter().map(checked).collect(),
        remarks: remarks.seals.len(),
        broken_remark: remarks.broken,
        faults: logbook.faults()?,
    };
    ctx.ui.print(&sheet::verify(&checked), args.output.format)?;
    let whole = checked.faults.is_empty()
        && checked.broken_remark.is_none()
        && checked.sessions.iter().all(|session| session.broken.is_none());
    Ok(if whole { Exit::Done } else { Exit::No })
}

fn checked(session: SealedSession) -> CheckedSession {
    let SealedSession { name, laps, seal, broken } = session;
    CheckedSession { name, laps, seal, broken: broken.map(|broken| broken.to_string()) }
}
