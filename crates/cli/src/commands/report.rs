//! `lap report`: everything about a study on one page that needs nothing else.

use crate::args::Cli;
use crate::choice::ChoiceArgs;
use crate::commands::frames::framed;
use crate::ctx::Ctx;
use crate::endurance_runs::endurance_runs;
use crate::error::{CmdError, Exit};
use crate::lab::read_lab;
use crate::source::SourceArgs;
use crate::stamp::Stamp;
use crate::study_file::{LOGBOOK_FILE, OpenStudy, read_study};
use crate::whole_file::write_whole;
use honest_lap_core::analysis::{Question, Way, analyse};
use honest_lap_core::record::{SessionPage, Study};
use honest_lap_logbook::Logbook;
use honest_lap_view::page::form::{Block, Evidence, Made, Page, html, markdown};
use honest_lap_view::page::{Anonymous, Kind, Material, page};
use honest_lap_view::sheet;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use std::path::PathBuf;

/// Frames from which packing them takes a moment that deserves a word.
const MANY_FRAMES: usize = 2_000_000;

/// Write one HTML page: the answer, figures, doubts, method and all the laps behind them
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap report                          report.html, which needs no network and no other file\n  \
                        lap report --out dome.html          under another name\n  \
                        lap report --format markdown        for a forum or a pull request, on standard output\n  \
                        lap report --anonymous              without names of machines and people, serials, paths\n  \
                        lap report --baseline wren          everything held against wren\n  \
                        lap report --group renders          of the workloads of a group alone; --session, --variant likewise\n\n\
                        A browser prints the page as PDF: it is laid out for paper as well."
)]
pub struct ReportArgs {
    /// The form of the page
    #[arg(long, value_enum, default_value_t = Form::Html, value_name = "FORM")]
    format: Form,
    /// The rig that the others are held against [default: the study's]
    #[arg(long, value_name = "RIG")]
    baseline: Option<String>,
    /// Compare what is not comparable anyway; the reason is carried into the page
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    /// Leave out names of machines and people, serials and paths; what was left out is counted on the page
    #[arg(long)]
    anonymous: bool,
    /// The file to write [default: report.html; of Markdown, standard output]
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    #[command(flatten)]
    choice: ChoiceArgs,
    #[command(flatten)]
    source: SourceArgs,
}

/// A form of the page.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum Form {
    /// One page with figures, frames and files in it
    Html,
    /// Words and tables
    Markdown,
}

pub fn run(args: &ReportArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    write(args, &read_study(cli, ctx)?, ctx)
}

impl ReportArgs {
    /// Returns the arguments for a page at `out`.
    pub fn to(out: PathBuf) -> Self {
        let (baseline, despite, anonymous) = (None, None, false);
        let (choice, source) = (ChoiceArgs::default(), SourceArgs::default());
        Self { format: Form::Html, baseline, despite, anonymous, out: Some(out), choice, source }
    }
}

/// Writes the page of the study `open`.
pub fn write(args: &ReportArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Exit, CmdError> {
    let (form, out) = form(args)?;
    // Made of a copy, which it carries: whatever is recorded meanwhile is in neither.
    let copy =
        tempfile::tempdir().map_err(|err| CmdError::io("create", "a folder".as_ref(), &err))?;
    let path = copy.path().join(LOGBOOK_FILE);
    args.source.open(open)?.copy_to(&path)?;
    let bytes = std::fs::read(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    let made = Made {
        version: env!("CARGO_PKG_VERSION").to_owned(),
        moment: ctx.now(),
        baseline: args.baseline.clone(),
        despite: args.despite.clone(),
        choice: args.choice.choice(),
    };
    let asked = made.clone();
    // How old results are is worked out from the second that the page says.
    let ctx = &ctx.at(&asked.moment).expect("it was just written so");
    let carries = form == Form::Html && !args.anonymous;
    let evidence = carries.then(|| Evidence::pack(&bytes, made));
    let logbook = Logbook::open(&path)?;
    let stamp = Stamp::of(&logbook, ctx)?;
    let sessions = logbook.sessions()?;
    let from = From { open, logbook: &logbook, stamp: &stamp, sessions: &sessions, evidence };
    let mut page = made_of((&asked, form), from, ctx)?;
    if args.anonymous {
        let mut anonymous = Anonymous::knowing(&names(&open.study, &sessions, ctx));
        for _ in 0..2 {
            page = page.reworded(&mut |text| anonymous.put(text));
        }
        let left_out = format!("Left out: {}.", anonymous.left_out());
        ctx.ui.say(Role::Quiet, &left_out);
        if let Some(method) = page.parts.last_mut() {
            let why = "Each is replaced by the same words in brackets wherever it stood.";
            method.blocks.push(Block::Words(format!("{left_out} {why}")));
        }
    }
    let text = match form {
        Form::Html => html(&page),
        Form::Markdown => markdown(&page),
    };
    match out {
        Some(path) => {
            write_whole(&ctx.folder, &path, text.as_bytes())?;
            ctx.ui.say(Role::Plain, &format!("{} written", path.display()));
        }
        None => ctx.ui.print_raw(text.as_bytes())?,
    }
    Ok(if stamp.whole { Exit::Done } else { Exit::No })
}

/// Returns the page that `evidence` makes of the study and logbook in `open`'s folder: the same as it was, if it is of
/// this version.
pub fn made_again(open: &OpenStudy, evidence: Evidence, ctx: &Ctx) -> Result<String, CmdError> {
    let asked = evidence.made.clone();
    let logbook = Logbook::open(&open.logbook())?;
    let (stamp, sessions) = (Stamp::of(&logbook, ctx)?, logbook.sessions()?);
    let evidence = Some(evidence);
    let from = From { open, logbook: &logbook, stamp: &stamp, sessions: &sessions, evidence };
    Ok(html(&made_of((&asked, Form::Html), from, ctx)?))
}

/// Returns the form and the file that are asked for; a file's name says its form.
fn form(args: &ReportArgs) -> Result<(Form, Option<PathBuf>), CmdError> {
    let Some(out) = &args.out else {
        let file = (args.format == Form::Html).then(|| PathBuf::from("report.html"));
        return Ok((args.format, file));
    };
    let form = match out.extension().and_then(|extension| extension.to_str()) {
        Some("html") if args.format == Form::Html => Form::Html,
        Some("md") => Form::Markdown,
        _ => {
            return Err(CmdError::request(
                format!("{} is neither .html nor, for Markdown, .md", out.display()),
                "name the file by its form: --out report.html; a browser prints that as PDF",
            ));
        }
    };
    Ok((form, Some(out.clone())))
}

/// What a page is made from.
struct From<'a> {
    open: &'a OpenStudy,
    logbook: &'a Logbook,
    stamp: &'a Stamp,
    sessions: &'a [SessionPage],
    evidence: Option<Evidence>,
}

fn made_of((asked, form): (&Made, Form), from: From<'_>, ctx: &Ctx) -> Result<Page, CmdError> {
    let From { open, logbook, stamp, sessions, evidence } = from;
    let study = &open.study;
    let lab = read_lab(study, logbook, ctx)?.chosen(&asked.choice)?;
    let by_money = study.rigs.iter().filter(|rig| rig.price.is_some()).count() > 1;
    let question = Question {
        baseline: asked.baseline.clone(),
        despite: asked.despite.clone(),
        claims: study.claims.clone(),
        worth: by_money.then(Way::default),
        ..Question::default()
    };
    let analysis = analyse(&lab, &question)?;
    let remarks = logbook.remarks()?;
    let shown = sheet::Shown { analysis: &analysis, remarks: &remarks, reads: "" };
    let mut frames = framed(&[], open, logbook)?;
    if !asked.choice.is_everything() {
        for framed in &mut frames {
            framed.passes.retain(|pass| lab.recorded.lap(&pass.lap).is_some());
        }
        frames.retain(|framed| !framed.passes.is_empty());
    }
    let passes = frames.iter().flat_map(|framed| &framed.passes);
    let many: usize = passes.map(|pass| pass.recorded.pass.shown.len()).sum();
    if many > MANY_FRAMES && form == Form::Html {
        ctx.ui.say(Role::Quiet, &format!("packing {}", count(many, "frame")));
    }
    let of_these =
        |page: &&SessionPage| lab.sessions().iter().any(|session| session.name == page.record.name);
    let sessions: Vec<SessionPage> = sessions.iter().filter(of_these).cloned().collect();
    let path = open.folder.join("study.toml");
    Ok(page(&Material {
        study,
        study_text: std::fs::read_to_string(&path)
            .map_err(|err| CmdError::io("read", &path, &err))?,
        shown: &shown,
        frames: &frames,
        sessions: &sessions,
        laps: &lab.recorded,
        searches: &lab.searches(),
        runs: &endurance_runs(&analysis.series, logbook)?,
        evidence,
        stamp: stamp.line(),
    }))
}

/// Returns the names that are known to be of machines and people, and what identifies a machine.
fn names(study: &Study, sessions: &[SessionPage], ctx: &Ctx) -> Vec<(Kind, String)> {
    let (host, user) = ctx.names_here();
    let mut names: Vec<(Kind, String)> =
        host.map(|name| (Kind::Machine, name)).into_iter().collect();
    names.extend(user.map(|name| (Kind::Person, name)));
    for page in sessions {
        names.extend(page.record.about.reader.clone().map(|name| (Kind::Person, name)));
        names.extend(page.record.found.machine.clone().map(|number| (Kind::Serial, number)));
    }
    let identifies = |part: &str| {
        let part = part.to_lowercase();
        ["serial", "uuid", "asset", "mac address"].iter().any(|word| part.contains(word))
    };
    let parts = study.rigs.iter().flat_map(|rig| &rig.parts);
    let serials = parts.filter(|part| identifies(&part.name)).flat_map(|part| &part.history);
    names.extend(serials.map(|(_, what)| (Kind::Serial, what.clone())));
    names
}
