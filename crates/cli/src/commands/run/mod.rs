//! `lap run`: runs laps, writing each down before the next begins.

mod args;
mod choice;
mod here;
mod remote;
mod result;
mod resume;
mod retest;
mod session;

pub use args::RunArgs;
pub use here::run_in;
pub use remote::collect;

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;

pub fn run(args: &RunArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    match remote::meant(args, &open, ctx)? {
        Some(rigs) => remote::run(args, &rigs, &open, ctx),
        // Whoever ordered it from another machine prints the result.
        None => run_in(args, &open, args.sent.is_none(), ctx),
    }
}
