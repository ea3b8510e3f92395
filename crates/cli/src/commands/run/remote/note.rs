//! What is under way on another machine, noted in the study's folder until it is home.

use crate::error::CmdError;
use honest_lap_measure::{Place, write_whole};
use honest_lap_reach::Order;
use serde::{Deserialize, Serialize};
use std::fs::{self, File, TryLockError};
use std::path::{Path, PathBuf};

/// A run on another machine.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RemoteRun {
    /// The rig.
    pub rig: String,
    /// The command line that runs a command there.
    pub reach: String,
    /// Whether it is run while no other is.
    pub apart: bool,
    /// Whether it is the same rig although its system was set up anew.
    pub rebuilt: bool,
    /// What is run there.
    pub order: Order,
    /// The place of the last remark that was sent along.
    pub remarks: i64,
    /// The rig's name as the session's record has it.
    pub recorded_as: String,
    /// How many bytes of what the run said there were said here.
    pub said: u64,
    /// Whether it has been heard of from there.
    pub arrived: bool,
    /// Whether it was cut off there, and is to go on when it is next reached.
    pub cut: bool,
}

/// The files of one run on another machine, which nobody else deals with meanwhile.
#[derive(Debug)]
pub struct Files {
    note: PathBuf,
    came: PathBuf,
    work: PathBuf,
    _lock: File,
}

impl Files {
    /// Takes the files of a run on `rig`, or says that somebody else has them.
    pub fn take(rig: &str, place: &Place) -> Result<Self, CmdError> {
        place.prepare()?;
        let folder = place.remote();
        fs::create_dir_all(&folder).map_err(|err| CmdError::io("create", &folder, &err))?;
        let path = folder.join(format!("{rig}.lock"));
        let failed = |err| CmdError::io("lock", &path, &err);
        let open = File::options().write(true).create(true).truncate(false).open(&path);
        let lock = open.map_err(failed)?;
        match lock.try_lock() {
            Ok(()) => {}
            Err(TryLockError::WouldBlock) => {
                return Err(CmdError::request(
                    format!("another `lap` of this study is running {rig} already"),
                    "wait until it has ended, or end it with Ctrl-C in its terminal",
                ));
            }
            Err(TryLockError::Error(err)) => return Err(failed(err)),
        }
        let at = |end: &str| folder.join(format!("{rig}.{end}"));
        let work = at("work");
        // A tool that was killed may have left some.
        let _ = fs::remove_dir_all(&work);
        fs::create_dir(&work).map_err(|err| CmdError::io("create", &work, &err))?;
        Ok(Self { note: at("json"), came: at("db"), work, _lock: lock })
    }

    /// Returns the file that what came from there is added up in.
    pub fn came(&self) -> &Path {
        &self.came
    }

    /// Returns a folder for what is needed meanwhile; it goes with this.
    pub fn work(&self) -> &Path {
        &self.work
    }

    /// Notes what is under way.
    pub fn note(&self, away: &RemoteRun) -> Result<(), CmdError> {
        let text = serde_json::to_vec(away).map_err(std::io::Error::from);
        let written = text.and_then(|text| write_whole(&self.note, &text));
        written.map_err(|err| CmdError::io("write", &self.note, &err))
    }

    /// Returns what is noted.
    pub fn noted(&self) -> Option<RemoteRun> {
        read(&self.note)
    }

    /// Forgets it: everything of it is home, or nothing of it ever was anywhere.
    pub fn clear(&self) {
        for path in [&self.note, &self.came] {
            // What stays is looked at again by the next `--resume`, which finds it done.
            let _ = fs::remove_file(path);
        }
    }
}

impl Drop for Files {
    fn drop(&mut self) {
        // The next run on this rig removes it first.
        let _ = fs::remove_dir_all(&self.work);
    }
}

fn read(path: &Path) -> Option<RemoteRun> {
    serde_json::from_slice(&fs::read(path).ok()?).ok()
}

/// Returns every run that is noted as under way on another machine, by rig.
pub fn noted(place: &Place) -> Vec<RemoteRun> {
    let entries = fs::read_dir(place.remote()).into_iter().flatten().flatten();
    let notes = entries
        .map(|entry| entry.path())
        .filter(|path| path.extension().is_some_and(|end| end == "json"));
    let mut all: Vec<RemoteRun> = notes.filter_map(|path| read(&path)).collect();
    all.sort_by(|a, b| a.rig.cmp(&b.rig));
    all
}
