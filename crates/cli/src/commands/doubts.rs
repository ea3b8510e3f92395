//! `lap doubts`: everything that may mislead, and what would settle it.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lab::{Asked, Lab, check_names};
use crate::study_file::read_study;
use honest_lap_core::finding::by_sway;
use honest_lap_core::judge::WorkloadView;
use honest_lap_core::plan::retests;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;

/// List everything that may mislead, the laps it concerns, and what would settle it
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap doubts                    about every workload, what could change most first\n  \
                        lap doubts dome-still         about one of them\n  \
                        lap doubts --retest           the laps that would settle them, and how long they take\n  \
                        lap doubts --format json      for programs; exit status 1 if there are any"
)]
pub struct DoubtsArgs {
    /// Workloads to look at; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// Print the laps that would settle them; `lap run --retest` drives those of its rig
    #[arg(long)]
    retest: bool,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &DoubtsArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let asked = Asked { workloads: args.workloads.clone(), ..Asked::default() };
    let lab = Lab::read(&open.study, &logbook, ctx)?;
    check_names(&asked, &lab)?;
    let mut found = lab.judged(&asked, &open.study);
    if !args.workloads.is_empty() {
        found.doubts.retain(|doubt| args.workloads.contains(&doubt.workload));
    }
    if args.retest {
        let named = |view: &WorkloadView| {
            args.workloads.is_empty() || args.workloads.contains(&view.workload)
        };
        found.views.retain(named);
        let retests = retests(&open.study, &found.doubts, &found.views, &found.laps);
        ctx.ui.print(&sheet::retests(&retests), args.output.format)?;
        return Ok(if retests.is_empty() { Exit::Done } else { Exit::No });
    }
    let laps = found.laps.len();
    let sorted = by_sway(found.doubts, &found.laps, &found.views, &found.ask, &found.assume);
    ctx.ui.print(&sheet::doubts(&sorted, laps), args.output.format)?;
    Ok(if sorted.is_empty() { Exit::Done } else { Exit::No })
}
