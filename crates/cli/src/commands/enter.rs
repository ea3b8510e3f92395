//! `lap enter`: readings made by hand, as people write them.

use crate::args::Cli;
use crate::by_hand::{HandLap, HandSession, known_rig};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::hand_table::read_table;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::entry::{Common, Entry, EntryError, Slip, entries, slips};
use honest_lap_core::record::{KindName, LapHead, Origin, SessionAbout, TIME};
use honest_lap_logbook::Logbook;
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, measured};
use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;

/// Import readings made by hand: times as people write them, scores, watts
#[derive(clap::Args, Debug)]
#[command(after_help = "Examples:\n  lap enter window-export --rig heron 5:41 5:39 5:44\n  \
                        lap enter window-export --rig heron --with encoder=hardware 3:02.4 3:01.9\n  \
                        lap enter suite --rig wren --measure score 8120 8133 8097 --by Ada --from \"its result page\"\n  \
                        lap enter --table laps.csv              a heading line: rig, workload, time, …\n  \
                        lap enter window-export --rig heron --table -    a table pasted on standard input")]
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
    /// The rig is a new one, which neither the study nor the logbook knows
    #[arg(long, requires = "rig")]
    new_rig: bool,
    /// A setting of the variant
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    variant: Vec<(String, String)>,
    /// What was read [default: the time; of a score, its only measure]
    #[arg(long, value_name = "MEASURE")]
    measure: Option<String>,
    /// Who read them
    #[arg(long, value_name = "NAME")]
    by: Option<String>,
    /// What they were read from
    #[arg(long, value_name = "TEXT")]
    from: Option<String>,
    /// A table with a heading line, as CSV, with semicolons or tabs; - is standard input
    #[arg(long, value_name = "FILE", conflicts_with = "values")]
    table: Option<PathBuf>,
    /// Take values that lie ten times off their neighbours without asking
    #[arg(long)]
    sure: bool,
}

pub fn setting(text: &str) -> Result<(String, String), String> {
    let (name, value) =
        text.split_once('=').ok_or("write it as SETTING=VALUE, such as threads=2")?;
    Ok((name.trim().to_owned(), value.trim().to_owned()))
}

pub fn run(args: &EnterArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let (headings, rows) = match &args.table {
        Some(path) => read_table(path, ctx)?,
        None => column(args, &open)?,
    };
    let common = Common {
        rig: args.rig.clone(),
        workload: args.workload.clone(),
        settings: args.variant.clone(),
    };
    let read = entries(&open.study, &headings, &rows, &common).map_err(|err| told(&err))?;
    let how = TakeIn {
        new_rig: args.new_rig,
        by: args.by.clone(),
        from: args.from.clone(),
        sure: args.sure,
    };
    take_in(&read, existing, &how, &open, ctx)
}

/// How readings made by hand are imported.
pub struct TakeIn {
    /// Rigs that nobody knows yet are new ones.
    pub new_rig: bool,
    /// Who read them.
    pub by: Option<String>,
    /// What they were read from.
    pub from: Option<String>,
    /// Values far off their neighbours are right.
    pub sure: bool,
}

/// Takes `read` in, a session for every rig, once what looks slipped is confirmed.
pub fn take_in(
    read: &[Entry],
    existing: Option<Logbook>,
    how: &TakeIn,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    // Once for each rig: a table may have thousands of rows.
    for rig in read.iter().map(|entry| &entry.rig).collect::<BTreeSet<_>>() {
        known_rig(rig, how.new_rig, &open.study, existing.as_ref())?;
    }
    let laps: Vec<LapHead> = match &existing {
        Some(logbook) => logbook.laps()?,
        None => Vec::new(),
    };
    drop(existing);
    let slipped = slips(read, &laps);
    if !slipped.is_empty() && !how.sure && !confirmed(&slipped, ctx)? {
        return Ok(Exit::No);
    }
    write(how, open, read, ctx)?;
    Ok(Exit::Done)
}

/// Returns the error of a table in which something is wrong.
pub fn told(err: &EntryError) -> CmdError {
    CmdError::request(format!("{err}; nothing was recorded"), err.remedy.clone())
}

/// Returns the values of the command line as a table of one column.
fn column(args: &EnterArgs, open: &OpenStudy) -> Result<(Vec<String>, Vec<Vec<String>>), CmdError> {
    if args.values.is_empty() {
        return Err(CmdError::request(
            "there is no value to import",
            "lap enter WORKLOAD --rig NAME 5:41 5:39 …; or a table: lap enter --table FILE",
        ));
    }
    let workload = args.workload.as_deref().and_then(|name| open.study.workload(name));
    let measure = match (&args.measure, workload) {
        (Some(name), _) => name.clone(),
        (None, Some(workload)) if workload.task.kind.name() == KindName::Score => {
            let read: Vec<String> =
                workload.task.measures().into_iter().map(|measure| measure.name).collect();
            match read.as_slice() {
                [only] => only.clone(),
                several => {
                    return Err(CmdError::request(
                        format!("{} has several measures", workload.name),
                        format!("say which was read: --measure {}", several.join(" or --measure ")),
                    ));
                }
            }
        }
        (None, _) => TIME.to_owned(),
    };
    Ok((vec![measure], args.values.iter().map(|value| vec![value.clone()]).collect()))
}

/// Asks about values far off their neighbours; without a terminal to ask at, the answer is no.
fn confirmed(slipped: &[Slip], ctx: &Ctx) -> Result<bool, CmdError> {
    for slip in slipped {
        let (value, usual) = (measured(slip.value, &slip.unit), measured(slip.usual, &slip.unit));
        let times =
            if slip.value > slip.usual { slip.value / slip.usual } else { slip.usual / slip.value };
        let line = format!(
            "row {}, {}: {value} is {times:.0} times off its neighbours, which lie about {usual}",
            slip.row, slip.measure
        );
        ctx.ui.say_labelled("question", Role::Open, &line);
    }
    let asked = ctx.ui.agreed("is that right?").map_err(|err| CmdError::output(&err))?;
    let yes = asked.ok_or_else(|| {
        CmdError::request(
            "has a digit slipped? Nothing was recorded",
            "correct it, or confirm it with --sure",
        )
    })?;
    if !yes {
        ctx.ui.say(Role::Plain, "nothing was recorded");
    }
    Ok(yes)
}

/// Writes a session for every rig, each row a lap of it.
fn write<'r>(
    how: &TakeIn,
    open: &'r OpenStudy,
    read: &'r [Entry],
    ctx: &Ctx,
) -> Result<(), CmdError> {
    let mut by_rig: BTreeMap<&str, Vec<&Entry>> = BTreeMap::new();
    for entry in read {
        by_rig.entry(&entry.rig).or_default().push(entry);
    }
    let mut logbook = open.logbook_to_write(ctx)?;
    for (rig, entries) in by_rig {
        let about = SessionAbout {
            origin: Origin::Entered,
            reader: how.by.clone(),
            source: how.from.clone(),
            ..SessionAbout::default()
        };
        let lap = |entry: &&'r Entry| {
            let workload = open.study.workload(&entry.workload).expect("its table was checked");
            let (time, readings) = (entry.time, entry.readings.clone());
            HandLap::read(workload, &entry.settings, time, readings, ctx)
        };
        let laps: Vec<HandLap<'_>> = entries.iter().map(lap).collect();
        let session = HandSession::record(&mut logbook, rig, &about, &laps, ctx)?;
        let laps = count(entries.len(), "lap");
        ctx.ui.say(Role::Plain, &format!("{}: {laps} imported", session.name()));
    }
    ctx.ui.say(Role::Quiet, "next: lap compare");
    Ok(())
}
