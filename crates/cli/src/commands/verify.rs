//! `lap verify`: proves that nothing recorded has changed.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheets;
use crate::study_file::read_study;
use honest_lap_logbook::Logbook;

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
    let faults = logbook.faults()?;
    let sessions = logbook.verify()?;
    let remarks = logbook.verify_remarks()?;
    ctx.ui.print(&sheets::verify(&sessions, &remarks, &faults), args.output.format)?;
    let whole = faults.is_empty()
        && remarks.broken.is_none()
        && sessions.iter().all(|session| session.broken.is_none());
    Ok(if whole { Exit::Done } else { Exit::No })
}
