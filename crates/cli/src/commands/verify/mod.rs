//! `lap verify`: proves that nothing recorded has changed.

mod page;

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::study_file::{OpenStudy, read_study};
use crate::working::Working;
use honest_lap_core::both;
use honest_lap_core::record::Study;
use honest_lap_logbook::{Logbook, LogbookError, SealedSession, Signed};
use honest_lap_view::sheet;
use honest_lap_view::sheet::{CheckedLogbook, CheckedSession, Signature};
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use page::{Follows, follows, take_apart};
use std::path::{Path, PathBuf};

/// Prove that nothing recorded has changed
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap verify                    check every record of the logbook\n  \
                        lap verify --noted 3f9c…      and that nothing was taken off since that seal was noted\n  lap verify report.html        a published page, by the logbook that it carries\n  lap verify --store            the lab's store: every record, and the rules that its database holds to\n  \
                        lap verify --format json      for programs; exit status 1 if anything was changed"
)]
pub struct VerifyArgs {
    /// A page of `lap report`: check the logbook inside it, and that every figure of the page follows from that
    #[arg(value_name = "PAGE")]
    page: Option<PathBuf>,
    /// A seal that was noted before, by 16 digits or more: a session's is found wherever the session was merged to, the
    /// whole logbook's in this file for good
    #[arg(long, value_name = "SEAL")]
    noted: Option<String>,
    #[command(flatten)]
    source: SourceArgs,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &VerifyArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let Some(page) = &args.page else {
        let open = read_study(cli, ctx)?;
        return match args.source.is_store() {
            true => check_store(args, &open, ctx),
            false => check(args, &open, &open.logbook(), ctx),
        };
    };
    let taken = take_apart(&ctx.folder.join(page))?;
    let recorded = check(args, &taken.open, &taken.open.logbook(), ctx)?;
    if recorded != Exit::Done {
        return Ok(recorded);
    }
    let name = page.display();
    match follows(&taken, ctx)? {
        Follows::Whole => {
            let line =
                format!("{name}: every figure on it follows from the logbook that it carries");
            ctx.ui.say(Role::Better, &line);
            Ok(Exit::Done)
        }
        Follows::NotFrom(line) => {
            let text = format!("{name} is not what its logbook makes, from line {line} on");
            ctx.ui.say_labelled("changed", Role::Failed, &text);
            let help =
                "believe the logbook: save it and study.toml from the page, then lap compare";
            ctx.ui.say_labelled("help", Role::Heading, help);
            Ok(Exit::No)
        }
        Follows::OtherVersion(version) => {
            let text = format!(
                "lap {version} made {name}; only that version can tell whether its figures follow"
            );
            ctx.ui.say_labelled("unchecked", Role::Open, &text);
            Ok(Exit::No)
        }
    }
}

/// Checks every record of the lab's store, as it comes from there, and the rules that its database holds to.
fn check_store(args: &VerifyArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut store = args.source.reach(open)?;
    let missing = store.missing_rules()?;
    for rule in &missing {
        let text = format!("{rule} is gone, or is not as the store was made");
        ctx.ui.say_labelled("changed", Role::Failed, &text);
    }
    // By rules that are not those that it was made with nothing can be said of what follows from laps.
    let working = Working::on("checking what follows from laps");
    let wrong = if missing.is_empty() { store.not_following()? } else { 0 };
    drop(working);
    if wrong > 0 {
        let rows = count(wrong as usize, "row");
        let text = format!("{rows} of laps that are alike are not what follows from the laps");
        ctx.ui.say_labelled("changed", Role::Failed, &text);
        let help = "lap sync, and compare here: what it fetches is made of the laps themselves";
        ctx.ui.say_labelled("help", Role::Heading, help);
    }
    drop(store);
    let source = args.source.open(open)?;
    let recorded = check(args, open, source.path(), ctx)?;
    Ok(if missing.is_empty() && wrong == 0 { recorded } else { Exit::No })
}

/// Checks every record of the logbook at `path`, of a study.
fn check(args: &VerifyArgs, open: &OpenStudy, path: &Path, ctx: &Ctx) -> Result<Exit, CmdError> {
    let logbook = match Logbook::open(path) {
        // Somebody has been at it: that is an answer, and not a failure to find one.
        Err(err @ LogbookError::Foreign { .. }) => {
            ctx.ui.say_labelled("changed", Role::Failed, &err.to_string());
            let help = "restore the file from a copy; nothing was read from this one";
            ctx.ui.say_labelled("help", Role::Heading, help);
            return Ok(Exit::No);
        }
        opened => opened?,
    };
    // What no seal is hashed for reads all of the file too: beside the seals' check, on a connection of its own.
    let beside = || -> Result<_, LogbookError> {
        let logbook = Logbook::open(path)?;
        Ok((logbook.faults()?, logbook.strays()?, logbook.seal()?))
    };
    let working = Working::on("checking every seal");
    let (sessions, beside) = both(|| logbook.verify(), beside);
    let (faults, strays, seal) = beside?;
    let (sessions, remarks) = (sessions?, logbook.verify_remarks()?);
    drop(working);
    let noted = args.noted.as_ref().map(|noted| logbook.has_seal(noted, (&sessions, &remarks)));
    let checked = CheckedLogbook {
        seal,
        noted: noted.transpose()?,
        strays,
        sessions: sessions.into_iter().map(|session| checked(session, &open.study)).collect(),
        remarks: remarks.seals.len(),
        broken_remark: remarks.broken,
        faults,
    };
    ctx.ui.print(&sheet::verify(&checked), args.output.format)?;
    let whole = checked.faults.is_empty()
        && checked.strays.is_empty()
        && checked.noted != Some(false)
        && checked.broken_remark.is_none()
        && checked.sessions.iter().all(|session| session.broken.is_none());
    Ok(if whole { Exit::Done } else { Exit::No })
}

fn checked(session: SealedSession, study: &Study) -> CheckedSession {
    let SealedSession { name, laps, seal, broken, signed, last } = session;
    // One that is known says more than a later one that is not.
    let known = |signed: &&Signed| study.rig_of_key(&signed.key).is_some();
    let told = signed.iter().rev().find(known).or(signed.last());
    let signature = told.filter(|signed| signed.holds).map(|signed| Signature {
        key: signed.key.clone(),
        rig: study.rig_of_key(&signed.key).map(|rig| rig.name.clone()),
        up_to: (signed.number < last).then_some(signed.number),
    });
    let broken = broken.map(|broken| broken.to_string());
    CheckedSession { name, laps, seal, broken, signed: signature }
}
