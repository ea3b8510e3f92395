//! One session at a time on a machine and in a study, and what the last one left if it was killed.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::record::{LapBody, LapName, Outcome};
use honest_lap_draw::Role;
use honest_lap_logbook::{Logbook, NewLap};
use honest_lap_measure::{Place, UnderWay, end_marked};
use std::fs::{File, Permissions, TryLockError};
use std::io::{Read, Write};
use std::os::unix::fs::PermissionsExt;
use std::path::Path;

/// Holds the machine and the study for one session; the locks go with the process, however it ends.
pub struct Locks {
    _machine: File,
    _study: File,
}

/// The machine's lock, in the folder for temporary files that all users share.
const MACHINE_LOCK: &str = "honest-lap-session.lock";

/// Takes the machine and the study, or says who has them: two sessions at once would time each
/// other.
pub fn take(place: &Place) -> Result<Locks, CmdError> {
    let machine = std::env::temp_dir().join(MACHINE_LOCK);
    let machine = lock(&machine, "on this machine", place.study())?;
    place.prepare()?;
    Ok(Locks { _machine: machine, _study: lock(&place.lock(), "in this study", place.study())? })
}

/// Returns who drives a session on this machine right now, if anybody does.
pub fn holder() -> Option<String> {
    let mut file = File::open(std::env::temp_dir().join(MACHINE_LOCK)).ok()?;
    match file.try_lock_shared() {
        Err(TryLockError::WouldBlock) => {
            let mut holder = String::new();
            file.read_to_string(&mut holder).ok()?;
            Some(holder.trim().to_owned())
        }
        _ => None,
    }
}

/// Returns whether a session is running in the study.
pub fn is_running(place: &Place) -> bool {
    let Ok(file) = File::open(place.lock()) else { return false };
    matches!(file.try_lock_shared(), Err(TryLockError::WouldBlock))
}

fn lock(path: &Path, held: &str, study: &str) -> Result<File, CmdError> {
    let failed = |err| CmdError::io("lock", path, &err);
    // Another user's lock may be read and locked, and not be created again or written to.
    let open = File::options().read(true).write(true).open(path);
    let open = open.or_else(|_| File::options().read(true).open(path));
    let mut file = open
        .or_else(|_| File::options().read(true).write(true).create(true).truncate(false).open(path))
        .map_err(failed)?;
    match file.try_lock() {
        Ok(()) => {}
        Err(TryLockError::WouldBlock) => {
            let mut holder = String::new();
            let _ = file.read_to_string(&mut holder);
            return Err(CmdError::request(
                format!("another session is running {held} ({})", holder.trim()),
                "wait until it has ended, or end it with Ctrl-C in its terminal",
            ));
        }
        Err(TryLockError::Error(err)) => return Err(failed(err)),
    }
    // Who has it is a help to others and not what holds them off.
    let told = file
        .set_len(0)
        .and_then(|()| write!(file, "process {}, study {study}", std::process::id()));
    if told.is_ok() {
        let _ = file.set_permissions(Permissions::from_mode(0o666));
    }
    Ok(file)
}

/// Ends what a killed session left running, and writes its lost lap down.
pub fn recover(place: &Place, logbook: &mut Logbook, ctx: &Ctx) -> Result<(), CmdError> {
    let Some(lost) = UnderWay::read(place) else {
        place.clear();
        UnderWay::clear(place);
        return Ok(());
    };
    let ended = end_marked(&lost.mark);
    place.clear();
    let name = LapName::parse(&lost.lap);
    if let Some(name) = name
        && logbook.lap(&name)?.is_none()
        && logbook.tasks()?.iter().any(|form| form.id == lost.task)
    {
        let reason = "the tool was ended while this lap was under way";
        let body = LapBody {
            started: lost.started.clone(),
            reason: Some(reason.to_owned()),
            left_behind: ended.clone(),
            ..LapBody::default()
        };
        logbook.append_lap(&NewLap {
            name: &name,
            task: lost.task,
            settings: &lost.settings,
            round: lost.round,
            warm_up: lost.warm_up,
            outcome: Outcome::Lost,
            wall: None,
            parts: None,
            step: None,
            body: &body,
        })?;
        ctx.ui.say_labelled(
            "warning",
            Role::Open,
            &format!(
                "the last session was cut off: lap {name} ({}) is recorded as lost",
                lost.workload
            ),
        );
    }
    if !ended.is_empty() {
        let what = format!("ended what it had left running: {}", ended.join(", "));
        ctx.ui.say_labelled("warning", Role::Open, &what);
    }
    UnderWay::clear(place);
    Ok(())
}
