//! `lap demo`: the planetarium's study, a recorded lab, and real laps on this machine.

mod recorded;
mod year;

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{LOGBOOK_FILE, OpenStudy, STUDY_FILE};
use crate::whole_file::write_new;
use honest_lap_logbook::Logbook;
use honest_lap_stand_ins::machine::Night;
use honest_lap_stand_ins::pale_harbour;
use honest_lap_view::table::Role;
use recorded::{record, remark};
use std::path::{Path, PathBuf};

/// Make a whole example and run it: from laps to a comparison, in under a minute
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap demo                     in the folder pale-harbour\n  lap demo /tmp/dome           in another\n  \
                        lap demo --recorded-only     without running laps on this machine\n  \
                        lap demo lab --store postgresql://keeper@host/demo   a made-up year of twelve rigs, in a lab's store"
)]
pub struct DemoArgs {
    /// The folder to make
    #[arg(default_value = "pale-harbour", value_name = "DIR")]
    dir: PathBuf,
    /// Only write the study and its recorded laps; run nothing
    #[arg(long)]
    recorded_only: bool,
    /// Fill this lab's store with a made-up year of twelve rigs, and show what it comes to; no server is started
    #[arg(long, value_name = "ADDRESS", conflicts_with = "recorded_only")]
    store: Option<String>,
}

const STUDY: &str = include_str!("../../../templates/pale-harbour.toml");
/// The workloads that this machine runs.
const RUN_HERE: [&str; 5] =
    ["dome-still", "catalogue-build", "fly-through", "orbit-solve", "sky-layers"];
/// Counted laps on this machine: enough for a verdict, few enough for half a minute.
const LAPS_HERE: u32 = 4;

pub fn run(args: &DemoArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    if let Some(store) = &args.store {
        return year::run(&args.dir, store, ctx);
    }
    let open = begin(&args.dir, STUDY, ctx)?;
    let mut logbook = Logbook::create_or_open(&open.folder.join(LOGBOOK_FILE))?;
    for session in pale_harbour::sessions() {
        record(&open, &mut logbook, &session)?;
    }
    remark(&mut logbook)?;
    drop(logbook);
    let dir = args.dir.display();
    ctx.ui.say(Role::Heading, &format!("{dir}: recorded laps of four made-up rigs"));
    if !args.recorded_only {
        ctx.ui.say(Role::Plain, "and laps on this machine, as rig `here`: about a minute");
        let laps = super::run::RunArgs::as_rig("here", &RUN_HERE, LAPS_HERE);
        // Who ends the first with Ctrl-C does not want another.
        if super::run::run_in(&laps, &open, false, ctx)? == Exit::Done {
            night(&open, ctx)?;
        }
    }
    ctx.ui.say(Role::Plain, "");
    ctx.ui.print(&super::compare::everything(&open, ctx)?, crate::args::FormatArg::Text)?;
    ctx.ui.say(Role::Plain, "");
    let page = super::report::ReportArgs::to(args.dir.join("report.html"));
    super::report::write(&page, &open, ctx)?;
    let next = "lap compare dome-still --with threads=1   one table\n\
                lap doubts                                what may mislead, and what would resolve it\n\
                lap claim                                 which published sentences the laps support";
    ctx.ui.say(Role::Heading, &format!("To try next: cd {dir}"));
    next.lines().for_each(|line| ctx.ui.say(Role::Plain, &format!("  {line}")));
    Ok(Exit::Done)
}

/// Makes the folder, with `text` as its study.
fn begin(dir: &Path, text: &str, ctx: &Ctx) -> Result<OpenStudy, CmdError> {
    let folder =
        std::path::absolute(ctx.folder.join(dir)).map_err(|err| CmdError::io("find", dir, &err))?;
    let taken = folder.read_dir().is_ok_and(|mut entries| entries.next().is_some());
    if taken || folder.is_file() {
        return Err(CmdError::request(
            format!("{} is there already, and stays as it is", dir.display()),
            "name another folder: lap demo DIR",
        ));
    }
    std::fs::create_dir_all(&folder).map_err(|err| CmdError::io("create", &folder, &err))?;
    let path = folder.join(STUDY_FILE);
    write_new(&path, text.as_bytes()).map_err(|err| CmdError::io("write", &path, &err))?;
    let study =
        honest_lap_study::read(text).expect("the demo's own study is sound; a test reads it");
    Ok(OpenStudy { folder, study })
}

/// Runs a night of two hours in eight seconds: this machine, with simulated sensors.
fn night(open: &OpenStudy, ctx: &Ctx) -> Result<(), CmdError> {
    let line = "and two simulated hours in eight seconds";
    ctx.ui.say(Role::Plain, line);
    let root = open.folder.join(".lap/night");
    let failed = |err: std::io::Error| CmdError::io("write", &root, &err);
    let _night = Night::begin(&root).map_err(failed)?;
    let laps = super::run::RunArgs::as_rig("here", &["night-shift"], 1)
        .on(root.clone(), "sensors and clock simulated, fifteen minutes a second");
    super::run::run_in(&laps, open, false, ctx)?;
    Ok(())
}
