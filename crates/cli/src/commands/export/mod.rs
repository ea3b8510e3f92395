//! `lap export`: what was recorded and what it comes to, as plain tables for any other program.

mod lake;
mod pass;
mod sums;
mod table;
mod wide;

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::study_file::read_study;
use crate::working::Working;
use honest_lap_core::record::LapName;
use honest_lap_logbook::exchange::{Form, rows};
use honest_lap_measure::Part;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;

use std::io::{self, BufWriter, IsTerminal, Write};
use std::path::{Path, PathBuf};
use table::Table;

/// Write laps, readings, sums, conditions, frames or repeats as CSV, JSON Lines or Parquet
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap export laps --out laps.csv               every lap, a row each\n  \
                        lap export frames --out frames.parquet       every frame of every pass\n  \
                        lap export sums --format json-lines            typical values and verdicts, on standard output\n  \
                        lap export --sheet --out sheet.csv           a row a rig, a column a workload\n  \
                        lap export lake --out lake                   a folder of Parquet that grows by new files only\n  \
                        lap export wren-1.2 --out rings.csv          the counted frames of one pass, which `lap import` reads back\n\n\
                        Tables: laps, readings, sums, conditions, frames, repeats; docs/formats/export.md has their columns."
)]
pub struct ExportArgs {
    /// A table: laps, readings, sums, conditions, frames, repeats; a pass, such as wren-1.2; or `lake`: all that grows
    #[arg(value_name = "WHAT", required_unless_present = "sheet")]
    what: Option<String>,
    /// One wide table of typical values: a row a rig, a column a workload, as people keep them
    #[arg(long, conflicts_with = "what")]
    sheet: bool,
    /// The form [default: as the file's name ends, else csv]
    #[arg(long = "format", value_enum, value_name = "FORM")]
    form: Option<FormArg>,
    /// The file to write, which must not be there yet [default: standard output]; the folder of a lake
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    /// Of one pass, write the frames that are cut out too
    #[arg(long)]
    whole: bool,
    #[command(flatten)]
    source: SourceArgs,
}

/// What names a folder of tables that grows.
const LAKE: &str = "lake";

/// A form of tables.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum FormArg {
    /// Comma-separated values with a heading line
    Csv,
    /// A JSON object a line
    JsonLines,
    /// Apache Parquet
    Parquet,
}

/// What writes a table, and how many rows it wrote.
type Writes<'a> = &'a mut dyn FnMut(Box<dyn Write + Send + '_>) -> Result<usize, CmdError>;

pub fn run(args: &ExportArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let is_lake = args.what.as_deref() == Some(LAKE);
    let form = if is_lake { Form::Parquet } else { form(args)? };
    let open = read_study(cli, ctx)?;
    let logbook = args.source.open(&open)?;
    let what = args.what.as_deref().unwrap_or_default();
    if args.sheet {
        let table = wide::wide(&open, &logbook, ctx)?;
        let mut write = |out: Box<dyn Write + Send + '_>| all(&table, form, out);
        return written(args, "rig", &mut write, ctx);
    }
    if what == LAKE {
        let out = args.out.as_ref().ok_or_else(|| {
            CmdError::request(
                "a lake is a folder, and none is named",
                "name it: lap export lake --out DIR",
            )
        })?;
        let _working = Working::on("writing what the lake lacks");
        return lake::lake(&open, &logbook, &ctx.folder.join(out), ctx);
    }
    if let Some(table) = Table::named(what) {
        let mut write = |out: Box<dyn Write + Send + '_>| {
            let columns = table.columns();
            let mut to = rows(form, &columns, out).map_err(|err| CmdError::output(&err))?;
            let rows = table.rows(&open, &logbook, &logbook.laps()?, ctx, &mut *to)?;
            to.end().map_err(|err| CmdError::output(&err))?;
            Ok(rows)
        };
        return written(args, "row", &mut write, ctx);
    }
    let missing = || {
        CmdError::request(
            format!("there is no table and no pass called `{what}`"),
            "tables are laps, readings, sums, conditions, frames and repeats; `lap frames` lists every pass",
        )
    };
    if form != Form::Csv {
        return Err(CmdError::request(
            "the frames of one pass are written as CSV, which `lap import` reads back",
            "lap export frames writes those of every pass in any form",
        ));
    }
    let name = LapName::parse(what).ok_or_else(missing)?;
    let pass = pass::Pass::read(&name, args.whole, &logbook)?.ok_or_else(missing)?;
    let mut write = |mut out: Box<dyn Write + Send + '_>| {
        pass.write(&mut out).map_err(|err| CmdError::output(&err))
    };
    let exit = written(args, "frame", &mut write, ctx)?;
    if args.out.is_some() && !pass.cut.is_empty() {
        ctx.ui.say(Role::Plain, &format!("left out: {}", pass.cut));
    }
    Ok(exit)
}

/// Returns the form that is asked for; a file's name says it where nothing else does.
fn form(args: &ExportArgs) -> Result<Form, CmdError> {
    let ending = |path: &Path| path.extension().and_then(|e| e.to_str()).map(str::to_owned);
    let by_name = args.out.as_deref().and_then(ending);
    let form = match (args.form, by_name.as_deref()) {
        (Some(FormArg::Csv), _) | (None, Some("csv") | None) => Form::Csv,
        (Some(FormArg::JsonLines), _) | (None, Some("jsonl" | "ndjson")) => Form::JsonLines,
        (Some(FormArg::Parquet), _) | (None, Some("parquet")) => Form::Parquet,
        (None, Some(other)) => {
            return Err(CmdError::request(
                format!("`.{other}` is no form that a table is written in"),
                "end the name in .csv, .jsonl or .parquet, or say --format",
            ));
        }
    };
    if form == Form::Parquet && args.out.is_none() && io::stdout().is_terminal() {
        return Err(CmdError::request(
            "Parquet is nothing that a terminal can show",
            "name a file: --out frames.parquet",
        ));
    }
    Ok(form)
}

/// Writes a whole table that is small enough to be held.
fn all(table: &wide::Wide, form: Form, out: Box<dyn Write + Send + '_>) -> Result<usize, CmdError> {
    let failed = |err: io::Error| CmdError::output(&err);
    let mut to = rows(form, &table.columns, out).map_err(failed)?;
    for row in &table.rows {
        to.row(row).map_err(failed)?;
    }
    to.end().map_err(failed)?;
    Ok(table.rows.len())
}

/// Writes to the file that was named, or to standard output.
fn written(args: &ExportArgs, of: &str, write: Writes<'_>, ctx: &Ctx) -> Result<Exit, CmdError> {
    let Some(out) = &args.out else {
        write(ctx.ui.stream())?;
        return Ok(Exit::Done);
    };
    let path = ctx.folder.join(out);
    let failed = |err: io::Error| match err.kind() {
        io::ErrorKind::AlreadyExists => CmdError::request(
            format!("{} is there already, and stays as it is", out.display()),
            "give another name",
        ),
        _ => CmdError::io("write", out, &err),
    };
    // Said before anything is read, and held to at the end.
    if path.symlink_metadata().is_ok() {
        return Err(failed(io::ErrorKind::AlreadyExists.into()));
    }
    let mut part = Part::of(&path).map_err(failed)?;
    let rows = write(Box::new(BufWriter::new(part.file())))?;
    part.put_new().map_err(failed)?;
    ctx.ui.say(Role::Plain, &format!("{} written: {}", out.display(), count(rows, of)));
    Ok(Exit::Done)
}
