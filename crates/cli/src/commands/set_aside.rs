//! `lap set-aside`: leaves laps out of sums from now on, with a reason; or takes them back.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_core::record::{LapHead, LapName, Remark, RemarkKind, Subject};
use honest_lap_view::table::Role;

/// Leave laps out of sums from now on, with a reason; they stay on record and are shown
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap set-aside heron-3.7 --why \"the window was covered\"\n  \
                        lap set-aside wren-1.4 wren-1.5 --why \"an update ran\"\n  \
                        lap set-aside heron-3.7 --take-back --why \"it was another window\"")]
pub struct SetAsideArgs {
    /// The laps, such as heron-3.7
    #[arg(required = true, value_name = "LAP")]
    laps: Vec<String>,
    /// The reason, which is shown wherever the laps would have counted
    #[arg(long, value_name = "TEXT")]
    why: String,
    /// Take them back into sums instead
    #[arg(long)]
    take_back: bool,
}

pub fn run(args: &SetAsideArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.why.trim().is_empty() {
        return Err(CmdError::request("a lap is set aside for a reason", "say it: --why \"…\""));
    }
    let open = read_study(cli, ctx)?;
    let mut logbook = open.logbook_to_add_to(ctx)?;
    let laps = logbook.laps()?;
    // Every name is checked before any of them is written.
    let mut names = Vec::new();
    for text in &args.laps {
        names.push(checked(text, args.take_back, &laps)?);
    }
    let kind = if args.take_back { RemarkKind::TakenBack } else { RemarkKind::SetAside };
    for name in names {
        let done = if args.take_back { "counts again" } else { "is set aside" };
        let line = format!("{name} {done}: {}", args.why);
        let (subject, made, text) = (Subject::Lap(name), ctx.now(), args.why.clone());
        logbook.append_remark(&Remark { kind, subject, made, text }, &ctx.mark()?)?;
        ctx.ui.say(Role::Plain, &line);
    }
    Ok(Exit::Done)
}

/// Returns the lap that `text` names, if it can be set aside or taken back.
fn checked(text: &str, take_back: bool, laps: &[LapHead]) -> Result<LapName, CmdError> {
    let help = "`lap show` lists every session, `lap show heron-3` the laps of one";
    let lap = LapName::parse(text).and_then(|name| laps.iter().find(|lap| lap.name == name));
    let Some(lap) = lap else {
        return Err(CmdError::request(format!("there is no lap called `{text}`"), help));
    };
    match (&lap.set_aside, take_back) {
        (Some(why), false) => Err(CmdError::request(
            format!("{text} is set aside already: {why}"),
            "take it back first with --take-back, to give another reason",
        )),
        (None, true) => Err(CmdError::request(format!("{text} is not set aside"), help)),
        _ => Ok(lap.name.clone()),
    }
}
