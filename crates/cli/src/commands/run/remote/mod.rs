//! `lap run --rig heron,wren`: laps that are run on other machines, from here.

mod drive;
mod follow;
mod note;
mod order;
mod parcel;
mod preview;
mod rig;
mod screen;
mod seat;
mod told;

use super::args::RunArgs;
use super::choice::chosen;
use super::{resume, retest};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{LOGBOOK_FILE, OpenStudy};
use crate::working::Working;
use drive::drive;
use honest_lap_core::record::{SessionName, Workload};
use honest_lap_logbook::Logbook;
use honest_lap_logbook::carry::Part;
use honest_lap_measure::Place;
use note::{Files, RemoteRun, noted};
use order::order;
use parcel::{files_to_send, programs, reach};
use rig::Prepared;
use seat::Sent;
use std::path::{Path, PathBuf};

/// Returns the rigs that are to be run from here; `None` where it is this machine that runs laps.
pub fn meant(args: &RunArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Option<Vec<String>>, CmdError> {
    if args.here || args.sent.is_some() {
        return Ok(None);
    }
    let Some(asked) = &args.rig else {
        // What is under way on other machines comes first: it is older than anything here could be.
        let goes_on = args.resume.as_deref() == Some("");
        let rigs = if goes_on { noted(&place(open, ctx)?) } else { Vec::new() };
        let rigs: Vec<String> = rigs.into_iter().map(|away| away.rig).collect();
        return Ok((!rigs.is_empty()).then_some(rigs));
    };
    let mut rigs: Vec<String> = Vec::new();
    for rig in asked.split(',').map(str::trim).filter(|rig| !rig.is_empty()) {
        if !rigs.iter().any(|known| known == rig) {
            rigs.push(rig.to_owned());
        }
    }
    let unreached = |rig: &&String| reach(open, rig).is_none();
    match (rigs.iter().find(unreached), &rigs[..]) {
        (Some(_), [_]) | (_, []) => Ok(None),
        (Some(rig), _) => Err(CmdError::request(
            format!("the study does not say how rig {rig} is reached"),
            format!(
                "add `reach = \"ssh lab@{rig}\"` to [rig.{rig}]; or run on it by itself: lap run --rig {rig}"
            ),
        )),
        (None, _) => Ok(Some(rigs)),
    }
}

fn place(open: &OpenStudy, ctx: &Ctx) -> Result<Place, CmdError> {
    Ok(Place::new(&open.folder, &ctx.tool()?)?)
}

/// Runs laps on `rigs`, or goes on with what is under way there.
pub fn run(args: &RunArgs, rigs: &[String], open: &OpenStudy, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.machine_root.is_some() {
        return Err(CmdError::request(
            "`--machine-root` is for the machine that `lap` runs on",
            "leave it out",
        ));
    }
    if args.preview {
        return preview::print(args, rigs, open, ctx);
    }
    let place = place(open, ctx)?;
    let logbook = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let wanted = match args.retest {
        true => Some(retest::wanted(open, logbook.as_ref(), ctx)?),
        false => None,
    };
    let mut workloads = Vec::new();
    let mut prepared = Vec::new();
    for rig in rigs {
        let files = Files::take(rig, &place)?;
        let is_fresh = match (files.noted(), &args.resume) {
            (Some(_), None) => {
                return Err(CmdError::request(
                    format!("a run on rig {rig} has not been collected yet"),
                    "`lap run --resume` collects it, or goes on with it",
                ));
            }
            (noted, _) => noted.is_none(),
        };
        let away = match files.noted() {
            Some(away) => {
                workloads.clone_from(&open.study.workloads);
                // The way there may be another by now.
                let reach = reach(open, rig).unwrap_or(away.reach);
                RemoteRun { reach, ..away }
            }
            None => {
                let session = match &args.resume {
                    Some(name) => {
                        let found = resume::find(name, args.again, rig, open, logbook.as_ref())?;
                        workloads.extend(found.workloads);
                        Some(found.name)
                    }
                    None => None,
                };
                if workloads.is_empty() {
                    workloads = chosen(args, open, ctx)?;
                }
                let only = wanted.as_ref().map(|of| retest::only(of, &workloads, rig, ctx));
                if only.as_ref().is_some_and(Vec::is_empty) {
                    continue;
                }
                let asked = (rig.as_str(), only.as_deref(), session.as_ref());
                ordered(args, asked, &files, logbook.as_ref(), open, ctx)?
            }
        };
        prepared.push(Prepared { files, away, is_fresh });
    }
    drop(logbook);
    if prepared.is_empty() {
        return Ok(Exit::Done);
    }
    begin(prepared, &workloads, &args.binary, open, (args.output.format, ctx))
}

/// Returns the note of what is asked of `rig`: a new session, of some workloads `only` where these are given, or that `session`
/// goes on.
fn ordered(
    args: &RunArgs,
    (rig, only, session): (&str, Option<&[Workload]>, Option<&SessionName>),
    files: &Files,
    logbook: Option<&Logbook>,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<RemoteRun, CmdError> {
    let (mark, recorded_as) = match (session, logbook) {
        (Some(name), Some(logbook)) => {
            let mark = logbook.open_session(name)?.mark().to_owned();
            let recorded_as = began(logbook, &mark, files.came())?;
            (mark, recorded_as)
        }
        _ => (ctx.mark()?, rig.to_owned()),
    };
    let resumed = session.map(ToString::to_string);
    Ok(RemoteRun {
        rig: rig.to_owned(),
        reach: reach(open, rig).unwrap_or_default(),
        apart: open.study.rigs.iter().any(|known| known.name == rig && known.apart),
        rebuilt: args.rebuilt,
        order: order(args, only, (rig, &mark), resumed.as_deref()),
        remarks: logbook.map_or(Ok(0), Logbook::last_remark)?,
        recorded_as,
        said: 0,
        arrived: false,
        cut: false,
    })
}

/// Puts what is here of a session that goes on there to what will come, and returns the rig as it was recorded.
fn began(logbook: &Logbook, mark: &str, came: &Path) -> Result<String, CmdError> {
    let head = logbook.heads()?.into_iter().find(|head| head.mark == mark);
    let head = head.expect("the session was just opened");
    // What an earlier try left is older than what is here.
    let _ = std::fs::remove_file(came);
    logbook.pack(&Part { mark: head.mark, from: 0, to: head.last }, i64::MAX, came)?;
    Ok(head.rig)
}

/// Collects what is under way on other machines; `None` where nothing is.
pub fn collect(open: &OpenStudy, ctx: &Ctx) -> Result<Option<Exit>, CmdError> {
    let place = place(open, ctx)?;
    let mut prepared = Vec::new();
    for away in noted(&place) {
        let files = Files::take(&away.rig, &place)?;
        prepared.push(Prepared { files, away, is_fresh: false });
    }
    if prepared.is_empty() {
        return Ok(None);
    }
    let workloads = &open.study.workloads;
    begin(prepared, workloads, &[], open, (crate::args::FormatArg::Text, ctx)).map(Some)
}

/// Readies what could be sent, and drives the rigs.
fn begin(
    prepared: Vec<Prepared>,
    workloads: &[Workload],
    binaries: &[PathBuf],
    open: &OpenStudy,
    (format, ctx): (crate::args::FormatArg, &Ctx),
) -> Result<Exit, CmdError> {
    let working = Working::on("reading what is to be sent");
    let programs = programs(binaries, ctx)?;
    let files = files_to_send(workloads, &open.folder);
    let logbook = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    for Prepared { files, away, .. } in &prepared {
        if let Some(logbook) = &logbook {
            logbook.pack_figures(&away.rig, &files.work().join(LOGBOOK_FILE))?;
        }
    }
    drop(logbook);
    drop(working);
    let sent = Sent { programs: programs.into(), files: files.into() };
    drive(prepared, &sent, open, format, ctx)
}
