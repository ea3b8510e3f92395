//! Workbooks of spreadsheets. They are read in a process of its own, with little memory and time: an archive may unpack
//! to anything, and a few words in it may stand for a table of any size.

use super::shown::shown;
use super::wrong::Wrong;
use crate::ctx::Ctx;
use calamine::{Data, Ods, Reader, Xlsx};
use std::io::{Cursor, Write};
use std::process::{Command, Stdio};

/// Cells of the largest table that is taken for one that was read by hand.
const MOST_CELLS: usize = 1_000_000;

const HELP: &str = "save the sheet as CSV, and import that";

/// Returns the cells of a workbook's sheet, read by a process of its own.
pub(super) fn read(
    bytes: &[u8],
    sheet: Option<&str>,
    ctx: &Ctx,
) -> Result<Vec<Vec<String>>, Wrong> {
    let cannot = |why: String| (format!("the workbook cannot be read: {why}"), HELP.to_owned());
    let tool = ctx.tool().map_err(|_| cannot("lap cannot find itself".to_owned()))?;
    let mut command = Command::new(tool);
    command.arg("read-workbook").args(sheet);
    command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
    let mut child = command.spawn().map_err(|err| cannot(err.to_string()))?;
    let mut input = child.stdin.take().expect("it was asked for");
    // A child that has seen enough closes its input; what it says of that follows.
    let _ = input.write_all(bytes);
    drop(input);
    let came = child.wait_with_output().map_err(|err| cannot(err.to_string()))?;
    let told: Option<Result<Vec<Vec<String>>, String>> = serde_json::from_slice(&came.stdout).ok();
    match told.filter(|_| came.status.success()) {
        Some(cells) => cells.map_err(cannot),
        None => Err(cannot("it unpacks to more than a table read by hand".to_owned())),
    }
}

/// Returns the cells of the sheet called `wanted`, or of the first one that holds anything, as they are shown.
pub fn cells_of(bytes: Vec<u8>, wanted: Option<&str>) -> Result<Vec<Vec<String>>, String> {
    // Open documents say what they are; whatever else is an archive is tried as the other kind.
    match Ods::new(Cursor::new(&bytes)) {
        Ok(book) => cells_in(book, wanted),
        Err(_) => cells_in(Xlsx::new(Cursor::new(&bytes)).map_err(|err| err.to_string())?, wanted),
    }
}

fn cells_in<'b, B>(mut book: B, wanted: Option<&str>) -> Result<Vec<Vec<String>>, String>
where
    B: Reader<Cursor<&'b Vec<u8>>>,
    B::Error: ToString,
{
    let names = book.sheet_names();
    if let Some(unknown) = wanted.filter(|name| !names.iter().any(|known| known == name)) {
        return Err(format!("it has no sheet `{unknown}`; it has: {}", names.join(", ")));
    }
    for name in names.iter().filter(|name| wanted.is_none_or(|wanted| wanted == *name)) {
        let range = book.worksheet_range(name).map_err(|err| err.to_string())?;
        if range.is_empty() && wanted.is_none() {
            continue;
        }
        if range.width().saturating_mul(range.height()) > MOST_CELLS {
            return Err(format!("its sheet `{name}` is larger than a table read by hand"));
        }
        // Cells keep their addresses: what is left out ahead of the first stands there, empty.
        let (top, left) = range.start().unwrap_or_default();
        let empty = std::iter::repeat_n(Vec::new(), top as usize);
        let row = |row: &[Data]| -> Vec<String> {
            let ahead = std::iter::repeat_n(String::new(), left as usize);
            ahead.chain(row.iter().map(shown)).collect()
        };
        return Ok(empty.chain(range.rows().map(row)).collect());
    }
    Err("none of its sheets holds anything".to_owned())
}
