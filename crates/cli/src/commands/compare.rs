//! `lap compare`: who is ahead, by how much, how surely.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheets;
use crate::study_file::{OpenStudy, read_study};
use clap::ValueEnum;
use honest_lap_core::doubt::{Doubt, Evidence, doubts};
use honest_lap_core::judge::{
    Ask, Assumptions, Direction, Overall, SessionSpread, Weighing, WorkloadView, compare, overall,
};
use honest_lap_core::lap::LapHead;
use honest_lap_core::measure::TIME;
use honest_lap_core::study::Study;
use honest_lap_core::unit::parse_share;
use honest_lap_core::workload::Workload;
use honest_lap_logbook::{Logbook, TaskForm};
use std::collections::{BTreeMap, BTreeSet};

/// Show who is ahead, by how much, how surely
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap compare                        every workload\n  lap compare dome-still             one of them\n  \
                        lap compare --baseline wren        everything held against wren\n  lap compare --across variants      settings against each other, rig by rig\n  \
                        lap compare --overall              all workloads weighed into one figure\n  lap compare --format markdown      for a forum or a pull request"
)]
pub struct CompareArgs {
    /// Workloads to compare; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// Hold rigs against each other, or the variants on each rig [default: both]
    #[arg(long, value_enum, value_name = "WHAT")]
    across: Option<Across>,
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG")]
    baseline: Option<String>,
    /// How close counts as the same, such as 1% [default: the study's]
    #[arg(long, value_name = "SHARE", value_parser = margin)]
    margin: Option<f64>,
    /// Show this measure only, such as time or a score's name [default: all]
    #[arg(long, value_name = "MEASURE")]
    measure: Vec<String>,
    /// Weigh the workloads into one figure for each rig, by the weights of the study
    #[arg(long, conflicts_with_all = ["across", "measure"])]
    overall: bool,
    #[command(flatten)]
    output: OutputArgs,
}

/// What is held against each other.
#[derive(ValueEnum, Clone, Copy, Debug)]
enum Across {
    /// Rigs, variant by variant
    Rigs,
    /// Variants, rig by rig
    Variants,
}

fn margin(text: &str) -> Result<f64, String> {
    match parse_share(text) {
        Ok(share) if share > 0.0 && share < 1.0 => Ok(share),
        Ok(_) => Err("a margin lies above 0 % and below 100 %".to_owned()),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

pub fn run(args: &CompareArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let sheet = if args.overall { indexes(args, &open)? } else { comparison(args, &open)? };
    ctx.ui.print(&sheet, args.output.format)?;
    Ok(Exit::Done)
}

impl CompareArgs {
    /// Returns the arguments of a bare `lap compare`.
    pub fn plain() -> Self {
        Self::of(Vec::new())
    }

    /// Returns the arguments of `lap compare` with these workloads.
    pub fn of(workloads: Vec<String>) -> Self {
        let format = crate::args::FormatArg::Text;
        let measure = Vec::new();
        let output = OutputArgs { format };
        let (across, baseline, margin, overall) = (None, None, None, false);
        Self { workloads, across, baseline, margin, measure, overall, output }
    }
}

/// Returns the sheet of what `args` ask of the study's logbook.
pub fn comparison(
    args: &CompareArgs,
    open: &OpenStudy,
) -> Result<honest_lap_draw::Sheet, CmdError> {
    let logbook = Logbook::open(&open.logbook())?;
    let mut judged = judged(args, &open.study, &logbook)?;
    if !args.workloads.is_empty() {
        judged.views.retain(|view| args.workloads.contains(&view.workload));
    }
    let works = works(&judged.ask, &judged.tasks);
    let remarks = logbook.remarks()?;
    let shown = sheets::Shown {
        views: &judged.views,
        laps: &judged.laps,
        doubts: &judged.doubts,
        remarks: &remarks,
        spread: judged.spread,
        ask: &judged.ask,
    };
    Ok(sheets::compare(&open.study, &shown, &works))
}

/// Returns the sheet of the study's workloads weighed: all of them, and by group.
fn indexes(args: &CompareArgs, open: &OpenStudy) -> Result<honest_lap_draw::Sheet, CmdError> {
    let logbook = Logbook::open(&open.logbook())?;
    let judged = judged(args, &open.study, &logbook)?;
    let study = &open.study;
    // What the study no longer has weighs nothing.
    let named =
        |workload: &&Workload| args.workloads.is_empty() || args.workloads.contains(&workload.name);
    let workloads: Vec<&Workload> = study.workloads.iter().filter(named).collect();
    let margin = judged.ask.margin;
    let index = |over: String, wanted: &dyn Fn(&Workload) -> bool| {
        let only: BTreeSet<String> =
            workloads.iter().filter(|w| wanted(w)).map(|w| w.name.clone()).collect();
        let weighing = Weighing {
            weights: workloads.iter().map(|w| (w.name.clone(), w.weight)).collect(),
            rig_order: judged.ask.rig_order.clone(),
            assume: Assumptions { margin, session_spread: judged.spread },
            only,
        };
        // Of nothing there is no index: an empty list would mean all.
        let found = match weighing.only.is_empty() {
            true => Overall::default(),
            false => overall(&judged.views, &weighing),
        };
        sheets::Index { over, found }
    };
    let mut all = vec![index("everything".to_owned(), &|_| true)];
    let groups: BTreeSet<&String> = workloads.iter().filter_map(|w| w.group.as_ref()).collect();
    for group in groups {
        let of = |workload: &Workload| workload.group.as_ref() == Some(group);
        if workloads.iter().all(|workload| of(workload)) {
            continue;
        }
        all.push(index(format!("{group} only"), &of));
        all.push(index(format!("without {group}"), &|workload| !of(workload)));
    }
    let study = Study { margin, ..study.clone() };
    Ok(sheets::overall(&study, &all, judged.spread))
}

/// A logbook's laps, compared and doubted.
pub struct Judged {
    pub ask: Ask,
    pub tasks: Vec<TaskForm>,
    /// The laps of the compared forms.
    pub laps: Vec<LapHead>,
    pub views: Vec<WorkloadView>,
    pub doubts: Vec<Doubt>,
    pub spread: SessionSpread,
}

/// Returns everything in the logbook compared and doubted, as `args` ask.
pub fn judged(args: &CompareArgs, study: &Study, logbook: &Logbook) -> Result<Judged, CmdError> {
    let tasks = logbook.tasks()?;
    let mut laps = logbook.laps()?;
    check_names(args, &laps)?;
    let ask = ask(args, study, &tasks, logbook)?;
    // Everything is compared, whatever is shown: the spread between sessions is the study's own,
    // and a figure must not change with what is beside it on the page.
    let (views, spread) = compare(&laps, &ask);
    let (versions, facts) = (logbook.versions()?, logbook.facts()?);
    // Only laps of the compared form stand beside each other.
    laps.retain(|lap| ask.tasks.get(&lap.workload) == Some(&lap.task));
    let doubts = doubts(&Evidence {
        laps: &laps,
        facts: &facts,
        versions: &versions,
        views: &views,
        untimed: &ask.untimed,
    });
    Ok(Judged { ask, tasks, laps, views, doubts, spread })
}

fn check_names(args: &CompareArgs, laps: &[LapHead]) -> Result<(), CmdError> {
    let known = |of: fn(&LapHead) -> &str| laps.iter().map(of).collect::<BTreeSet<&str>>();
    let list = |names: BTreeSet<&str>| names.into_iter().collect::<Vec<_>>().join(", ");
    let workloads = known(|lap| &lap.workload);
    if let Some(unknown) = args.workloads.iter().find(|w| !workloads.contains(w.as_str())) {
        return Err(CmdError::request(
            format!("no laps of a workload `{unknown}` are in the logbook"),
            format!("it has laps of: {}", list(workloads)),
        ));
    }
    let read = laps.iter().flat_map(|lap| &lap.readings).map(|reading| reading.name.as_str());
    let measures: BTreeSet<&str> = read.chain([TIME]).collect();
    if let Some(unknown) = args.measure.iter().find(|m| !measures.contains(m.as_str())) {
        return Err(CmdError::request(
            format!("no lap in the logbook has a measure `{unknown}`"),
            format!("they have: {}", list(measures)),
        ));
    }
    let rigs = known(|lap| &lap.name.session.rig);
    match &args.baseline {
        Some(rig) if !rigs.contains(rig.as_str()) => Err(CmdError::request(
            format!("no laps of a rig `{rig}` are in the logbook"),
            format!("it has laps of: {}", list(rigs)),
        )),
        _ => Ok(()),
    }
}

fn ask(
    args: &CompareArgs,
    study: &Study,
    tasks: &[TaskForm],
    logbook: &Logbook,
) -> Result<Ask, CmdError> {
    let baseline = args.baseline.iter().chain(&study.baseline).cloned();
    let rigs = study.rigs.iter().map(|rig| rig.name.clone());
    let variants = study.workloads.iter().map(|w| (w.name.clone(), w.variants()));
    let directions = args.across.map(|across| match across {
        Across::Rigs => Direction::Rigs,
        Across::Variants => Direction::Variants,
    });
    let mut forms = last_driven(tasks);
    for workload in &study.workloads {
        // The study's present form, where it has been driven; its last one otherwise.
        if let Some(id) = logbook.task_number(&workload.name, &workload.task)?
            && tasks.iter().any(|form| form.id == id && form.last_driven.is_some())
        {
            forms.insert(workload.name.clone(), id);
        }
    }
    let form_of = |id: &u32| tasks.iter().find(|form| form.id == *id);
    let untimed =
        forms.iter().filter(|(_, id)| form_of(id).is_some_and(|form| form.task.kind.is_untimed()));
    Ok(Ask {
        untimed: untimed.map(|(name, _)| name.clone()).collect(),
        measures: args.measure.clone(),
        looked: logbook.looked()?,
        rig_order: baseline.chain(rigs).collect(),
        variant_order: variants.collect(),
        tasks: forms,
        directions: directions.into_iter().collect(),
        margin: args.margin.unwrap_or(study.margin),
    })
}

fn last_driven(tasks: &[TaskForm]) -> BTreeMap<String, u32> {
    let mut last: BTreeMap<String, (&Option<String>, u32)> = BTreeMap::new();
    for form in tasks.iter().filter(|form| form.last_driven.is_some()) {
        let this = (&form.last_driven, form.id);
        let known = last.entry(form.workload.clone()).or_insert(this);
        *known = this.max(*known);
    }
    last.into_iter().map(|(workload, (_, id))| (workload, id)).collect()
}

/// Returns how much work a lap of each compared workload does, where that is known.
fn works(ask: &Ask, tasks: &[TaskForm]) -> sheets::Works {
    let of = |(workload, id): (&String, &u32)| {
        let form = tasks.iter().find(|form| form.id == *id)?;
        Some((workload.clone(), form.task.work.clone()?))
    };
    ask.tasks.iter().filter_map(of).collect()
}
