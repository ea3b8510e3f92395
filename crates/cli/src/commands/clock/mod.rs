//! `lap clock`: laps that only a person can time, try or read, written down as they are done.

mod screen;
mod search;
mod value;
mod watch;

use crate::args::Cli;
use crate::by_hand::{known_rig, variant};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::stop_signals::stop_on_signals;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::record::KindName;
use honest_lap_logbook::Logbook;
use honest_lap_measure::Keys;
use screen::Screen;

/// Time laps with a keyboard stopwatch, try loads, or type in values, for work that only a person can judge
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap clock window-export --rig heron\n  lap clock window-export --rig heron --with encoder=hardware --by Ada\n  \
                        lap clock layers --rig heron       a load that is searched for by hand\n  \
                        lap clock suite --rig heron        a score that is read off a screen\n\n\
                        Of a time: blank or Enter starts and stops a lap, s ends a part of it, f ends it\n\
                        as failed, v makes the lap under way (or the last one) void, q ends. Of a load\n\
                        the tool names one, and you say what came of it: h held, s strained, b broke.\n\
                        Of values you type them, and Enter; f is a try that failed.\n\
                        Each lap is on record as soon as it is done."
)]
pub struct ClockArgs {
    /// The workload
    #[arg(value_name = "WORKLOAD")]
    workload: String,
    /// The rig it is done on
    #[arg(long, value_name = "NAME")]
    rig: Option<String>,
    /// The rig is a new one, which neither the study nor the logbook knows
    #[arg(long, requires = "rig")]
    new_rig: bool,
    /// A setting of the variant
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = super::enter::setting)]
    variant: Vec<(String, String)>,
    /// Who holds the stopwatch
    #[arg(long, value_name = "NAME")]
    by: Option<String>,
}

pub fn run(args: &ClockArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let workload = open.study.workload(&args.workload).ok_or_else(|| {
        let names: Vec<&str> = open.study.workloads.iter().map(|w| w.name.as_str()).collect();
        CmdError::request(
            format!("the study has no workload `{}`", args.workload),
            format!("it has: {}", names.join(", ")),
        )
    })?;
    let settings = variant(workload, &args.variant)?;
    let rig = rig(args, &open)?;
    let stop = stop_on_signals()?;
    let keys = Keys::take().map_err(|err| CmdError::io("read", "the terminal".as_ref(), &err))?;
    let Some(keys) = keys else {
        return Err(CmdError::request(
            "this needs a terminal, and standard input is none",
            "type them in instead: lap enter",
        ));
    };
    let mut logbook = open.logbook_to_write(ctx)?;
    let mut screen = Screen::new((workload, &settings), &rig, args.by.clone(), ctx);
    screen.welcome();
    match workload.task.kind.name() {
        KindName::Capacity => {
            search::run(&mut screen, (&keys, &stop), &open, &mut logbook)?;
        }
        KindName::Score => value::run(&mut screen, (&keys, &stop), &open, &mut logbook)?,
        _ => watch::run(&mut screen, (&keys, &stop), &mut logbook)?,
    }
    screen.end(&mut logbook)?;
    Ok(Exit::Done)
}

fn rig(args: &ClockArgs, open: &OpenStudy) -> Result<String, CmdError> {
    let logbook = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let Some(rig) = &args.rig else {
        return Err(CmdError::request(
            "which rig is the work done on? A stopwatch cannot know",
            "say it: --rig NAME",
        ));
    };
    known_rig(rig, args.new_rig, &open.study, logbook.as_ref())?;
    Ok(rig.clone())
}
