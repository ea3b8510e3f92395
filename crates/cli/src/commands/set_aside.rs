//! `lap set-aside`: leaves laps out of sums from now on, with a reason; or takes them back.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_core::record::{LapHead, LapName, Remark, RemarkKind, SessionName, Subject};
use honest_lap_view::table::Role;

/// Leave laps or whole sessions out of sums from now on, with a reason; they stay on record and are shown
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap set-aside heron-3.7 --why \"the window was covered\"\n  \
                        lap set-aside wren-1.4 wren-1.5 --why \"an update ran\"\n  \
                        lap set-aside wren-2 --workload dome-still --why \"the wrong scene\"\n  \
                        lap set-aside heron-3.7 --take-back --why \"it was another window\"")]
pub struct SetAsideArgs {
    /// Laps, such as heron-3.7, or sessions, such as heron-3: all laps of it
    #[arg(required = true, value_name = "LAP")]
    laps: Vec<String>,
    /// Only laps of this workload
    #[arg(long, value_name = "NAME")]
    workload: Option<String>,
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
        match SessionName::parse(text)
            .filter(|name| laps.iter().any(|lap| lap.name.session == *name))
        {
            Some(session) => names.extend(of_session(&session, args, &laps)?),
            None => names.push(checked(text, args, &laps)?),
        }
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

/// Returns the laps of a session that can be set aside or taken back.
fn of_session(
    session: &SessionName,
    args: &SetAsideArgs,
    laps: &[LapHead],
) -> Result<Vec<LapName>, CmdError> {
    let wanted = |lap: &&LapHead| {
        let workload = args.workload.as_ref().is_none_or(|name| lap.workload == *name);
        lap.name.session == *session && workload && lap.set_aside.is_some() == args.take_back
    };
    let names: Vec<LapName> = laps.iter().filter(wanted).map(|lap| lap.name.clone()).collect();
    match names.is_empty() {
        false => Ok(names),
        true => {
            let done = if args.take_back { "is set aside" } else { "is left that counts" };
            let of = args.workload.as_ref().map(|name| format!(" of {name}")).unwrap_or_default();
            Err(CmdError::request(
                format!("no lap{of} in {session} {done}"),
                format!("`lap show {session}` lists its laps"),
            ))
        }
    }
}

/// Returns the lap that `text` names, if it can be set aside or taken back.
fn checked(text: &str, args: &SetAsideArgs, laps: &[LapHead]) -> Result<LapName, CmdError> {
    let help = "`lap show` lists every session, `lap show heron-3` the laps of one";
    let lap = LapName::parse(text).and_then(|name| laps.iter().find(|lap| lap.name == name));
    let Some(lap) = lap else {
        return Err(CmdError::request(format!("there is no lap called `{text}`"), help));
    };
    if let Some(other) = args.workload.as_ref().filter(|name| **name != lap.workload) {
        return Err(CmdError::request(
            format!("{text} is of {}, not of {other}", lap.workload),
            help,
        ));
    }
    match (&lap.set_aside, args.take_back) {
        (Some(why), false) => Err(CmdError::request(
            format!("{text} is set aside already: {why}"),
            "take it back first with --take-back, to give another reason",
        )),
        (None, true) => Err(CmdError::request(format!("{text} is not set aside"), help)),
        _ => Ok(lap.name.clone()),
    }
}
