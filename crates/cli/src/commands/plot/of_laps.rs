//! Figures of what laps support: an analysis, drawn.

use super::args::{Figure, Named, PlotArgs, WIDTH};
use super::files::file_name;
use crate::ctx::Ctx;
use crate::endurance_runs::endurance_runs;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Across, Question, Way, analyse};
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::judge::HeldConstant;
use honest_lap_core::record::{LapHead, Settings, TIME};
use honest_lap_logbook::Logbook;
use honest_lap_view::chart;
use honest_lap_view::figure::{self, EnduranceRun, Over};
use honest_lap_view::overview::overview;
use honest_lap_view::page::conclusion;
use honest_lap_view::sheet::{Doubted, Shown, answer, heading, over_words};
use honest_lap_view::words::finding::changes_words;

pub(super) fn of_laps(
    figure: Figure,
    args: &PlotArgs,
    open: &OpenStudy,
    logbook: &Logbook,
    ctx: &Ctx,
) -> Result<Vec<Named>, CmdError> {
    let study = &open.study;
    let lab = read_lab(study, logbook, ctx)?;
    // Names are of workloads and rigs; which, the laps tell.
    let is_rig = |name: &String| lab.series().iter().any(|series| series.session.rig == *name);
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
            let runs = endurance_runs(&analysis.series, logbook)?;
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
                let mut series = analysis.series.clone();
                series.retain(|one| is_asked(&question, &one.session.rig, &one.settings));
                let findings = &analysis.findings;
                let figure = figure::laps(&view.workload, &view.measure, &series, findings);
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
