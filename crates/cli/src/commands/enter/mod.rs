//! `lap enter`: readings made by hand, as people write them, one by one or in the tables that they keep.

mod elsewhere;
mod new_rigs;
mod new_workloads;
mod take;
mod told;
mod tried;

use crate::args::Cli;
use crate::by_hand::known_rigs;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheet_file::read_grid;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::entry::{Form, Grid, Place, Sheet, Wishes, read_sheet};
use honest_lap_core::record::{KindName, TIME};
use honest_lap_core::unit::Date;
use honest_lap_logbook::Logbook;
use std::path::PathBuf;

/// Record readings made by hand: times as people write them, scores, watts; or a table of them
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap enter window-export --rig heron 5:41 5:39 5:44\n  \
                        lap enter window-export --rig heron --with encoder=hardware 3:02.4 3:01.9\n  \
                        lap enter suite --rig wren --measure score 8120 8133 8097 --by Ada --from \"its result page\"\n  \
                        lap enter tunnel --rig wren --failed \"out of memory\"\n  \
                        lap enter --table results.xlsx              a workbook, or CSV, as people keep it\n  \
                        lap enter --table results.csv --column 'Scene 1=dome-still' --unit m:ss --new-rig\n  \
                        lap enter --table results.csv --preview     say how it would be read, and record nothing\n  \
                        lap enter window-export --rig heron --table -    a table pasted on standard input\n  \
                        lap enter layers --rig heron --load 46 --held    a load tried by hand\n  \
                        lap enter --table leaflet.csv --elsewhere \"the maker's leaflet\"    numbers of others, kept apart\n\n\
                        A table has a lap a row (rig, workload, settings, date, time and other measures as columns)\n\
                        or a rig a row and a workload a column. What is on record already is not recorded again.")]
pub struct EnterArgs {
    /// The workload
    #[arg(value_name = "WORKLOAD")]
    workload: Option<String>,
    /// The values, each a lap: 5:41, 0:52.4, 3h20m, 341.2s; or numbers of the measure
    #[arg(value_name = "VALUE")]
    values: Vec<String>,
    /// The rig they were read on
    #[arg(long, value_name = "NAME")]
    rig: Option<String>,
    /// Rigs that neither the study nor the logbook knows are new: they are added to study.toml
    #[arg(long)]
    new_rig: bool,
    /// Columns that the study does not know are new workloads: they are added to study.toml
    #[arg(long, requires = "table")]
    new_workload: bool,
    /// A setting of the variant
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    variant: Vec<(String, String)>,
    /// What was read [default: the time; of a score, its only measure]
    #[arg(long, value_name = "MEASURE")]
    measure: Option<String>,
    /// The day they were measured on [default: today]
    #[arg(long, value_name = "DATE", value_parser = day)]
    on: Option<Date>,
    /// It was tried, and failed for this reason
    #[arg(long, value_name = "REASON", conflicts_with_all = ["values", "table"], requires = "workload")]
    failed: Option<String>,
    /// The load that was tried, where a load is searched for by hand
    #[arg(long, value_name = "LOAD", requires_all = ["workload", "came"], conflicts_with_all = ["values", "table", "failed", "measure"])]
    load: Option<String>,
    /// It held
    #[arg(long, group = "came", requires = "load")]
    held: bool,
    /// It worked, with breaks
    #[arg(long, group = "came", requires = "load")]
    strained: bool,
    /// It did not work
    #[arg(long, group = "came", requires = "load")]
    broke: bool,
    /// Who read them
    #[arg(long, value_name = "NAME")]
    by: Option<String>,
    /// What they were read from
    #[arg(long, value_name = "TEXT")]
    from: Option<String>,
    /// A table: CSV, with semicolons or tabs, .xlsx or .ods; - is standard input
    #[arg(long, value_name = "FILE", conflicts_with = "values")]
    table: Option<PathBuf>,
    /// The sheet of a workbook [default: the first that holds anything]
    #[arg(long, value_name = "NAME", requires = "table")]
    worksheet: Option<String>,
    /// What a column is, by its heading: 'Scene 1=dome-still'; nothing behind = leaves it out
    #[arg(long = "column", value_name = "HEADING=WHAT", value_parser = column, requires = "table")]
    columns: Vec<(String, String)>,
    /// How times are written where no heading says it: s, min, ms, m:ss, h:mm, h:mm:ss
    #[arg(long, value_name = "UNIT", value_parser = form)]
    unit: Option<Form>,
    /// The numbers are of others, from this source: they are added to study.toml, apart from laps
    #[arg(long, value_name = "SOURCE", requires = "table", conflicts_with_all = ["on", "by", "from", "new_rig", "supersede", "further", "sure"])]
    elsewhere: Option<String>,
    /// Where a value is on record otherwise, set that lap aside: it is corrected, or measured again
    #[arg(long)]
    supersede: bool,
    /// Where values are on record already, equal or otherwise, these are further laps
    #[arg(long, conflicts_with = "supersede")]
    further: bool,
    /// Say how everything would be read, and record nothing
    #[arg(long)]
    preview: bool,
    /// Take values that lie ten times off their neighbours without asking
    #[arg(long)]
    sure: bool,
}

pub fn setting(text: &str) -> Result<(String, String), String> {
    let (name, value) =
        text.split_once('=').ok_or("write it as SETTING=VALUE, such as threads=2")?;
    Ok((name.trim().to_owned(), value.trim().to_owned()))
}

fn column(text: &str) -> Result<(String, String), String> {
    // What a column is may hold settings; a heading hardly holds the sign.
    let (heading, what) =
        text.split_once('=').ok_or("write it as HEADING=WHAT, such as 'Scene 1=dome-still'")?;
    Ok((heading.trim().to_owned(), what.trim().to_owned()))
}

fn form(text: &str) -> Result<Form, String> {
    Form::parse(text, &[]).ok_or_else(|| "it is s, min, h, ms, m:ss, h:mm or h:mm:ss".to_owned())
}

fn day(text: &str) -> Result<Date, String> {
    Date::parse(text).map_err(|err| format!("{}; {}", err.problem, err.remedy))
}

pub fn run(args: &EnterArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut open = read_study(cli, ctx)?;
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let today = ctx.today();
    if let Some(on) = args.on.filter(|on| *on > today) {
        return Err(CmdError::request(
            format!("{on} is yet to come"),
            "say the day they were measured on",
        ));
    }
    if let Some(load) = &args.load {
        return tried::record(load, args, &open, existing.as_ref(), ctx);
    }
    let grid = grid(args, &open, ctx)?;
    let new_workloads = new_workloads::offered(&grid, args, &mut open, ctx)?;
    let mut sheet = read(&grid, args, &open, existing.as_ref())?;
    if let Some(why) = &args.failed {
        sheet.entries.iter_mut().for_each(|entry| entry.failed = Some(why.clone()));
    }
    if let Some(late) = sheet.entries.iter().find(|entry| entry.on.is_some_and(|on| on > today)) {
        let (place, day) = (place(args, late.place), late.on.map(|on| on.to_string()));
        let problem =
            format!("{place}: {} is yet to come; nothing was recorded", day.unwrap_or_default());
        return Err(CmdError::request(problem, "say the day it was measured on"));
    }
    told::understood(&sheet, args, ctx);
    if let Some(source) = &args.elsewhere {
        // Its source calls a machine as it likes.
        for rig in &sheet.new_rigs {
            let of = sheet.entries.iter_mut().filter(|entry| entry.rig == rig.name);
            of.for_each(|entry| entry.rig.clone_from(&rig.title));
        }
        return elsewhere::add(&sheet.entries, source, args.preview, &open, ctx);
    }
    if !args.preview && !new_rigs::added(&sheet.new_rigs, args, &open, existing.as_ref(), ctx)? {
        return Ok(Exit::No);
    }
    if let Some(new) = new_workloads.filter(|_| !args.preview) {
        new.written(&open, ctx)?;
    }
    take::take_in(sheet, existing, args, &open, ctx)
}

/// Returns what was typed, or the table.
fn grid(args: &EnterArgs, open: &OpenStudy, ctx: &Ctx) -> Result<Grid, CmdError> {
    match (&args.table, &args.failed) {
        (Some(path), _) => read_grid(path, args.worksheet.as_deref(), ctx),
        (None, Some(_)) => Ok(Grid::column(&measure(args, open)?, &["failed".to_owned()])),
        (None, None) if args.values.is_empty() => Err(CmdError::request(
            "there is no value to record",
            "lap enter WORKLOAD --rig NAME 5:41 5:39 …; or a table: lap enter --table FILE",
        )),
        (None, None) => Ok(Grid::column(&measure(args, open)?, &args.values)),
    }
}

/// Reads it by the study.
fn read(
    grid: &Grid,
    args: &EnterArgs,
    open: &OpenStudy,
    existing: Option<&Logbook>,
) -> Result<Sheet, CmdError> {
    let wishes = Wishes {
        rig: args.rig.clone(),
        workload: args.workload.clone(),
        measure: args.measure.clone(),
        settings: args.variant.clone(),
        on: args.on,
        form: args.unit.clone(),
        called: args.columns.clone(),
        recorded: known_rigs(&open.study, existing)?,
    };
    read_sheet(grid, &open.study, &wishes).map_err(|mistakes| told::mistaken(&mistakes, args))
}

/// Returns the measure that the values of the command line are of.
fn measure(args: &EnterArgs, open: &OpenStudy) -> Result<String, CmdError> {
    let workload = args.workload.as_deref().and_then(|name| open.study.workload(name));
    match (&args.measure, workload) {
        (Some(name), _) => Ok(name.clone()),
        (None, Some(workload)) if workload.task.kind.name() == KindName::Score => {
            let read: Vec<String> =
                workload.task.measures().into_iter().map(|measure| measure.name).collect();
            match read.as_slice() {
                [first, ..] if args.failed.is_some() => Ok(first.clone()),
                [only] => Ok(only.clone()),
                several => Err(CmdError::request(
                    format!("{} has several measures", workload.name),
                    format!("say which was read: --measure {}", several.join(" or --measure ")),
                )),
            }
        }
        (None, _) => Ok(TIME.to_owned()),
    }
}

/// Returns where something stands: the address of its cell, or which of the values it is.
fn place(args: &EnterArgs, place: Place) -> String {
    match args.table {
        Some(_) => place.to_string(),
        None => format!("value {}", place.row),
    }
}
