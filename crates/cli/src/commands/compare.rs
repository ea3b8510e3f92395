//! `lap compare`: who is ahead, by how much, how surely.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lab::{Asked, Judged, Lab, check_names, weighing};
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::judge::{
    Ask, Assumptions, BEFORE, Direction, Overall, Table, Weighing, overall, two_way,
};
use honest_lap_core::record::TaskForm;
use honest_lap_core::record::{SessionName, Settings, Study, Workload};
use honest_lap_core::unit::parse_share;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use std::collections::BTreeSet;

/// Show who is ahead, by how much, how surely
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap compare                        every workload\n  lap compare dome-still             one of them\n  \
                        lap compare --baseline wren        everything held against wren\n  lap compare --across variants      settings against each other, rig by rig\n  \
                        lap compare --across threads       what a setting gains on each rig, and how efficiently\n  \
                        lap compare --rig heron --rig wren --with threads=2    some of it\n  \
                        lap compare --before heron-1,heron-2 --after heron-3    a change, and what else changed\n  \
                        lap compare --overall              all workloads weighed into one figure\n  lap compare --format markdown      for a forum or a pull request"
)]
pub struct CompareArgs {
    /// Workloads to compare; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    workloads: Vec<String>,
    /// Hold rigs against each other, variants on each rig, or the values of a setting on all rigs
    /// [default: rigs and variants]
    #[arg(long, value_name = "rigs|variants|SETTING", value_parser = across)]
    across: Option<Across>,
    /// Sessions of one rig before a change, such as heron-1,heron-2
    #[arg(long, value_name = "SESSIONS", value_delimiter = ',', value_parser = session, requires = "after", conflicts_with_all = ["rigs", "baseline", "overall"])]
    before: Vec<SessionName>,
    /// Sessions of the same rig after it; whatever else differs is listed
    #[arg(long, value_name = "SESSIONS", value_delimiter = ',', value_parser = session, requires = "before")]
    after: Vec<SessionName>,
    /// Only these rigs
    #[arg(long = "rig", value_name = "RIG")]
    rigs: Vec<String>,
    /// Only variants with this setting, such as threads=2
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    with: Vec<(String, String)>,
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG")]
    baseline: Option<String>,
    /// How close counts as the same, such as 1% [default: the study's]
    #[arg(long, value_name = "SHARE", value_parser = margin)]
    margin: Option<f64>,
    /// Show this measure only, such as time or a score's name [default: all]
    #[arg(long, value_name = "MEASURE")]
    measure: Vec<String>,
    /// Compare what is not comparable anyway; the reason is carried into the output
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    /// Weigh the workloads into one figure for each rig, by the weights of the study
    #[arg(long, conflicts_with_all = ["across", "measure"])]
    overall: bool,
    #[command(flatten)]
    output: OutputArgs,
}

/// What is held against each other.
#[derive(Clone, Debug)]
pub enum Across {
    /// Rigs, variant by variant
    Rigs,
    /// Variants, rig by rig
    Variants,
    /// The values of a setting, on every rig
    Setting(String),
}

pub fn across(text: &str) -> Result<Across, String> {
    Ok(match text {
        "" => return Err("name what is compared: rigs, variants, or a setting".to_owned()),
        "rig" | "rigs" => Across::Rigs,
        "variant" | "variants" => Across::Variants,
        setting => Across::Setting(setting.to_owned()),
    })
}

pub fn session(text: &str) -> Result<SessionName, String> {
    SessionName::parse(text).ok_or_else(|| format!("`{text}` is not the name of a session"))
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
    let open = read_study(cli, ctx)?;
    let sheet = match &args.across {
        _ if args.overall => indexes(args, &open, ctx)?,
        Some(Across::Setting(setting)) => crossed(setting, args, &open, ctx)?,
        _ => comparison(args, &open, ctx)?,
    };
    ctx.ui.print(&sheet, args.output.format)?;
    Ok(Exit::Done)
}

impl CompareArgs {
    /// Returns the arguments that compare these workloads and rigs, all if there are none, or a change.
    pub fn of(
        workloads: Vec<String>,
        rigs: Vec<String>,
        (before, after): (Vec<SessionName>, Vec<SessionName>),
    ) -> Self {
        Self { workloads, rigs, before, after, ..Self::plain() }
    }

    /// Returns the arguments for a part of what they ask for.
    pub fn part(
        self,
        measure: &[String],
        with: &[(String, String)],
        across: Option<Across>,
    ) -> Self {
        Self { measure: measure.to_vec(), with: with.to_vec(), across, ..self }
    }

    /// Returns the arguments of a bare `lap compare`.
    pub fn plain() -> Self {
        let output = OutputArgs { format: crate::args::FormatArg::Text };
        let (workloads, measure) = (Vec::new(), Vec::new());
        let (across, baseline, margin, overall, despite) = (None, None, None, false, None);
        let (rigs, with, before, after) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        Self {
            before,
            after,
            rigs,
            with,
            despite,
            workloads,
            across,
            baseline,
            margin,
            measure,
            overall,
            output,
        }
    }
}

/// Returns the sheet of what `args` ask of the study's logbook.
pub fn comparison(
    args: &CompareArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<honest_lap_draw::Sheet, CmdError> {
    let logbook = Logbook::open(&open.logbook())?;
    let (lab, asked) = lab(args, open, &logbook, ctx)?;
    let mut judged = lab.judged(&asked, &open.study);
    if !args.workloads.is_empty() {
        judged.views.retain(|view| args.workloads.contains(&view.workload));
    }
    let works = works(&judged.ask, &lab.tasks);
    let remarks = logbook.remarks()?;
    let shown = sheet::Shown {
        views: &judged.views,
        laps: &judged.laps,
        doubts: &judged.doubts,
        remarks: &remarks,
        ask: &judged.ask,
        despite: args.despite.as_deref(),
    };
    let mut sheet = sheet::compare(&open.study, &shown, &works);
    if !args.before.is_empty() {
        sheet.lead.push(changed(&lab));
    }
    Ok(sheet)
}

/// Returns the lab, with all that `args` ask about in it.
pub fn lab(
    args: &CompareArgs,
    open: &OpenStudy,
    logbook: &Logbook,
    ctx: &Ctx,
) -> Result<(Lab, Asked), CmdError> {
    let directions = match &args.across {
        Some(Across::Rigs) => Some(Direction::Rigs),
        Some(Across::Variants) => Some(Direction::Variants),
        Some(Across::Setting(_)) | None => None,
    };
    let asked = Asked {
        workloads: args.workloads.clone(),
        baseline: args.baseline.clone(),
        margin: args.margin,
        measures: args.measure.clone(),
        despite: args.despite.clone(),
        rigs: args.rigs.clone(),
        with: Settings::new(args.with.clone()),
        directions: directions.into_iter().collect(),
    };
    let mut lab = Lab::read(&open.study, logbook, ctx)?;
    check_names(&asked, &lab)?;
    lab.add_energy(&asked.measures);
    if args.before.is_empty() {
        return Ok((lab, asked));
    }
    check_sides(args, &lab)?;
    let asked = Asked { baseline: Some(BEFORE.to_owned()), ..asked };
    Ok((lab.before_and_after(&args.before, &args.after, &open.study), asked))
}

/// Says which of the sessions before and after a change cannot be held against each other.
fn check_sides(args: &CompareArgs, lab: &Lab) -> Result<(), CmdError> {
    let all = || args.before.iter().chain(&args.after);
    if let Some(unknown) = all().find(|name| !lab.has(name)) {
        return Err(CmdError::request(
            format!("no session {unknown} is in the logbook"),
            "lap show lists them",
        ));
    }
    let rigs: BTreeSet<&str> = all().map(|name| name.rig.as_str()).collect();
    let twice = args.before.iter().any(|name| args.after.contains(name));
    match (rigs.len(), twice) {
        (1, false) => Ok(()),
        (1, true) => Err(CmdError::request(
            "a session is on both sides of the change",
            "name each once: --before heron-1 --after heron-2",
        )),
        _ => Err(CmdError::request(
            "before and after a change means sessions of one rig",
            "rigs are held against each other without it: lap compare --across rigs",
        )),
    }
}

/// Returns what a comparison before and after a change says of the change.
pub fn changed(lab: &Lab) -> String {
    match lab.changes().as_slice() {
        [] => "Nothing that is on record changed between before and after.".to_owned(),
        [one] => format!("Between before and after changed: {one}."),
        several => format!(
            "Doubt, two things changed: {}. The difference cannot be put down to one of them.",
            several.join("; ")
        ),
    }
}

/// Returns the sheet of what a setting gains on each rig.
fn crossed(
    setting: &str,
    args: &CompareArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<honest_lap_draw::Sheet, CmdError> {
    let logbook = Logbook::open(&open.logbook())?;
    let (lab, asked) = lab(args, open, &logbook, ctx)?;
    let all = gains(setting, &args.workloads, &lab, &asked, open)?;
    let sheet = sheet::two_way(&open.study, setting, &all);
    Ok(sheet::carrying(sheet, args.despite.as_deref()))
}

/// Returns what `setting` gains on every rig, workload by workload; there is something, or it says why not.
pub fn gains(
    setting: &str,
    workloads: &[String],
    lab: &Lab,
    asked: &Asked,
    open: &OpenStudy,
) -> Result<Vec<sheet::Crossed>, CmdError> {
    let ask = lab.ask(asked, &open.study);
    let tables = lab.tables(&ask);
    let assume = Assumptions::of(ask.margin);
    let wanted = |table: &&Table<'_>| {
        workloads.is_empty() || workloads.iter().any(|name| name == table.workload)
    };
    let mut all = Vec::new();
    for table in asked.shown(tables.clone()).iter().filter(wanted) {
        for found in two_way(table, setting, &ask, &assume) {
            let (workload, measure) = (table.workload.to_owned(), table.measure.clone());
            all.push(sheet::Crossed { workload, measure, found });
        }
    }
    if all.is_empty() {
        let known: BTreeSet<&str> =
            lab.laps.iter().flat_map(|lap| lap.settings.iter().map(|(key, _)| key)).collect();
        let known: Vec<&str> = known.into_iter().collect();
        return Err(CmdError::request(
            format!("no two variants with laps differ in a setting `{setting}`"),
            match known.is_empty() {
                true => {
                    "no workload with laps varies a setting: vary = { threads = [1, 2] }".to_owned()
                }
                false => format!("settings that vary: {}", known.join(", ")),
            },
        ));
    }
    Ok(all)
}

/// Returns the sheet of the study's workloads weighed: all of them, and by group.
fn indexes(
    args: &CompareArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<honest_lap_draw::Sheet, CmdError> {
    let logbook = Logbook::open(&open.logbook())?;
    let (lab, asked) = lab(args, open, &logbook, ctx)?;
    let judged = lab.judged(&asked, &open.study);
    let all = weighed(&args.workloads, &open.study, &judged);
    let study = Study { margin: judged.ask.margin, ..open.study.clone() };
    let sheet = sheet::overall(&study, &all, &judged.views);
    Ok(sheet::carrying(sheet, args.despite.as_deref()))
}

/// Returns the indexes over the workloads of `names`, all if there are none: over everything, and by group.
pub fn weighed(names: &[String], study: &Study, judged: &Judged) -> Vec<sheet::Index> {
    // What the study no longer has weighs nothing.
    let named = |workload: &&Workload| names.is_empty() || names.contains(&workload.name);
    let workloads: Vec<&Workload> = study.workloads.iter().filter(named).collect();
    let index = |over: String, wanted: &dyn Fn(&Workload) -> bool| {
        let only: BTreeSet<String> =
            workloads.iter().filter(|w| wanted(w)).map(|w| w.name.clone()).collect();
        let weighing = Weighing { only, ..weighing(study, &judged.ask, judged.assume) };
        // Of nothing there is no index: an empty list would mean all.
        let found = match weighing.only.is_empty() {
            true => Overall::default(),
            false => overall(&judged.views, &weighing),
        };
        sheet::Index { over, found }
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
    all
}

/// Returns how much work a lap of each compared workload does, where that is known.
pub fn works(ask: &Ask, tasks: &[TaskForm]) -> sheet::Works {
    let of = |(workload, id): (&String, &u32)| {
        let form = tasks.iter().find(|form| form.id == *id)?;
        Some((workload.clone(), form.task.work.clone()?))
    };
    ask.tasks.iter().filter_map(of).collect()
}
