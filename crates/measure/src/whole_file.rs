//! Files that are there whole or not at all: what was there before stays until the new one is complete.

use std::fs::Permissions;
use std::io;
use std::io::Write;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;
use tempfile::Builder;

/// Replaces the file at `path` with `bytes`; a link that is there is replaced and not followed.
pub fn write_whole(path: &Path, bytes: &[u8]) -> io::Result<()> {
    replace(path, bytes, true)
}

/// Like [`write_whole`], for what need not outlive the system: it waits for no disk.
pub(crate) fn write_for_now(path: &Path, bytes: &[u8]) -> io::Result<()> {
    replace(path, bytes, false)
}

fn replace(path: &Path, bytes: &[u8], durable: bool) -> io::Result<()> {
    let name = path.file_name().ok_or(io::ErrorKind::IsADirectory)?;
    // Relative names without a folder lie in the current one.
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty());
    let mut part = Builder::new()
        .prefix(&format!(".{}.", name.to_string_lossy()))
        .suffix(".part")
        // As any other new file: the system's mask decides who may read it.
        .permissions(Permissions::from_mode(0o666))
        .tempfile_in(folder.unwrap_or(Path::new(".")))?;
    part.write_all(bytes)?;
    if durable {
        part.as_file().sync_all()?;
    }
    // What is not put in its place is removed: half a file would be taken for a whole one.
    part.persist(path).map_err(|err| err.error)?;
    Ok(())
}
