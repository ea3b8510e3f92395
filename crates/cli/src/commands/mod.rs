//! One file a command: its arguments and what it does, thin.

mod attend;
mod claim;
mod clock;
mod compare;
mod completions;
mod demo;
mod doubts;
mod enter;
mod export;
mod frames;
mod help;
mod import;
mod init;
mod man;
mod mark;
mod merge;
mod note;
mod plot;
mod read_workbook;
mod report;
mod rig;
mod run;
mod set_aside;
mod show;
mod stand_in;
mod store;
mod sync;
mod trim;
pub mod value;
mod verify;

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use clap::{ArgMatches, Args, FromArgMatches};

/// Declares the commands: how each is called, and what holds its arguments.
macro_rules! commands {
    ($($name:literal $command:ident($args:path) $(, $hidden:ident)?;)*) => {
        /// A command with its arguments.
        #[derive(Debug)]
        pub enum Command {
            $($command($args),)*
        }

        impl Command {
            /// Returns `lap` with its commands; only those that are `asked` for are spelled out.
            ///
            /// Every start pays for what is spelled out, and uses one command of two dozen.
            pub fn define(lap: clap::Command, asked: &dyn Fn(&str) -> bool) -> clap::Command {
                lap$(.subcommand({
                    let named = clap::Command::new($name)$(.$hidden(true))?;
                    if asked($name) { <$args>::augment_args(named) } else { named }
                }))*
            }

            /// Returns the command that `matches` names.
            pub fn of(matches: &ArgMatches) -> Result<Self, clap::Error> {
                match matches.subcommand() {
                    $(Some(($name, matches)) => <$args>::from_arg_matches(matches).map(Self::$command),)*
                    _ => Err(clap::Error::new(clap::error::ErrorKind::MissingSubcommand)),
                }
            }
        }
    };
}

// In the order in which people meet them.
commands! {
    "demo" Demo(demo::DemoArgs);
    "init" Init(init::InitArgs);
    "rig" Rig(rig::RigArgs);
    "run" Run(run::RunArgs);
    "enter" Enter(enter::EnterArgs);
    "clock" Clock(clock::ClockArgs);
    "mark" Mark(mark::MarkArgs);
    "import" Import(import::ImportArgs);
    "frames" Frames(frames::FramesArgs);
    "trim" Trim(trim::TrimArgs);
    "export" Export(export::ExportArgs);
    "show" Show(show::ShowArgs);
    "compare" Compare(compare::CompareArgs);
    "plot" Plot(plot::PlotArgs);
    "report" Report(report::ReportArgs);
    "doubts" Doubts(doubts::DoubtsArgs);
    "claim" Claim(claim::ClaimArgs);
    "value" Value(value::ValueArgs);
    "set-aside" SetAside(set_aside::SetAsideArgs);
    "note" Note(note::NoteArgs);
    "verify" Verify(verify::VerifyArgs);
    "merge" Merge(merge::MergeArgs);
    "sync" Sync(sync::SyncArgs);
    "store" Store(store::StoreCommandArgs);
    "help" Help(help::HelpArgs);
    "completions" Completions(completions::CompletionsArgs);
    "man" Man(man::ManArgs);
    "attend" Attend(attend::AttendArgs), hide;
    "read-workbook" ReadWorkbook(read_workbook::ReadWorkbookArgs), hide;
    "stand-in" StandIn(stand_in::StandInArgs), hide;
}

/// Does what the command line asks.
pub fn dispatch(command: &Command, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    match command {
        Command::Demo(args) => demo::run(args, ctx),
        Command::Init(args) => init::run(args, ctx),
        Command::Rig(args) => rig::run(args, cli, ctx),
        Command::Run(args) => run::run(args, cli, ctx),
        Command::Enter(args) => enter::run(args, cli, ctx),
        Command::Clock(args) => clock::run(args, cli, ctx),
        Command::Mark(args) => mark::run(args, cli, ctx),
        Command::Import(args) => import::run(args, cli, ctx),
        Command::Frames(args) => frames::run(args, cli, ctx),
        Command::Trim(args) => trim::run(args, cli, ctx),
        Command::Export(args) => export::run(args, cli, ctx),
        Command::Show(args) => show::run(args, cli, ctx),
        Command::Compare(args) => compare::run(args, cli, ctx),
        Command::Plot(args) => plot::run(args, cli, ctx),
        Command::Report(args) => report::run(args, cli, ctx),
        Command::Doubts(args) => doubts::run(args, cli, ctx),
        Command::Value(args) => value::run(args, cli, ctx),
        Command::Claim(args) => claim::run(args, cli, ctx),
        Command::SetAside(args) => set_aside::run(args, cli, ctx),
        Command::Note(args) => note::run(args, cli, ctx),
        Command::Verify(args) => verify::run(args, cli, ctx),
        Command::Merge(args) => merge::run(args, cli, ctx),
        Command::Sync(args) => sync::run(args, cli, ctx),
        Command::Store(args) => store::run(args, cli, ctx),
        Command::Help(args) => help::run(args, cli, ctx),
        Command::Completions(args) => completions::run(args, cli, ctx),
        Command::Man(args) => man::run(args, cli, ctx),
        Command::Attend(args) => attend::run(args, ctx),
        Command::ReadWorkbook(args) => read_workbook::run(args, ctx),
        Command::StandIn(args) => stand_in::run(args, ctx),
    }
}
