//! `lap run`: runs laps, writing each down before the next begins.

mod args;
mod choice;
mod elsewhere;
mod here;
mod result;
mod resume;
mod retest;
mod session;

pub use args::RunArgs;
pub use elsewhere::collect;
pub use here::run_in;

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;

pub fn run(args: &RunArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    match elsewhere::meant(args, &open, ctx)? {
        Some(rigs) => elsewhere::run(args, &rigs, &open, ctx),
        // Whoever ordered it from elsewhere prints the result.
        None => run_in(args, &open, args.sent.is_none(), ctx),
    }
}
