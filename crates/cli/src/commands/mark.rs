//! `lap mark`: marks begin and end of a pass, and places in it, while it is run.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lock::is_running;
use crate::study_file::read_study;
use honest_lap_core::frame::MarkKind;
use honest_lap_measure::{MarkError, Place, set_mark};
use honest_lap_view::table::Role;

/// Mark begin, end or a place of the pass that `lap run` is noting in another terminal
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap mark              the begin of the pass; the second time its end\n  \
                        lap mark begin        its begin, whatever was marked before\n  \
                        lap mark \"the rings\"  a place in it, at which lap trim can cut\n\n\
                        What lies outside of begin and end is kept and left out of the figures. A signal does\n\
                        what `lap mark` does, for a key of the desktop: pkill -USR1 -x lap"
)]
pub struct MarkArgs {
    /// `begin`, `end`, or the name of a place [default: the next of begin and end]
    #[arg(value_name = "NAME")]
    name: Option<String>,
}

pub fn run(args: &MarkArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let place = Place::new(&open.folder, &ctx.tool()?)?;
    let nothing = || {
        CmdError::request(
            MarkError::NothingUnderWay.to_string(),
            "start one in another terminal: lap run WORKLOAD, of kind frames with frames = \"presented\"",
        )
    };
    if !is_running(&place) {
        return Err(nothing());
    }
    let over = || {
        CmdError::request(
            "no pass is under way right now: the last one is over, or the next has not begun",
            "mark again when `lap run` shows the frames of a pass",
        )
    };
    let kind = set_mark(&place, args.name.as_deref()).map_err(|err| match err {
        MarkError::NothingUnderWay => over(),
        MarkError::Io { source } => CmdError::io("write", "the mark".as_ref(), &source),
        other => CmdError::request(other.to_string(), "give it a short name"),
    })?;
    let what = match &kind {
        MarkKind::Begin => "the begin of the pass".to_owned(),
        MarkKind::End => "the end of the pass".to_owned(),
        MarkKind::Named(name) => format!("`{name}`"),
    };
    ctx.ui.say(Role::Plain, &format!("marked: {what}"));
    Ok(Exit::Done)
}
