//! Tables that people keep, read from their files: CSV, with semicolons or tabs; workbooks of spreadsheets.

mod delimited;
mod shown;
mod workbook;
mod wrong;

pub use workbook::cells_of;

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::entry::Grid;
use honest_lap_view::table::Role;
use std::fs::File;
use std::io::{IsTerminal, Read};
use std::path::Path;

/// A file larger than this holds no table that was read by hand.
const MOST_BYTES: u64 = 8 << 20;
/// How every workbook begins: both kinds are archives.
const ARCHIVE: &[u8] = b"PK\x03\x04";

/// Returns the table in a file; - is standard input. Of a workbook it is the sheet called `worksheet`, or the first.
pub fn read_grid(path: &Path, worksheet: Option<&str>, ctx: &Ctx) -> Result<Grid, CmdError> {
    let failed = |err: &std::io::Error| CmdError::io("read", path, err);
    let wrong = |problem: &str, help: &str| {
        CmdError::request(format!("{}: {problem}; nothing was recorded", path.display()), help)
    };
    let mut bytes = Vec::new();
    if path.as_os_str() == "-" {
        let stdin = std::io::stdin();
        if stdin.is_terminal() {
            ctx.ui.say(Role::Quiet, "paste the table, its headings first; Ctrl-D ends it");
        }
        stdin.lock().take(MOST_BYTES + 1).read_to_end(&mut bytes).map_err(|e| failed(&e))?;
    } else {
        let whole = ctx.folder.join(path);
        let about = std::fs::metadata(&whole).map_err(|err| failed(&err))?;
        if !about.is_file() {
            return Err(wrong(
                "not a plain file",
                "save the table as a file, or paste it: --table -",
            ));
        }
        let file = File::open(whole).map_err(|err| failed(&err))?;
        file.take(MOST_BYTES + 1).read_to_end(&mut bytes).map_err(|err| failed(&err))?;
    }
    if bytes.len() as u64 > MOST_BYTES {
        return Err(wrong("larger than a table read by hand", "is it the right file?"));
    }
    let rows = match (bytes.starts_with(ARCHIVE), worksheet) {
        (true, name) => workbook::read(&bytes, name, ctx),
        (false, None) => delimited::read(bytes),
        (false, Some(_)) => {
            return Err(wrong("no workbook, and has no sheets", "leave --worksheet out"));
        }
    };
    rows.map(Grid::new).map_err(|(problem, help)| wrong(&problem, &help))
}
