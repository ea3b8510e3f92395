//! Whether the study's folder is a copy: its last session is another folder's then, and goes on there.

use crate::error::CmdError;
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Place, UnderWay, write_whole};
use std::os::unix::fs::MetadataExt;
use std::path::Path;
use std::time::UNIX_EPOCH;

/// Returns what tells the file that a logbook is in from every copy of it, on this machine or any other: its number, and
/// when it was made, where the file system tells; numbers come again.
fn home(logbook: &Path) -> Option<String> {
    let meta = std::fs::metadata(logbook).ok()?;
    let born = meta.created().ok().and_then(|born| born.duration_since(UNIX_EPOCH).ok());
    let born = born.map_or_else(|| "unknown".to_owned(), |born| born.as_nanos().to_string());
    Some(format!("{} {born}\n", meta.ino()))
}

/// Makes sure that what is recorded from now on is this folder's own.
///
/// In a copy, what the other folder had under way is forgotten: its lap is for that one to record. A file may also have
/// been copied in the midst of a lap's being written; then it is not whole, and nothing is added to it.
pub fn settle(place: &Place, path: &Path, logbook: &Logbook) -> Result<(), CmdError> {
    let noted = std::fs::read_to_string(place.home()).ok();
    if noted.is_some() && noted == home(path) {
        return Ok(());
    }
    if noted.is_some() {
        whole(path, logbook)?;
        UnderWay::clear(place);
        place.clear();
    }
    note(place, path);
    Ok(())
}

/// Notes which file the logbook is, where sessions are run.
fn note(place: &Place, path: &Path) {
    let home = home(path).filter(|_| place.home().parent().is_some_and(Path::is_dir));
    if let Some(home) = home {
        // A folder that cannot be written to has no sessions; the next look is the same as this one.
        let _ = write_whole(&place.home(), home.as_bytes());
    }
}

/// Returns an error unless everything in the copy is as it was written.
fn whole(path: &Path, logbook: &Logbook) -> Result<(), CmdError> {
    let fault = match logbook.faults()?.into_iter().next() {
        Some(fault) => Some(fault),
        None => logbook.strays()?.into_iter().next(),
    };
    let broken = || -> Result<Option<String>, CmdError> {
        let broken = logbook.verify()?.into_iter().find_map(|session| session.broken);
        Ok(broken.map(|broken| broken.to_string()))
    };
    let fault = fault.map_or_else(broken, |fault| Ok(Some(fault)))?;
    let Some(fault) = fault else { return Ok(()) };
    Err(CmdError::request(
        format!("{} is a copy, and not whole: {fault}", path.display()),
        "copy the folder again; it may have been copied while a lap was being written",
    ))
}
