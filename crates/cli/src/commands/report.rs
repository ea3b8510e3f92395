//! `lap report`: everything about a study on one page that needs nothing else.

use crate::args::Cli;
use crate::commands::claim::answered;
use crate::commands::compare::{weighed, works};
use crate::commands::frames::framed;
use crate::commands::value::valued;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lab::{Asked, Lab, check_names};
use crate::report::{Material, page};
use crate::sheets;
use crate::stamp::Stamp;
use crate::study_file::read_study;
use honest_lap_core::doubt::by_sway;
use honest_lap_draw::{Role, page::html};
use honest_lap_logbook::Logbook;
use std::path::PathBuf;

/// Write one HTML page: the answer, figures, doubts, method and all the laps behind them
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap report                          report.html, which needs no network and no other file\n  \
                        lap report --out dome.html          under another name\n  \
                        lap report --baseline wren          everything held against wren"
)]
pub struct ReportArgs {
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG")]
    baseline: Option<String>,
    /// Compare what is not comparable anyway; the reason is carried into the page
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    /// The file to write, .html
    #[arg(long, value_name = "FILE", default_value = "report.html")]
    out: PathBuf,
}

pub fn run(args: &ReportArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.out.extension().is_none_or(|extension| extension != "html") {
        return Err(CmdError::request(
            format!("{} is no .html", args.out.display()),
            "name the file by its form: --out report.html",
        ));
    }
    let open = read_study(cli, ctx)?;
    let study = &open.study;
    let logbook = Logbook::open(&open.logbook())?;
    let mut lab = Lab::read(study, &logbook, ctx)?;
    let asked = Asked {
        baseline: args.baseline.clone(),
        despite: args.despite.clone(),
        ..Asked::default()
    };
    check_names(&asked, &lab)?;
    let judged = lab.judged(&asked, study);
    let by_money = study.rigs.iter().filter(|rig| rig.price.is_some()).count() > 1;
    let valued = by_money.then(|| {
        let judged = lab.judged(&asked, study);
        valued(study, &mut lab, judged, (&asked, &[]), (None, None))
    });
    let answered = match study.claims.is_empty() {
        true => Vec::new(),
        false => answered(study.claims.clone(), study, &mut lab, &asked)?.0,
    };
    let stamp = Stamp::of(&logbook, ctx)?;
    let remarks = logbook.remarks()?;
    let doubts =
        by_sway(judged.doubts.clone(), &judged.laps, &judged.views, &judged.ask, &judged.assume);
    let shown = sheets::Shown {
        views: &judged.views,
        laps: &judged.laps,
        doubts: &judged.doubts,
        remarks: &remarks,
        spread: judged.spread,
        ask: &judged.ask,
        despite: args.despite.as_deref(),
    };
    let page = page(&Material {
        study,
        study_text: std::fs::read_to_string(open.folder.join("study.toml"))
            .map_err(|err| CmdError::io("read", &open.folder.join("study.toml"), &err))?,
        shown: &shown,
        works: &works(&judged.ask, &lab.tasks),
        indexes: &weighed(&[], study, &judged),
        valued,
        answered: &answered,
        doubts: &doubts,
        frames: &framed(&[], &open, &logbook)?,
        sessions: &logbook.sessions()?,
        laps: &lab.laps,
        facts: &lab.facts,
        stamp: stamp.line(),
    });
    std::fs::write(ctx.folder.join(&args.out), html(&page))
        .map_err(|err| CmdError::io("write", &args.out, &err))?;
    ctx.ui.say(Role::Plain, &format!("{} written", args.out.display()));
    Ok(if stamp.whole { Exit::Done } else { Exit::No })
}
