//! `lap compare`: rigs compared, with confidence intervals.

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::change::ChangeArgs;
use crate::choice::ChoiceArgs;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::analysis::{Across, Analysis, Question, analyse};
use honest_lap_core::record::{Settings, Study};
use honest_lap_core::unit::parse_share;
use honest_lap_view::sheet;
use honest_lap_view::table::Sheet;

/// Show rigs compared, with confidence intervals
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap compare                        all workloads on one screen\n  lap compare dome-still             one workload: a table for each variant\n  \
                        lap compare dome-still --with threads=2    one table\n  lap compare dome-still --explain   how its figures are made, and every doubt in full\n  \
                        lap compare --baseline wren        everything against wren\n  lap compare --across variants      settings against each other, rig by rig\n  \
                        lap compare --across threads       what a setting gains on each rig, and how efficiently\n  \
                        lap compare --near wren            of many rigs, those ranked beside wren\n  \
                        lap compare --before heron-1,heron-2 --after heron-3    a change, and what else changed\n  \
                        lap compare --rig heron --before 2026-03-14 --after 2026-03-14    what came before a day, and what after\n  \
                        lap compare dome-still --columns use,clock,watts    what the machine did meanwhile\n  lap compare --session heron-2,wren-1    only laps of these sessions\n  lap compare --group games --variant fast,best    only these workloads and variants\n  lap compare --overall              all workloads weighed into one figure\n  lap compare --format markdown      for a forum or a pull request"
)]
pub struct CompareArgs {
    /// Workloads to compare; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// Hold rigs against each other, variants on each rig, or the values of a setting on all rigs
    /// [default: rigs and variants]
    #[arg(long, value_name = "rigs|variants|SETTING", value_parser = across)]
    across: Option<Across>,
    #[command(flatten)]
    change: ChangeArgs,
    /// Only these rigs
    #[arg(long = "rig", value_name = "RIG")]
    rigs: Vec<String>,
    /// Only variants with this setting, such as threads=2
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    with: Vec<(String, String)>,
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG", conflicts_with = "before")]
    baseline: Option<String>,
    /// How close counts as the same, such as 1% [default: the study's]
    #[arg(long, value_name = "SHARE", value_parser = margin)]
    margin: Option<f64>,
    /// Show this measure only, such as time or a score's name [default: all]
    #[arg(long, value_name = "MEASURE")]
    measure: Vec<String>,
    /// Show these measures beside it, such as use,clock,watts: the mean of the laps
    #[arg(long, value_name = "MEASURE,…", value_delimiter = ',', conflicts_with = "overall")]
    columns: Vec<String>,
    /// Compare what is not comparable anyway; the reason is carried into the output
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    /// Print every table, even where the overview would be shown
    #[arg(long, conflicts_with = "overall")]
    tables: bool,
    /// Of many rigs, print only the rows around this one
    #[arg(long, value_name = "RIG", conflicts_with_all = ["overall", "explain"])]
    near: Option<String>,
    /// Print every doubt in full, and how the figures are made
    #[arg(long, conflicts_with = "overall")]
    explain: bool,
    /// Weigh the workloads into one figure for each rig, by the weights of the study
    #[arg(long, conflicts_with_all = ["across", "measure", "before"])]
    overall: bool,
    #[command(flatten)]
    choice: ChoiceArgs,
    #[command(flatten)]
    source: SourceArgs,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn across(text: &str) -> Result<Across, String> {
    Ok(match text {
        "" => return Err("name what is compared: rigs, variants, or a setting".to_owned()),
        "rig" | "rigs" => Across::Rigs,
        "variant" | "variants" => Across::Variants,
        setting => Across::Setting(setting.to_owned()),
    })
}

pub fn setting(text: &str) -> Result<(String, String), String> {
    let pair = text.split_once('=').filter(|(key, value)| !key.is_empty() && !value.is_empty());
    let pair = pair.map(|(key, value)| (key.to_owned(), value.to_owned()));
    pair.ok_or_else(|| "write it as SETTING=VALUE, such as threads=2".to_owned())
}

/// Returns the margin that `text` states.
pub fn margin(text: &str) -> Result<f64, String> {
    match parse_share(text) {
        Ok(share) if share > 0.0 && share < 1.0 => Ok(share),
        Ok(_) => Err("a margin lies above 0 % and below 100 %".to_owned()),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

pub fn run(args: &CompareArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    if let (Some(Across::Setting(setting)), [column, ..]) = (&args.across, args.columns.as_slice())
    {
        return Err(CmdError::request(
            format!("--columns {column}: a gain of `{setting}` has no measures beside it"),
            "leave --across out, or ask for one: lap compare --across variants",
        ));
    }
    let open = read_study(cli, ctx)?;
    let study = &open.study;
    let (lab, logbook) = args.source.lab(&open, study, ctx)?;
    let lab = lab.chosen(&args.choice.choice())?;
    let (lab, changed) = args.change.of(lab, &args.rigs)?;
    let analysis = analyse(&lab, &args.question(changed.is_some()))?;
    args.near_is_known(&analysis)?;
    let remarks = logbook.remarks()?;
    let reads = args.source.reads(study);
    let shown = sheet::Shown { analysis: &analysis, remarks: &remarks, reads: &reads };
    let sheet = || match &args.across {
        _ if args.overall => {
            let study = Study { margin: analysis.assume.margin, ..study.clone() };
            let sheet = sheet::overall(&study, &analysis.indexes, &analysis.views);
            sheet::carrying(sheet, &analysis)
        }
        Some(Across::Setting(setting)) => {
            sheet::carrying(sheet::two_way(study, setting, &analysis.gains), &analysis)
        }
        _ => args.sheet(study, &shown, ctx),
    };
    ctx.ui.print_answer(&analysis, args.output.format, sheet)?;
    Ok(Exit::Done)
}

/// Returns the overview of everything in the study's logbook.
pub fn everything(open: &OpenStudy, ctx: &Ctx) -> Result<Sheet, CmdError> {
    everything_of(&SourceArgs::default(), open, ctx)
}

/// Returns the overview of everything that `source` has.
pub fn everything_of(source: &SourceArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Sheet, CmdError> {
    let (lab, logbook) = source.lab(open, &open.study, ctx)?;
    let remarks = logbook.remarks()?;
    let analysis = analyse(&lab, &Question::default())?;
    let shown =
        sheet::Shown { analysis: &analysis, remarks: &remarks, reads: &source.reads(&open.study) };
    Ok(sheet::overview(&open.study, &shown, ctx.ui.width()))
}

impl CompareArgs {
    /// Returns one table, or several; the overview where there are several and nobody asked for each.
    fn sheet(&self, study: &Study, shown: &sheet::Shown<'_>, ctx: &Ctx) -> Sheet {
        let tables = shown.analysis.views.iter().map(|view| view.groups.len()).sum::<usize>();
        let columns = !self.columns.is_empty();
        let each = self.tables || self.explain || self.near.is_some() || columns;
        // A program reads rows, and wants all of them.
        if tables > 1 && !each && self.output.format != FormatArg::Csv {
            return sheet::overview(study, shown, ctx.ui.width());
        }
        let all = self.explain || self.output.format == FormatArg::Csv;
        let detail = match all {
            true => sheet::Detail::Full,
            false => sheet::Detail::Short { near: self.near.as_deref() },
        };
        sheet::compare(study, shown, detail)
    }

    /// Refuses a rig to look around that no table has.
    fn near_is_known(&self, analysis: &Analysis<'_>) -> Result<(), CmdError> {
        let rows =
            || analysis.views.iter().flat_map(|view| &view.groups).flat_map(|group| &group.rows);
        match &self.near {
            Some(rig) if !rows().any(|row| row.rig == *rig) => {
                let mut known: Vec<&str> = rows().map(|row| row.rig.as_str()).collect();
                known.sort_unstable();
                known.dedup();
                Err(CmdError::request(
                    format!("--near: no rig is called `{rig}`"),
                    format!("rigs with laps: {}", known.join(", ")),
                ))
            }
            _ => Ok(()),
        }
    }

    /// Returns the question; the sides of a change are two rigs by themselves.
    fn question(&self, of_change: bool) -> Question {
        Question {
            workloads: self.workloads.clone(),
            measures: self.measure.clone(),
            columns: self.columns.clone(),
            rigs: if of_change { Vec::new() } else { self.rigs.clone() },
            with: Settings::new(self.with.clone()),
            across: self.across.clone().unwrap_or_default(),
            baseline: self.baseline.clone(),
            margin: self.margin,
            despite: self.despite.clone(),
            ..Question::default()
        }
    }
}
