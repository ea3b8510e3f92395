//! `lap completions`: what a shell needs to complete our command line.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use clap_complete::Shell;

/// Print completions for a shell
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Example:\n  lap completions bash > ~/.local/share/bash-completion/completions/lap"
)]
pub struct CompletionsArgs {
    /// The shell
    shell: Shell,
}

pub fn run(args: &CompletionsArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut (cli.definition)(), "lap", &mut script);
    ctx.ui.print_raw(&script)?;
    Ok(Exit::Done)
}
