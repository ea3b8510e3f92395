//! The command line, as a whole.

use crate::args::Cli;
use crate::commands::Command;
use crate::error::CmdError;
use clap::{CommandFactory, FromArgMatches, Parser};
use std::ffi::OsString;
use std::path::PathBuf;

/// Time real work on real machines, and report only what the data supports
#[derive(Parser, Debug)]
#[command(
    name = "lap",
    version,
    propagate_version = false,
    subcommand_required = true,
    arg_required_else_help = true,
    disable_help_subcommand = true,
    max_term_width = 100,
    after_help = "Start here:\n  lap demo           a whole example, from laps to a comparison\n  \
                  lap init           a study of your own, ready to run\n  \
                  lap help games     a page of the guide; `lap help` lists them\n\n\
                  Exit status: 0 done; 1 done, and the answer is no; 2 the request or the study is wrong;\n\
                  3 the measurement failed; 70 a fault in the tool itself"
)]
struct Common {
    /// The study's folder [default: the nearest one upward that holds study.toml]
    #[arg(long, global = true, value_name = "DIR")]
    study: Option<PathBuf>,
}

/// Returns the whole command line's definition.
fn definition() -> clap::Command {
    Command::define(Common::command(), &|_| true)
}

/// Returns the command line as given, or the message that clap has for it.
pub fn parse() -> Result<(Cli, Command), CmdError> {
    let args: Vec<OsString> = std::env::args_os().collect();
    let read = || {
        let matches = definition_for(&args).try_get_matches_from(&args)?;
        let Common { study } = Common::from_arg_matches(&matches)?;
        Ok((Cli { study, definition }, Command::of(&matches)?))
    };
    read().map_err(CmdError::Usage)
}

/// Returns as much of the definition as these arguments need: what they name, or all of it for help.
fn definition_for(args: &[OsString]) -> clap::Command {
    let has = |word: &str| args.iter().skip(1).any(|arg| arg == word);
    let all = args.len() < 2 || ["-h", "--help", "help"].into_iter().any(has);
    Command::define(Common::command(), &|name| all || has(name))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn spelled_out(args: &[&str]) -> Vec<String> {
        let args: Vec<OsString> = args.iter().map(OsString::from).collect();
        let definition = definition_for(&args);
        let whole = definition.get_subcommands().filter(|command| command.get_about().is_some());
        whole.map(|command| command.get_name().to_owned()).collect()
    }

    #[test]
    fn only_what_is_named_is_spelled_out_and_help_has_all() {
        assert_eq!(spelled_out(&["lap", "--study", "dome", "compare", "wren"]), ["compare"]);
        assert_eq!(spelled_out(&["lap", "--version"]), [""; 0]);
        for args in [&["lap"][..], &["lap", "--help"], &["lap", "help", "run"], &["lap", "-h"]] {
            assert!(spelled_out(args).len() > 20, "{args:?}");
        }
        // A word of a command may be another's name: both are spelled out, and nothing is misread.
        assert_eq!(spelled_out(&["lap", "compare", "show"]), ["show", "compare"]);
    }

    #[test]
    fn the_definition_holds_together() {
        definition().debug_assert();
    }
}
