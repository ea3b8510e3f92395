//! `lap export`: the frames of a pass as a plain table, for any other program.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheets::words::count;
use crate::study_file::read_study;
use honest_lap_core::frame::{Cut, Digest};
use honest_lap_core::lap::{LapName, RecordedPass};
use honest_lap_draw::Role;
use honest_lap_logbook::Logbook;
use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::PathBuf;

/// Write the frames of a pass as CSV, which `lap import` reads back to the same figures
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap export wren-1.2 --out rings.csv   the frames that are counted, a row each\n  \
                        lap export wren-1.2 --whole           those that were cut out as well, on standard output\n\n\
                        Columns: frame_time_ns, then what is known of each frame: processor_busy_ns,\n\
                        graphics_busy_ns, call_ns (how long the call took that presented it), mark."
)]
pub struct ExportArgs {
    /// The pass, such as wren-1.2
    #[arg(value_name = "LAP")]
    lap: String,
    /// The file to write; it must not be there yet [default: standard output]
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    /// Write the frames that are cut out too
    #[arg(long)]
    whole: bool,
}

pub fn run(args: &ExportArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let missing = || {
        CmdError::request(
            format!("there is no pass called `{}`", args.lap),
            "`lap frames` lists every pass",
        )
    };
    let name = LapName::parse(&args.lap).ok_or_else(missing)?;
    let recorded = logbook.pass(&name)?.ok_or_else(missing)?;
    let facts = logbook.facts()?;
    let digest: Option<&Digest> = facts.get(&name).and_then(|facts| facts.frames.as_deref());
    let cut = match (digest, args.whole) {
        (Some(digest), false) => digest.cut.clone(),
        _ => Cut::default(),
    };
    let Some(out) = &args.out else {
        let mut bytes = Vec::new();
        write(&recorded, &cut, &mut bytes).map_err(|err| CmdError::output(&err))?;
        ctx.ui.print_raw(&bytes)?;
        return Ok(Exit::Done);
    };
    let path = ctx.folder.join(out);
    let failed = |err: &io::Error| CmdError::io("write", out, err);
    let file = File::create_new(&path).map_err(|err| match err.kind() {
        io::ErrorKind::AlreadyExists => CmdError::request(
            format!("{} is there already, and stays as it is", out.display()),
            "give another name",
        ),
        _ => failed(&err),
    })?;
    let mut file = BufWriter::new(file);
    let written = write(&recorded, &cut, &mut file).and_then(|rows| file.flush().map(|()| rows));
    let rows = written.map_err(|err| {
        // Half a table would be taken for a whole one.
        let _ = std::fs::remove_file(&path);
        failed(&err)
    })?;
    let cut = if cut.is_empty() { String::new() } else { format!("; left out: {cut}") };
    let said = format!("{} written: {}{cut}", out.display(), count(rows, "frame"));
    ctx.ui.say(Role::Plain, &said);
    Ok(Exit::Done)
}

/// Writes the frames that `cut` leaves, a row each, and returns how many; a mark stands beside the
/// first frame behind it.
fn write(recorded: &RecordedPass, cut: &Cut, out: &mut dyn Write) -> io::Result<usize> {
    let (pass, marks) = (&recorded.pass, &recorded.about.marks);
    let series = [
        ("processor_busy_ns", &pass.processor),
        ("graphics_busy_ns", &pass.graphics),
        ("call_ns", &pass.presenting),
    ];
    let known: Vec<_> = series.into_iter().filter(|(_, series)| !series.is_empty()).collect();
    let mut table = csv::Writer::from_writer(out);
    let mut row = vec!["frame_time_ns".to_owned()];
    row.extend(known.iter().map(|(name, _)| (*name).to_owned()));
    if !marks.is_empty() {
        row.push("mark".to_owned());
    }
    table.write_record(&row)?;
    let (mut rows, mut moment) = (0, 0);
    let mut waiting: Vec<&str> = Vec::new();
    for (place, shown) in pass.shown.iter().enumerate() {
        let here = marks.iter().filter(|mark| mark.frame == place as u64);
        waiting.extend(here.map(|mark| mark.name.as_str()));
        let out = cut.leaves_out(honest_lap_core::time::Nanos(moment));
        moment += shown;
        if out {
            continue;
        }
        row.clear();
        row.push(shown.to_string());
        row.extend(known.iter().map(|(_, series)| series[place].to_string()));
        if !marks.is_empty() {
            row.push(waiting.join("; "));
            waiting.clear();
        }
        table.write_record(&row)?;
        rows += 1;
    }
    table.flush()?;
    Ok(rows)
}
