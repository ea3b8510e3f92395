//! One file a command: its arguments and what it does, thin.

mod claim;
mod clock;
mod compare;
mod completions;
mod demo;
mod doubts;
mod enter;
mod export;
mod frames;
mod import;
mod init;
mod man;
mod mark;
mod merge;
mod note;
mod plot;
mod report;
mod rig;
mod run;
mod set_aside;
mod show;
mod stand_in;
mod trim;
pub mod value;
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
    Rig(rig::RigArgs),
    Run(run::RunArgs),
    Enter(enter::EnterArgs),
    Clock(clock::ClockArgs),
    Mark(mark::MarkArgs),
    Import(import::ImportArgs),
    Frames(frames::FramesArgs),
    Trim(trim::TrimArgs),
    Export(export::ExportArgs),
    Show(show::ShowArgs),
    Compare(compare::CompareArgs),
    Plot(plot::PlotArgs),
    Report(report::ReportArgs),
    Doubts(doubts::DoubtsArgs),
    Claim(claim::ClaimArgs),
    Value(value::ValueArgs),
    SetAside(set_aside::SetAsideArgs),
    Note(note::NoteArgs),
    Verify(verify::VerifyArgs),
    Merge(merge::MergeArgs),
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
        Command::Completions(args) => completions::run(args, ctx),
        Command::Man(args) => man::run(args, ctx),
        Command::StandIn(args) => stand_in::run(args, ctx),
    }
}
