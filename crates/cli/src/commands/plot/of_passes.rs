//! Figures of passes, and of single laps.

use super::args::{Figure, Named, PlotArgs, WIDTH};
use super::files::file_name;
use crate::commands::frames::framed;
use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::record::{LapName, Settings, Study};
use honest_lap_logbook::Logbook;
use honest_lap_view::{chart, figure};

pub(super) fn of_frames(
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
pub(super) fn of_single_laps(
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
        study.tell([page.head.variant()]);
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
