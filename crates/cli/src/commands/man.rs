//! `lap man`: the manual page, from the same definitions as `--help`.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use clap_mangen::Man;

/// Print the manual page
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap man | man -l -\n  lap man run | man -l -")]
pub struct ManArgs {
    /// The command it is about, instead of all
    #[arg(value_name = "COMMAND")]
    about: Option<String>,
}

pub fn run(args: &ManArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut whole = (cli.definition)();
    whole.build();
    let page = match &args.about {
        None => whole,
        Some(name) => whole.find_subcommand(name).cloned().ok_or_else(|| {
            CmdError::request(
                format!("there is no command `{name}`"),
                "`lap --help` lists them all",
            )
        })?,
    };
    let mut text = Vec::new();
    Man::new(page).render(&mut text).map_err(|err| CmdError::output(&err))?;
    ctx.ui.print_raw(&text)?;
    Ok(Exit::Done)
}
