//! Files that are there whole or not at all: what was there before stays until the new one is complete.

use crate::error::CmdError;
use std::fs::Permissions;
use std::io::Write;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use tempfile::Builder;

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
    // Relative names without a folder lie in the current one.
    let folder = whole.parent().filter(|folder| !folder.as_os_str().is_empty());
    let replaced = Builder::new()
        .prefix(&format!(".{}.", name.to_string_lossy()))
        .suffix(".part")
        // As any other new file: the system's mask decides who may read it.
        .permissions(Permissions::from_mode(0o666))
        .tempfile_in(folder.unwrap_or(Path::new(".")))
        .and_then(|mut part| {
            part.write_all(bytes)?;
            part.as_file().sync_all()?;
            // What is not put in its place is removed: half a file would be taken for a whole one.
            part.persist(&whole).map_err(|err| err.error)
        });
    replaced.map(drop).map_err(|err| failed(&err))
}
