//! The command line, as a whole.

use crate::commands::Command;
use crate::error::CmdError;
use clap::{CommandFactory, FromArgMatches, Parser, ValueEnum};
use std::path::PathBuf;

/// Time real work on real machines, and say only what the laps support
#[derive(Parser, Debug)]
#[command(
    name = "lap",
    version,
    propagate_version = false,
    max_term_width = 100,
    after_help = "Start here:\n  lap demo           a whole example, from laps to a comparison\n  \
                  lap init           a study of your own, ready to run\n\n\
                  Exit status: 0 done; 1 done, and the answer is no; 2 the request or the study is wrong;\n\
                  3 the measurement failed; 70 a fault in the tool itself"
)]
pub struct Cli {
    /// The study's folder [default: the nearest one upward that holds study.toml]
    #[arg(long, global = true, value_name = "DIR")]
    pub study: Option<PathBuf>,
    #[command(subcommand)]
    pub command: Command,
}

/// How results are printed.
#[derive(clap::Args, Debug, Clone, Copy)]
pub struct OutputArgs {
    /// The form of the result
    #[arg(long, value_enum, default_value_t = FormatArg::Text, value_name = "FORM")]
    pub format: FormatArg,
}

/// A form of results.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum FormatArg {
    /// For a person at a terminal
    Text,
    /// For programs, every digit kept
    Json,
    /// For spreadsheets, every digit kept
    Csv,
    /// For a forum or a pull request
    Markdown,
}

/// Returns the whole command line's definition: help, completions and man page come from it.
pub fn definition() -> clap::Command {
    Cli::command()
}

/// Returns the command line as given, or the message that clap has for it.
pub fn parse() -> Result<Cli, CmdError> {
    definition()
        .try_get_matches()
        .and_then(|matches| Cli::from_arg_matches(&matches))
        .map_err(CmdError::Usage)
}
