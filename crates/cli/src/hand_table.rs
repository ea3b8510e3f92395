//! Tables that people keep: CSV, with semicolons or tabs, a heading line first.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_view::table::Role;
use std::io::{IsTerminal, Read};
use std::path::Path;

/// A table larger than this is not one that was read by hand.
const MOST_TABLE_BYTES: u64 = 4 << 20;

/// Returns headings and rows of a table; - is standard input.
pub fn read_table(path: &Path, ctx: &Ctx) -> Result<(Vec<String>, Vec<Vec<String>>), CmdError> {
    let failed = |err: &std::io::Error| CmdError::io("read", path, err);
    let mut bytes = Vec::new();
    if path.as_os_str() == "-" {
        let stdin = std::io::stdin();
        if stdin.is_terminal() {
            ctx.ui.say(Role::Quiet, "paste the table, its headings first; Ctrl-D ends it");
        }
        stdin.lock().take(MOST_TABLE_BYTES + 1).read_to_end(&mut bytes).map_err(|e| failed(&e))?;
    } else {
        let file = std::fs::File::open(ctx.folder.join(path)).map_err(|err| failed(&err))?;
        file.take(MOST_TABLE_BYTES + 1).read_to_end(&mut bytes).map_err(|err| failed(&err))?;
    }
    let wrong = |problem: String, help: &str| {
        CmdError::request(format!("{}: {problem}; nothing was recorded", path.display()), help)
    };
    if bytes.len() as u64 > MOST_TABLE_BYTES {
        return Err(wrong("larger than a table read by hand".into(), "is it the right file?"));
    }
    let text = String::from_utf8(bytes)
        .map_err(|_| wrong("not valid UTF-8".into(), "save it as UTF-8 text"))?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(&text);
    let first = text.lines().find(|line| !line.trim().is_empty()).unwrap_or_default();
    // Pasted from a spreadsheet it has tabs; a comma may be a decimal one where semicolons divide.
    let delimiter = [b'\t', b';', b','].into_iter().find(|&d| first.contains(char::from(d)));
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter.unwrap_or(b','))
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let cells = |record: &csv::StringRecord| record.iter().map(str::to_owned).collect::<Vec<_>>();
    let bad = |err: csv::Error| wrong(err.to_string(), "give every row a cell for every heading");
    let headings = cells(reader.headers().map_err(bad)?);
    let rows: Result<Vec<_>, _> = reader.records().map(|row| row.map(|row| cells(&row))).collect();
    Ok((headings, rows.map_err(bad)?))
}
