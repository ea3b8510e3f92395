//! Files that are written for the user: whole or not at all.

use crate::error::CmdError;
use honest_lap_measure::Part;
use std::io::{self, Write};
use std::path::Path;

/// Writes `bytes` to `path`, where nothing may be.
pub fn write_new(path: &Path, bytes: &[u8]) -> io::Result<()> {
    let mut part = Part::of(path)?;
    part.file().write_all(bytes)?;
    part.put_new()
}

/// Replaces `path`, in `folder` where it is relative, with `bytes`.
pub fn write_whole(folder: &Path, path: &Path, bytes: &[u8]) -> Result<(), CmdError> {
    let whole = folder.join(path);
    if whole.file_name().is_none() {
        return Err(CmdError::request(
            format!("{} is no name of a file", path.display()),
            "name a file: --out report.html",
        ));
    }
    let written = honest_lap_measure::write_whole(&whole, bytes);
    written.map_err(|err| CmdError::io("write", path, &err))
}
