//! Files that are there whole or not at all: what was there before stays until the new one is complete.

use crate::error::CmdError;
use std::path::Path;

/// Replaces `path`, in `folder` where it is relative, with `bytes`.
pub fn write_whole(folder: &Path, path: &Path, bytes: &[u8]) -> Result<(), CmdError> {
    let failed = |err: &std::io::Error| CmdError::io("write", path, err);
    let whole = folder.join(path);
    let Some(name) = whole.file_name() else {
        return Err(CmdError::request(
            format!("{} is no name of a file", path.display()),
            "name a file: --out report.html",
        ));
    };
    let part = whole.with_file_name(format!(".{}.part", name.to_string_lossy()));
    let written = std::fs::write(&part, bytes).and_then(|()| std::fs::rename(&part, &whole));
    written.map_err(|err| {
        // Half a file would be taken for a whole one.
        let _ = std::fs::remove_file(&part);
        failed(&err)
    })
}
