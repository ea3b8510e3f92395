//! One file a command: its arguments and what it does, thin.

mod compare;
mod completions;
mod demo;
mod init;
mod man;
mod run;
mod show;
mod stand_in;
mod verify;

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use clap::Subcommand;

/// The commands, in the order in which people meet them.
#[derive(Subcommand, Debug)]
pub enum Command {
    Demo(demo::DemoArgs),
    Init(init::InitArgs),
    Run(run::RunArgs),
    Show(show::ShowArgs),
    Compare(compare::CompareArgs),
    Verify(verify::VerifyArgs),
    Completions(completions::CompletionsArgs),
    Man(man::ManArgs),
    #[command(hide = true)]
    StandIn(stand_in::StandInArgs),
}

/// Does what the command line asks.
pub fn dispatch(cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    match &cli.command {
        Command::Demo(args) => demo::run(args, ctx),
        Command::Init(args) => init::run(args, ctx),
        Command::Run(args) => run::run(args, cli, ctx),
        Command::Show(args) => show::run(args, cli, ctx),
        Command::Compare(args) => compare::run(args, cli, ctx),
        Command::Verify(args) => verify::run(args, cli, ctx),
        Command::Completions(args) => completions::run(args, ctx),
        Command::Man(args) => man::run(args, ctx),
        Command::StandIn(args) => stand_in::run(args, ctx),
    }
}
