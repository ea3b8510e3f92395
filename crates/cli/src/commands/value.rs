//! `lap value`: work for money and energy; what an upgrade would pay.

use crate::args::{Cli, OutputArgs};
use crate::choice::ChoiceArgs;
use crate::commands::plot::{is_picture, look, write_figure};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::stamp::Stamp;
use crate::study_file::read_study;
use honest_lap_core::analysis::{Across, Question, Way, analyse};
use honest_lap_core::record::Study;
use honest_lap_core::unit::{Amount, parse_amount};
use honest_lap_view::chart;
use honest_lap_view::figure;
use honest_lap_view::sheet;
use std::path::PathBuf;

/// Weigh work against money, watts and joules, and say what an upgrade would pay
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap value                                 every rig with a price, over all workloads\n  \
                        lap value dome-still                      over one of them\n  \
                        lap value --from wren --to kestrel        what that upgrade pays\n  \
                        lap value --from wren --to kestrel --jobs 400 --hour-worth \"45 EUR\"\n  \
                        lap value --out worth.png                 work over price, drawn\n\n\
                        Prices, power and jobs are kept in study.toml: docs/formats/study.md"
)]
pub struct ValueArgs {
    /// Workloads to weigh; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG")]
    baseline: Option<String>,
    /// The rig that an upgrade starts from [default: the baseline]
    #[arg(long, value_name = "RIG")]
    from: Option<String>,
    /// The rig that it leads to [default: every other]
    #[arg(long, value_name = "RIG")]
    to: Option<String>,
    /// How often each weighed workload is done in a month [default: the study's]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..))]
    jobs: Option<u32>,
    /// What an hour of waiting is worth, such as "45 EUR" [default: the study's]
    #[arg(long, value_name = "MONEY", value_parser = money)]
    hour_worth: Option<Amount>,
    /// Compare what is not comparable anyway; the reason is carried into the output
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    /// Draw work over price into this .svg or .png file
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    /// Draw on a dark ground
    #[arg(long, requires = "out")]
    dark: bool,
    #[command(flatten)]
    choice: ChoiceArgs,
    #[command(flatten)]
    source: SourceArgs,
    #[command(flatten)]
    output: OutputArgs,
}

fn money(text: &str) -> Result<Amount, String> {
    parse_amount(text).map_err(|err| format!("{err}; {}", err.remedy))
}

pub fn run(args: &ValueArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let picture = args.out.as_deref().map(is_picture).transpose()?;
    let open = read_study(cli, ctx)?;
    let study = study(args, &open.study);
    let (lab, logbook) = args.source.lab(&open, &study, ctx)?;
    let lab = lab.chosen(&args.choice.choice())?;
    let question = Question {
        workloads: args.workloads.clone(),
        baseline: args.baseline.clone(),
        across: Across::Rigs,
        despite: args.despite.clone(),
        worth: Some(Way { from: args.from.clone(), to: args.to.clone() }),
        ..Question::default()
    };
    let analysis = analyse(&lab, &question)?;
    let worth = analysis.worth.as_ref().expect("it was asked for");
    if let (Some(path), Some(picture)) = (&args.out, picture) {
        let figure = figure::worth(&study, &worth.found, figure::Over::Price).ok_or_else(|| {
            CmdError::request(
                "there is nothing to draw: no two rigs have prices in one currency, and figures",
                "add price = \"1450 EUR\" to the rigs in study.toml",
            )
        })?;
        let drawing = chart::worth(&figure)
            .stamped(&Stamp::of(&logbook, ctx)?.line_about(&args.choice.choice()));
        write_figure(path, &drawing, (picture, look(args.dark)), ctx)?;
    }
    let asked_for = args.from.is_some() || args.to.is_some();
    let sheet = || {
        let sheet = sheet::value(&study, worth, asked_for, &analysis.findings);
        sheet::carrying(sheet, &analysis)
    };
    ctx.ui.print_answer(&analysis, args.output.format, sheet)?;
    Ok(Exit::Done)
}

/// Returns the study with what the command line says of jobs and hours.
fn study(args: &ValueArgs, study: &Study) -> Study {
    let mut study = study.clone();
    if args.hour_worth.is_some() {
        study.hour.clone_from(&args.hour_worth);
    }
    for workload in &mut study.workloads {
        let weighed = args.workloads.is_empty() || args.workloads.contains(&workload.name);
        if let Some(jobs) = args.jobs.filter(|_| weighed && !workload.task.kind.is_untimed()) {
            workload.jobs_a_month = Some(f64::from(jobs));
        }
        if !weighed {
            workload.jobs_a_month = None;
        }
    }
    study
}
