//! `lap read-workbook`: reads a workbook for another `lap`, with little memory and time, behind a hidden command.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheet_file::cells_of;
use rustix::process::{Resource, Rlimit, setrlimit};
use std::io::Read;

/// Print the cells of a workbook on standard input
#[derive(clap::Args, Debug)]
pub struct ReadWorkbookArgs {
    /// The sheet [default: the first that holds anything]
    sheet: Option<String>,
}

/// Bytes of memory: an honest workbook of this size needs a tenth.
const MEMORY: u64 = 1 << 30;
/// Seconds of processor time.
const SECONDS: u64 = 20;

pub fn run(args: &ReadWorkbookArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    let failed = |err: &std::io::Error| CmdError::io("read", "the workbook".as_ref(), err);
    for (resource, most) in [(Resource::As, MEMORY), (Resource::Cpu, SECONDS)] {
        let limit = Rlimit { current: Some(most), maximum: Some(most) };
        setrlimit(resource, limit).map_err(|err| failed(&err.into()))?;
    }
    let mut bytes = Vec::new();
    std::io::stdin().lock().read_to_end(&mut bytes).map_err(|err| failed(&err))?;
    let cells = cells_of(bytes, args.sheet.as_deref());
    let text = serde_json::to_vec(&cells).map_err(|err| failed(&err.into()))?;
    ctx.ui.print_raw(&text)?;
    Ok(Exit::Done)
}
