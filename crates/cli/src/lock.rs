//! One session at a time on a machine and in a study, and what the last one left if it was killed.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::working::Working;
use honest_lap_core::record::{LapBody, Outcome};
use honest_lap_logbook::{Logbook, NewLap};
use honest_lap_measure::{Place, UnderWay, end_left};
use honest_lap_view::table::Role;
use rustix::fs::OFlags;
use std::fs::{self, File, OpenOptions, TryLockError};
use std::io;
use std::os::unix::fs::{MetadataExt, OpenOptionsExt};

/// Holds the machine and the study for one session; the locks go with the process, however it ends.
pub struct Locks {
    _machine: File,
    _study: File,
}

/// What a session locks of its machine: the folder that everything is in. It is there on every machine and one on each,
/// whoever runs and whatever `TMPDIR` says; nobody but its administrator can write to it or put another in its place.
const MACHINE: &str = "/";
/// Names another file to lock in its place: for tests, which are machines of their own.
const ANOTHER: &str = "LAP_MACHINE_LOCK";

/// What is done where another session is running.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum IfTaken {
    /// It is refused.
    Refuse,
    /// It waits until that has ended.
    Wait,
}

/// Takes the machine and the study, or says who has them: two sessions at once would time each
/// other.
pub fn take(place: &Place, if_taken: IfTaken) -> Result<Locks, CmdError> {
    place.prepare()?;
    // First: a session that waits for its machine is one of this study already.
    let study = lock_study(place, if_taken)?;
    let failed = |err| CmdError::io("lock", MACHINE.as_ref(), &err);
    let machine = machine().map_err(failed)?;
    lock(&machine, "on this machine", if_taken, &failed)?;
    Ok(Locks { _machine: machine, _study: study })
}

/// Locks `file`; `taken` says what somebody else has then.
fn lock(
    file: &File,
    taken: &str,
    if_taken: IfTaken,
    failed: &dyn Fn(io::Error) -> CmdError,
) -> Result<(), CmdError> {
    match file.try_lock() {
        Ok(()) => return Ok(()),
        Err(TryLockError::WouldBlock) if if_taken == IfTaken::Wait => {}
        Err(TryLockError::WouldBlock) => return Err(held(taken, &who(file))),
        Err(TryLockError::Error(err)) => return Err(failed(err)),
    }
    let _line = Working::on(&format!("waiting for the session {taken} ({}) to end", who(file)));
    // Nothing is begun yet: Ctrl-C ends the tool here, and leaves nothing behind.
    loop {
        match file.lock() {
            Err(err) if err.kind() == io::ErrorKind::Interrupted => {}
            done => return done.map_err(failed),
        }
    }
}

/// Returns who runs a session on this machine right now, if anybody does.
pub fn holder() -> Option<String> {
    let machine = machine().ok()?;
    match machine.try_lock_shared() {
        Err(TryLockError::WouldBlock) => Some(who(&machine)),
        _ => None,
    }
}

/// Returns whether a session is running in the study.
pub fn is_running(place: &Place) -> bool {
    let Ok(file) = unfollowed().read(true).open(place.lock()) else { return false };
    matches!(file.try_lock_shared(), Err(TryLockError::WouldBlock))
}

fn held(held: &str, holder: &str) -> CmdError {
    CmdError::request(
        format!("another session is running {held} ({holder})"),
        "begin when it has ended: lap run --wait; or end it with Ctrl-C in its terminal",
    )
}

fn machine() -> io::Result<File> {
    match std::env::var_os(ANOTHER) {
        Some(path) => unfollowed().read(true).write(true).create(true).truncate(false).open(path),
        None => File::open(MACHINE),
    }
}

/// Returns who has locked `file`, in words: the system keeps a list of all locks.
fn who(file: &File) -> String {
    let unknown = "who has it cannot be seen";
    let (Ok(meta), Ok(locks)) = (file.metadata(), fs::read_to_string("/proc/locks")) else {
        return unknown.to_owned();
    };
    let Some(process) = locker(&locks, meta.ino()) else { return unknown.to_owned() };
    let folder = fs::read_link(format!("/proc/{process}/cwd"));
    match folder {
        Ok(folder) => format!("process {process}, in {}", folder.display()),
        Err(_) => format!("process {process}, of another user"),
    }
}

/// Returns the process that holds a lock on the whole file `inode`, by the system's list.
fn locker(locks: &str, inode: u64) -> Option<u32> {
    let holds = |line: &&str| {
        let mut words = line.split_whitespace();
        let is_lock = words.nth(1) == Some("FLOCK");
        let place = words.nth(3).and_then(|place| place.rsplit(':').next()?.parse::<u64>().ok());
        // Those who wait for it have an arrow in the place of the kind.
        is_lock && place == Some(inode)
    };
    let line = locks.lines().find(holds)?;
    line.split_whitespace().nth(4)?.parse().ok()
}

/// Returns how a file of ours is opened where somebody else may have put a link.
fn unfollowed() -> OpenOptions {
    let mut options = File::options();
    options.custom_flags(OFlags::NOFOLLOW.bits().cast_signed());
    options
}

fn lock_study(place: &Place, if_taken: IfTaken) -> Result<File, CmdError> {
    let path = place.lock();
    let failed = |err| CmdError::io("lock", &path, &err);
    // Another user's lock may be read and locked, and not be created again or written to.
    let open = unfollowed().read(true).write(true).create(true).truncate(false).open(&path);
    let open = open.or_else(|_| unfollowed().read(true).open(&path));
    let file = open.map_err(failed)?;
    lock(&file, "in this study", if_taken, &failed)?;
    Ok(file)
}

/// Ends what a killed session left running, and writes its lost lap down.
pub fn recover(place: &Place, logbook: &mut Logbook, ctx: &Ctx) -> Result<(), CmdError> {
    let Some(lost) = UnderWay::read(place) else {
        place.clear();
        UnderWay::clear(place);
        return Ok(());
    };
    let ended = end_left(&lost.mark, place);
    place.clear();
    if let Some(session) = logbook.session_marked(&lost.session)?
        && logbook.lap(&session.lap(lost.number))?.is_none()
    {
        let name = session.lap(lost.number);
        let reason = "the tool was ended while this lap was under way";
        let body = LapBody {
            started: lost.started.clone(),
            reason: Some(reason.to_owned()),
            left_behind: ended.clone(),
            ..LapBody::default()
        };
        let lap = NewLap {
            number: lost.number,
            workload: &lost.workload,
            task: &lost.task,
            settings: &lost.settings,
            round: lost.round,
            warm_up: lost.warm_up,
            outcome: Outcome::Lost,
            wall: None,
            parts: None,
            step: None,
            body: &body,
        };
        logbook.append_lap(&session, &lap)?;
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_systems_list_says_who_holds_a_lock() {
        let locks = "1: POSIX  ADVISORY  WRITE 900 fe:00:7 0 EOF\n\
                     2: FLOCK  ADVISORY  READ  901 fe:00:17 0 EOF\n\
                     3: FLOCK  ADVISORY  WRITE 902 fe:00:7 0 EOF\n\
                     3: -> FLOCK  ADVISORY  WRITE 903 fe:00:7 0 EOF\n";
        assert_eq!(
            (locker(locks, 7), locker(locks, 17), locker(locks, 8)),
            (Some(902), Some(901), None)
        );
    }
}
