//! `lap doubts`: everything that may mislead, and what would resolve it.

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::choice::ChoiceArgs;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::study_file::read_study;
use honest_lap_core::analysis::{Analysis, Question, analyse};
use honest_lap_core::plan::retests;
use honest_lap_view::sheet;

/// List everything that may mislead, the laps it concerns, and what would resolve it
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap doubts                    about every workload, what could change most first\n  \
                        lap doubts dome-still         about one of them\n  lap doubts --explain          each with its laps and the evidence\n  \
                        lap doubts --retest           the laps that would resolve them, and how long they take\n  \
                        lap doubts --format json      for programs; exit status 1 if there are any"
)]
pub struct DoubtsArgs {
    /// Workloads to look at; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// Print the laps that would resolve them; `lap run --retest` runs those of its rig
    #[arg(long)]
    retest: bool,
    /// Print each doubt by itself, with its laps and the evidence
    #[arg(long, conflicts_with = "retest")]
    explain: bool,
    #[command(flatten)]
    choice: ChoiceArgs,
    #[command(flatten)]
    source: SourceArgs,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &DoubtsArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let (lab, _) = args.source.lab(&open, &open.study, ctx)?;
    let lab = lab.chosen(&args.choice.choice())?;
    let question = Question { workloads: args.workloads.clone(), ..Question::default() };
    let analysis = analyse(&lab, &question)?;
    let Analysis { findings, views, series, .. } = &analysis;
    let laps = analysis.laps();
    if args.retest {
        let retests = retests(&open.study, findings, views, series);
        ctx.ui.print(&sheet::retests(&retests), args.output.format)?;
        return Ok(if retests.is_empty() { Exit::Done } else { Exit::No });
    }
    // A program reads rows, and wants each.
    let each = args.explain || args.output.format == FormatArg::Csv;
    let sheet = || {
        let sheet = match each {
            true => sheet::doubts(findings, laps),
            false => sheet::doubts_in_short(findings, laps, &args.source.reads(&open.study)),
        };
        sheet::carrying(sheet, &analysis)
    };
    ctx.ui.print_answer(&analysis, args.output.format, sheet)?;
    Ok(if findings.is_empty() { Exit::Done } else { Exit::No })
}
