//! `lap plot`: figures as SVG or PNG.

use crate::args::Cli;
use crate::change::ChangeArgs;
use crate::choice::ChoiceArgs;
use crate::commands::compare::{across, setting};
use crate::commands::frames::framed;
use crate::ctx::Ctx;
use crate::endurance_runs::endurance_runs;
use crate::error::{CmdError, Exit};
use crate::lab::read_lab;
use crate::stamp::Stamp;
use crate::study_file::{OpenStudy, read_study};
use crate::whole_file::write_whole;
use honest_lap_core::analysis::{Across, Question, Way, analyse};
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::judge::HeldConstant;
use honest_lap_core::record::{LapHead, LapName, Settings, Study, TIME};
use honest_lap_draw::{Drawing, Look};
use honest_lap_logbook::Logbook;
use honest_lap_view::chart;
use honest_lap_view::figure::EnduranceRun;
use honest_lap_view::figure::{self, Over};
use honest_lap_view::overview::overview;
use honest_lap_view::page::conclusion;
use honest_lap_view::sheet::{Doubted, Shown, answer, heading, over_words};
use honest_lap_view::table::Role;
use honest_lap_view::words::finding::changes_words;
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

/// Pixels of a PNG to each unit of the figure.
const PNG_SCALE: f32 = 1.0;

/// How wide a figure is, in its own units.
const WIDTH: f64 = 1280.0;

/// Draw figures: sorted bars, laps as they were run, frame times, the index, a change
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap plot                                   bars of every workload, as SVG\n  \
                        lap plot catalogue-build --out build.png   those of one, as PNG\n  \
                        lap plot dome-still --with threads=2 --across rigs --out still.svg\n  \
                        lap plot dome-still --figure laps          every lap in order, and what the machine did\n  \
                        lap plot --figure overview                 all workloads and rigs in one grid\n  lap plot --figure overall --dark           the index with its parts, on a dark ground\n  \
                        lap plot --across threads                  what a setting gains on every rig\n  \
                        lap plot --figure sweep --across threads   the rate over a setting, and the paper peaks\n  \
                        lap plot sky-layers --figure loads         what holds at which load, and the edge\n  \
                        lap plot night-shift --figure rate         the rate over hours, and what the machine did\n  \
                        lap plot heron-1.3 --figure conditions     what the machine did over one lap\n  \
                        lap plot --figure worth --over power       work over power, the unbeaten rigs joined\n  \
                        lap plot --before heron-1 --after heron-2  what a change brought\n  \
                        lap plot fly-through --figure passes       frame times over the pass\n  \
                        lap plot heron kestrel --figure passes --out two.svg    two rigs side by side\n  \
                        lap plot fly-through --figure tail         how slow the slowest frames are"
)]
pub struct PlotArgs {
    /// Workloads and rigs; of passes also sessions and laps; of conditions laps. Everything if left out
    #[arg(value_name = "NAME")]
    names: Vec<String>,
    /// What is drawn [default: bars; of a change, change; across a setting, gain]
    #[arg(long, value_enum, value_name = "FIGURE")]
    figure: Option<Figure>,
    /// Bars of rigs, or of variants on each rig [default: both]; or what a setting gains on every rig
    #[arg(long, value_name = "rigs|variants|SETTING", value_parser = across)]
    across: Option<Across>,
    /// Only variants with this setting, such as threads=2
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    with: Vec<(String, String)>,
    /// Draw this measure only, such as time or a score's name [default: all that are compared]
    #[arg(long, value_name = "MEASURE")]
    measure: Vec<String>,
    #[command(flatten)]
    change: ChangeArgs,
    #[command(flatten)]
    choice: ChoiceArgs,
    /// What work is held against
    #[arg(long, value_enum, value_name = "WHAT", default_value_t = OverArg::Price)]
    over: OverArg,
    /// Draw on a dark ground
    #[arg(long)]
    dark: bool,
    /// The file to write, .svg or .png, where there is one figure [default: NAME-FIGURE.svg]
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
}

/// What work is held against.
#[derive(clap::ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub enum OverArg {
    /// What a rig costs
    Price,
    /// What it draws while it works, in the mean
    Power,
}

impl OverArg {
    fn over(self) -> Over {
        match self {
            Self::Price => Over::Price,
            Self::Power => Over::Power,
        }
    }
}

/// A figure.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum Figure {
    /// Sorted bars of rigs with their intervals, ties and doubts; variants rig by rig
    Bars,
    /// Laps in the order in which they were run, and what the machine did meanwhile
    Laps,
    /// All workloads and rigs in one grid
    Overview,
    /// The index of every rig, with what enters it
    Overall,
    /// Before and after a change
    Change,
    /// What a setting gains on every rig
    Gain,
    /// The rate over a numeric setting, and what rigs could do at most on paper
    Sweep,
    /// The share of laps that held at each load, and the edge
    Loads,
    /// The rate of endurance laps over their time, and what the machine did meanwhile
    Rate,
    /// One lap: every core, and what the machine's sensors told, over its time, with its parts and marks
    Conditions,
    /// Work over price or power, with the rigs not beaten on both
    Worth,
    /// Frame times over the pass, passes under one another, two rigs side by side
    Passes,
    /// Frame time over the share of frames that are slower
    Tail,
}

impl Figure {
    fn word(self) -> &'static str {
        match self {
            Self::Bars => "bars",
            Self::Laps => "laps",
            Self::Overview => "overview",
            Self::Overall => "overall",
            Self::Change => "change",
            Self::Gain => "gain",
            Self::Sweep => "sweep",
            Self::Loads => "loads",
            Self::Rate => "rate",
            Self::Conditions => "conditions",
            Self::Worth => "worth",
            Self::Passes => "passes",
            Self::Tail => "tail",
        }
    }
}

/// A figure with the name that its file goes by.
type Named = (String, Drawing);

pub fn run(args: &PlotArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let picture = match &args.out {
        Some(path) => is_picture(path)?,
        None => false,
    };
    let figure = match (args.figure, args.change.is_asked()) {
        (Some(Figure::Change) | None, true) => Figure::Change,
        (Some(Figure::Change), false) => {
            return Err(CmdError::request(
                "a change is drawn from the sessions before and after it",
                "name them: lap plot --before heron-1 --after heron-2",
            ));
        }
        (Some(_), true) => {
            return Err(CmdError::request(
                "sessions before and after a change make one figure",
                "leave --figure out, or name it: --figure change",
            ));
        }
        (figure, false) => match (figure, &args.across) {
            (Some(Figure::Gain) | None, Some(Across::Setting(_))) => Figure::Gain,
            (Some(Figure::Sweep), Some(Across::Setting(_))) => Figure::Sweep,
            (Some(Figure::Sweep), _) => {
                return Err(CmdError::request(
                    "a sweep is over a setting, and none is named",
                    "name it: lap plot --figure sweep --across threads",
                ));
            }
            (Some(Figure::Gain), _) => {
                return Err(CmdError::request(
                    "a gain is of a setting, and none is named",
                    "name it: lap plot --across threads",
                ));
            }
            (Some(figure), Some(Across::Setting(setting))) => {
                return Err(CmdError::request(
                    format!("{} are not drawn across the setting `{setting}`", figure.word()),
                    "leave --figure out, or name it: --figure gain",
                ));
            }
            (figure, _) => figure.unwrap_or(Figure::Bars),
        },
    };
    args.honoured_by(figure)?;
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let all: Vec<Named> = match figure {
        Figure::Passes | Figure::Tail => of_frames(figure, args, &open, &logbook)?,
        Figure::Conditions => of_single_laps(args, &open.study, &logbook)?,
        _ => of_laps(figure, args, &open, &logbook, ctx)?,
    };
    if let (Some(out), [first, _, ..]) = (&args.out, all.as_slice()) {
        let names: Vec<&str> = all.iter().map(|(name, _)| name.as_str()).collect();
        return Err(CmdError::request(
            format!("{} can hold one figure, and there are {}", out.display(), names.join(", ")),
            format!(
                "leave --out out, or ask for one: a workload, --with SETTING=VALUE, --measure, --across; \
                 the first is {}",
                first.0
            ),
        ));
    }
    let stamp = Stamp::of(&logbook, ctx)?.line_about(&args.choice.choice());
    let look = look(args.dark);
    let names = distinct(all.iter().map(|(name, _)| format!("{name}-{}", figure.word())));
    for (name, (_, drawing)) in names.into_iter().zip(all) {
        let path = args.out.clone().unwrap_or_else(|| PathBuf::from(format!("{name}.svg")));
        write_figure(&path, &drawing.stamped(&stamp), (picture, look), ctx)?;
    }
    Ok(Exit::Done)
}

/// Returns the look that is asked for.
pub fn look(dark: bool) -> Look {
    if dark { Look::Dark } else { Look::Light }
}

fn of_frames(
    figure: Figure,
    args: &PlotArgs,
    open: &OpenStudy,
    logbook: &Logbook,
) -> Result<Vec<Named>, CmdError> {
    let mut workloads = framed(&args.names, open, logbook)?;
    let with = Settings::new(args.with.clone());
    for workload in &mut workloads {
        workload.passes.retain(|pass| pass.settings.has_all(&with));
    }
    workloads.retain(|workload| !workload.passes.is_empty());
    if workloads.is_empty() {
        return Err(CmdError::request(
            "there are no passes to draw",
            "lap import FILE… --rig NAME takes frame-time logs in",
        ));
    }
    let drawn = |workload: &honest_lap_view::sheet::FramedWorkload| match figure {
        Figure::Tail => chart::tail(&figure::tail(workload)),
        _ => chart::passes(&figure::passes(workload)),
    };
    Ok(workloads.iter().map(|workload| (workload.name.clone(), drawn(workload))).collect())
}

/// Returns a figure of every lap that is named.
fn of_single_laps(
    args: &PlotArgs,
    study: &Study,
    logbook: &Logbook,
) -> Result<Vec<Named>, CmdError> {
    if args.names.is_empty() {
        return Err(CmdError::request(
            "conditions are drawn of single laps, and none is named",
            "name them: lap plot heron-1.3 --figure conditions; lap show heron-1 lists those of a session",
        ));
    }
    let records = logbook.records()?;
    let mut all = Vec::new();
    for name in &args.names {
        let page = match LapName::parse(name) {
            Some(lap) => logbook.lap(&lap)?,
            None => None,
        };
        let Some(mut page) = page else {
            return Err(CmdError::request(
                format!("no lap is called `{name}`"),
                "laps have names such as heron-1.3; lap show heron-1 lists those of a session",
            ));
        };
        study.tell([&mut page.head]);
        let session = records.iter().find(|record| record.name == page.head.name.session);
        let threads = session.and_then(|record| record.found.threads);
        let Some(figure) = figure::conditions(&page, threads) else {
            return Err(CmdError::request(
                format!("nothing was seen of the machine while {name} ran"),
                "laps that `lap run` times have conditions, and passes whose log tells them; typed values have none",
            ));
        };
        all.push((file_name(name), chart::conditions(&figure, WIDTH)));
    }
    Ok(all)
}

fn of_laps(
    figure: Figure,
    args: &PlotArgs,
    open: &OpenStudy,
    logbook: &Logbook,
    ctx: &Ctx,
) -> Result<Vec<Named>, CmdError> {
    let study = &open.study;
    let lab = read_lab(study, logbook, ctx)?;
    // Names are of workloads and rigs; which, the laps tell.
    let is_rig = |name: &String| lab.laps().iter().any(|lap| lap.name.session.rig == *name);
    let (rigs, workloads): (Vec<String>, Vec<String>) =
        args.names.iter().cloned().partition(is_rig);
    let (lab, changed) = args.change.of(lab.chosen(&args.choice.choice())?, &rigs)?;
    let rigs = if changed.is_some() { Vec::new() } else { rigs };
    // What setting varies does not matter to a sweep: it is over all of them.
    let across = args.across.clone().filter(|_| figure != Figure::Sweep);
    let question = Question {
        workloads,
        rigs,
        measures: args.measure.clone(),
        with: Settings::new(args.with.clone()),
        across: across.unwrap_or_default(),
        worth: (figure == Figure::Worth).then(Way::default),
        ..Question::default()
    };
    let analysis = analyse(&lab, &question)?;
    let (views, margin) = (&analysis.views, analysis.assume.margin);
    let mut all = Vec::new();
    match figure {
        Figure::Overview => {
            let seen = overview(study, &analysis);
            if !seen.lines.is_empty() {
                let title =
                    study.title.clone().unwrap_or_else(|| "All of it at a glance".to_owned());
                let said = conclusion(analysis.indexes.first(), &seen, views);
                let finding = said.into_iter().next().unwrap_or_default();
                let drawing = chart::overview(&figure::overview(&seen, &title, finding), WIDTH);
                all.push(("study".to_owned(), drawing));
            }
        }
        Figure::Overall => {
            for index in analysis.indexes.iter().filter(|index| index.found.rows.len() > 1) {
                let drawing = chart::ratios(&figure::index(index, views, margin), WIDTH);
                all.push((file_name(&over_words(&index.over)), drawing));
            }
        }
        Figure::Change => {
            let rig = changed.as_deref().unwrap_or_default();
            let said = changes_words(analysis.changes.as_deref().unwrap_or_default());
            let figure = figure::change(rig, views, &said, margin);
            all.push((rig.to_owned(), chart::ratios(&figure, WIDTH)));
        }
        Figure::Gain => {
            let Some(Across::Setting(setting)) = &args.across else { return Ok(all) };
            for crossed in &analysis.gains {
                let figure = figure::two_way(setting, crossed, margin);
                let measure = Some(crossed.measure.name.as_str()).filter(|name| *name != TIME);
                let parts = [Some(crossed.workload.as_str()), measure, Some(setting)];
                let name = parts.into_iter().flatten().collect::<Vec<_>>().join("-");
                all.push((file_name(&name), chart::ratios(&figure, WIDTH)));
            }
        }
        Figure::Sweep => {
            let Some(Across::Setting(setting)) = &args.across else { return Ok(all) };
            for view in views.iter().filter(|view| view.measure.name == TIME) {
                let work = analysis.works.get(&view.workload);
                let figure = work.and_then(|work| figure::sweep(setting, view, work));
                let drawn = figure.map(|figure| chart::sweep(&figure, WIDTH));
                all.extend(drawn.map(|drawn| (format!("{}-{setting}", view.workload), drawn)));
            }
        }
        Figure::Loads => {
            let mut searches = lab.searches();
            for searched in &mut searches {
                let asked = |(lap, _): &(&LapHead, _)| {
                    is_asked(&question, &lap.name.session.rig, &lap.settings)
                };
                searched.laps.retain(asked);
            }
            searches.retain(|searched| !searched.laps.is_empty());
            for view in views.iter().filter(|view| view.measure.name == CAPACITY) {
                let finding = view.groups.iter().flat_map(|group| answer(group, &view.measure));
                let finding = finding.collect::<Vec<_>>().join(" ");
                let figure = figure::loads(&view.workload, finding, &searches);
                all.push((view.workload.clone(), chart::loads(&figure, WIDTH)));
            }
        }
        Figure::Rate => {
            let runs = endurance_runs(&analysis.laps, &lab.facts, logbook)?;
            let of_rig = |run: &EnduranceRun| {
                question.rigs.is_empty() || question.rigs.contains(&run.lap.session.rig)
            };
            let runs: Vec<EnduranceRun> = runs.into_iter().filter(of_rig).collect();
            let mut names: Vec<&str> = views.iter().map(|v| v.workload.as_str()).collect();
            names.dedup();
            for name in names {
                let figure = figure::rate_profile(name, &runs);
                all.extend(
                    figure.map(|figure| (name.to_owned(), chart::rate_profile(&figure, WIDTH))),
                );
            }
        }
        Figure::Worth => {
            let worth = analysis.worth.as_ref().expect("it was asked for");
            let figure = figure::worth(study, &worth.found, args.over.over());
            let over = match args.over.over() {
                Over::Price => "price",
                Over::Power => "power",
            };
            all.extend(figure.map(|figure| (over.to_owned(), chart::worth(&figure))));
        }
        Figure::Laps => {
            for view in views {
                let asked =
                    |lap: &&LapHead| is_asked(&question, &lap.name.session.rig, &lap.settings);
                let laps: Vec<&LapHead> = analysis.laps.iter().copied().filter(asked).collect();
                let figure = figure::laps(
                    &view.workload,
                    &view.measure,
                    &laps,
                    (&lab.facts, &analysis.findings),
                );
                let name = format!("{}-{}", view.workload, view.measure.name);
                all.push((file_name(&name), chart::laps(&figure, WIDTH)));
            }
        }
        _ => {
            let shown = Shown { analysis: &analysis, remarks: &[], reads: "" };
            for view in views {
                let doubted = Doubted::about(&view.workload, &shown);
                for group in &view.groups {
                    let name = match &group.held {
                        HeldConstant::Rigs => {
                            format!("{}-{}-variants", view.workload, view.measure.name)
                        }
                        HeldConstant::Variant(_) => heading(view, group),
                    };
                    let drawing = chart::bars(
                        &figure::bars(view, group, &doubted, &analysis.elsewhere),
                        WIDTH,
                    );
                    all.push((file_name(&name), drawing));
                }
            }
        }
    }
    match (all.is_empty(), figure) {
        (false, _) => Ok(all),
        (true, Figure::Worth) => Err(CmdError::request(
            "there is nothing to draw: no two rigs have figures, and prices or powers of one kind",
            "add price = \"1450 EUR\" or power = { mean = \"85 W\" } to the rigs in study.toml",
        )),
        (true, Figure::Loads) => Err(CmdError::request(
            "there is no search for a load to draw",
            "a workload of kind = \"capacity\" has them: lap run",
        )),
        (true, Figure::Sweep) => Err(CmdError::request(
            "there is no rate over that setting to draw",
            "a workload with `work` that varies the setting over numbers has one: vary = { n = [256, 512] }",
        )),
        (true, Figure::Rate) => Err(CmdError::request(
            "there is no endurance lap to draw",
            "a workload of kind = \"endurance\" has them: lap run",
        )),
        (true, Figure::Overall) => Err(CmdError::request(
            "there is no index to draw: no two rigs have everything that it would be over",
            "lap compare --overall says what is missing",
        )),
        (true, _) => Err(CmdError::request(
            "there is nothing to draw yet",
            "lap run runs laps; lap compare says what is missing",
        )),
    }
}

/// Returns whether a rig and a variant are among those that are asked for.
fn is_asked(question: &Question, rig: &String, settings: &Settings) -> bool {
    (question.rigs.is_empty() || question.rigs.contains(rig)) && settings.has_all(&question.with)
}

impl PlotArgs {
    /// Refuses what `figure` has no part of: it would be ignored without a word.
    fn honoured_by(&self, figure: Figure) -> Result<(), CmdError> {
        let by_measure = !matches!(
            figure,
            Figure::Passes
                | Figure::Tail
                | Figure::Loads
                | Figure::Rate
                | Figure::Sweep
                | Figure::Conditions
        );
        let by_direction =
            matches!(figure, Figure::Bars | Figure::Overview | Figure::Gain | Figure::Sweep);
        let by_variant = !matches!(figure, Figure::Rate | Figure::Sweep | Figure::Conditions);
        let by_choice = !matches!(figure, Figure::Passes | Figure::Tail | Figure::Conditions);
        let given = [
            ("--session, --group or --variant", self.choice.is_given() && !by_choice),
            ("--measure", !self.measure.is_empty() && !by_measure),
            ("--across", self.across.is_some() && !by_direction),
            ("--with", !self.with.is_empty() && !by_variant),
            ("--over", self.over != OverArg::Price && figure != Figure::Worth),
        ];
        match given.into_iter().find(|(_, ignored)| *ignored) {
            None => Ok(()),
            Some((option, _)) => Err(CmdError::request(
                format!("{option} says nothing to the figure `{}`", figure.word()),
                "leave one of them out; lap plot --help lists the figures",
            )),
        }
    }
}

/// Returns `names` with a number behind each that another has already: no figure takes the place of another.
fn distinct(names: impl Iterator<Item = String>) -> Vec<String> {
    let (mut taken, mut all) = (BTreeSet::new(), Vec::new());
    for name in names {
        let mut own = name.clone();
        let mut number = 1;
        while !taken.insert(own.clone()) {
            number += 1;
            own = format!("{name}-{number}");
        }
        all.push(own);
    }
    all
}

/// Returns `words` as the name of a file has them.
fn file_name(words: &str) -> String {
    let kept = |c: char| c.is_alphanumeric() || matches!(c, '.' | '_' | '=');
    let parts = words.split(|c| !kept(c)).filter(|part| !part.is_empty());
    parts.collect::<Vec<_>>().join("-")
}

/// Writes a figure to `path`, as a PNG if it is to be a `picture`.
pub fn write_figure(
    path: &Path,
    drawing: &Drawing,
    (picture, look): (bool, Look),
    ctx: &Ctx,
) -> Result<(), CmdError> {
    let bytes = match picture {
        true => drawing
            .png(look, PNG_SCALE)
            .map_err(|err| CmdError::request(err.to_string(), "write it as .svg instead"))?,
        false => drawing.svg(look).into_bytes(),
    };
    write_whole(&ctx.folder, path, &bytes)?;
    ctx.ui.say(Role::Plain, &format!("{} drawn", path.display()));
    Ok(())
}

/// Returns whether the file is to be a PNG; nothing but figures is written over.
pub fn is_picture(path: &Path) -> Result<bool, CmdError> {
    match path.extension().and_then(|extension| extension.to_str()) {
        Some("svg") => Ok(false),
        Some("png") => Ok(true),
        _ => Err(CmdError::request(
            format!("{} is neither .svg nor .png", path.display()),
            "name the file by its form: --out rings.png",
        )),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_are_named_without_what_a_shell_or_a_folder_would_take_amiss() {
        assert_eq!(file_name("dome-still threads=2"), "dome-still-threads=2");
        assert_eq!(file_name("fly-through · low 1%"), "fly-through-low-1");
        assert_eq!(file_name("../../etc"), "..-..-etc");
    }

    #[test]
    fn no_two_figures_of_a_command_have_one_name() {
        let names = ["a", "b", "a", "a-2", "a"].map(str::to_owned);
        assert_eq!(distinct(names.into_iter()), ["a", "b", "a-2", "a-2-2", "a-3"]);
    }
}
