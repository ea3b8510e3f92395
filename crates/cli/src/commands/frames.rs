//! `lap frames`: passes, with every measure of theirs.

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::lab::{Lap, conditions_of, limit};
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet::{self, FramedWorkload, ShownPass};
use std::collections::HashMap;

/// Show the passes of frames: rates, lows, hitches, budgets, and a strip of each
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap frames                 every workload of frames\n  \
                        lap frames fly-through     one of them\n  \
                        lap frames wren            the passes of one rig\n  \
                        lap frames --format csv    every figure, for a spreadsheet")]
pub struct FramesArgs {
    /// Workloads, rigs or sessions; everything if left out
    #[arg(value_name = "NAME")]
    names: Vec<String>,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &FramesArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let workloads = framed(&args.names, &open, &logbook)?;
    let title = open.study.title.as_deref();
    let sheet = match args.output.format {
        FormatArg::Text | FormatArg::Markdown => sheet::frames_listed(title, &workloads),
        // A program reads rows of one shape.
        FormatArg::Json | FormatArg::Csv => sheet::frames(title, &workloads),
    };
    ctx.ui.print(&sheet, args.output.format)?;
    Ok(Exit::Done)
}

/// Returns the passes that `names` name, by workload, in the study's order.
pub fn framed(
    names: &[String],
    open: &OpenStudy,
    logbook: &Logbook,
) -> Result<Vec<FramedWorkload>, CmdError> {
    let mut laps = logbook.known_laps()?;
    laps.told_by(&open.study);
    let mut passes = laps.in_order();
    passes.retain(|lap| lap.alike.frames().is_some());
    let is = |lap: &Lap<'_>, name: &String| {
        let (session, own) = (lap.session().to_string(), lap.name().to_string());
        [lap.workload(), lap.rig(), &session, &own].contains(&name.as_str())
    };
    if let Some(unknown) = names.iter().find(|name| !passes.iter().any(|lap| is(lap, name))) {
        return Err(CmdError::request(
            format!("no pass is of a workload, rig or session called `{unknown}`"),
            "`lap frames` lists every pass; `lap import FILE… --rig NAME` takes more in",
        ));
    }
    let records = logbook.records()?;
    let threads: HashMap<_, _> =
        records.iter().map(|session| (&session.name, session.found.threads)).collect();
    let mut all: Vec<FramedWorkload> = Vec::new();
    for lap in passes {
        if !names.is_empty() && !names.iter().any(|name| is(&lap, name)) {
            continue;
        }
        let (facts, digest) = (lap.facts(), lap.alike.frames().cloned());
        let (Some(digest), Some(recorded)) = (digest, logbook.pass(&lap.name())?) else { continue };
        let threads = threads.get(lap.session()).copied().flatten();
        let lasted = facts.lasted(lap.wall);
        let pass = ShownPass {
            lap: lap.name(),
            settings: lap.settings().clone(),
            set_aside: lap.set_aside.is_some(),
            warm_up: lap.warm_up,
            digest,
            recorded,
            conditions: lasted.map(|wall| conditions_of(&facts, wall, threads)).unwrap_or_default(),
            limited: lasted.and_then(|wall| Some((wall, limit(&facts, Some(wall), threads)?))),
        };
        match all.iter_mut().find(|workload| workload.name == lap.workload()) {
            Some(workload) => workload.passes.push(pass),
            None => all.push(FramedWorkload {
                name: lap.workload().to_owned(),
                about: open.study.workload(lap.workload()).and_then(|w| w.about.clone()),
                passes: vec![pass],
            }),
        }
    }
    let place = |name: &str| open.study.workloads.iter().position(|w| w.name == name);
    all.sort_by_key(|workload| place(&workload.name).unwrap_or(usize::MAX));
    Ok(all)
}
