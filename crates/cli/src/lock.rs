//! One session at a time in a study, and what the last one left if it was killed.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::lap::{LapBody, LapName, Outcome};
use honest_lap_draw::Role;
use honest_lap_logbook::{Logbook, NewLap};
use honest_lap_measure::{Place, UnderWay, end_marked};
use std::fs::{File, TryLockError};
use std::io::{Read, Write};

/// Holds the study for one session; the lock goes with the process, however it ends.
pub struct StudyLock(#[expect(dead_code, reason = "the lock lives as long as its file")] File);

/// Takes the study, or says who has it.
pub fn take(place: &Place) -> Result<StudyLock, CmdError> {
    place.prepare()?;
    let path = place.lock();
    let failed = |err| CmdError::io("lock", &path, &err);
    let mut file = File::options()
        .read(true)
        .write(true)
        .create(true)
        .truncate(false)
        .open(&path)
        .map_err(failed)?;
    match file.try_lock() {
        Ok(()) => {}
        Err(TryLockError::WouldBlock) => {
            let mut holder = String::new();
            let _ = file.read_to_string(&mut holder);
            return Err(CmdError::request(
                format!("another session is running in this study (process {})", holder.trim()),
                "wait until it has ended, or end it with Ctrl-C in its terminal",
            ));
        }
        Err(TryLockError::Error(err)) => return Err(failed(err)),
    }
    file.set_len(0).map_err(failed)?;
    write!(file, "{}", std::process::id()).map_err(failed)?;
    Ok(StudyLock(file))
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
