//! `lap import`: frame-time logs from anywhere, as passes.

use crate::args::{Cli, OutputArgs};
use crate::by_hand::{HandLap, HandSession, known_rig};
use crate::commands::enter::setting;
use crate::ctx::Ctx;
use crate::cutting::CutArgs;
use crate::error::{CmdError, Exit};
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::frame::proposals_of;
use honest_lap_core::record::{
    Cut, Digest, KindName, LapName, Origin, PassAbout, RecordedPass, SessionAbout, Settings,
    Traces, Workload, plain_line,
};
use honest_lap_core::unit::Nanos;
use honest_lap_frame_log::{As, Log, LogError, TimeUnit, Which, Wish, read};
use honest_lap_logbook::Logbook;
use honest_lap_measure::sha256_of;
use honest_lap_view::sheet;
use honest_lap_view::table::Role;
use std::fs::File;
use std::path::{Path, PathBuf};

/// Reading a larger log takes a moment that deserves a word.
const LARGE_BYTES: u64 = 100 << 20;

/// Import frame-time logs, each a pass
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap import rings-*.csv --rig kestrel       each file a pass of the only frames workload\n  \
                        lap import rings.csv --preview             say how it would be read, and take nothing in\n  \
                        lap import rings.txt --rig wren --column 3 --unit us --as moments\n  \
                        lap import rings.csv.gz --rig wren --workload fly-through --from 4.2s --to 1:04\n\n\
                        A table of results that people keep is read by lap enter --table."
)]
pub struct ImportArgs {
    /// The logs: CSV, with semicolons, tabs or blanks; plain, gzip or zstd
    #[arg(required = true, value_name = "FILE")]
    files: Vec<PathBuf>,
    /// The rig they were captured on
    #[arg(long, value_name = "NAME", required_unless_present = "preview")]
    rig: Option<String>,
    /// The rig is a new one, which neither the study nor the logbook knows
    #[arg(long)]
    new_rig: bool,
    /// The workload [default: the only one of kind frames]
    #[arg(long, value_name = "NAME")]
    workload: Option<String>,
    /// A setting of the variant
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    variant: Vec<(String, String)>,
    /// The column of frame times, by number or heading [default: found]
    #[arg(long, value_name = "COLUMN", value_parser = which)]
    column: Option<Which>,
    /// Its unit: s, ms, us or ns [default: found]
    #[arg(long, value_name = "UNIT", value_parser = unit)]
    unit: Option<TimeUnit>,
    /// What its numbers are [default: found]
    #[arg(long = "as", value_enum, value_name = "WHAT")]
    reading: Option<AsArg>,
    /// The column of the processor's busy times [default: found]
    #[arg(long, value_name = "COLUMN", value_parser = which)]
    processor: Option<Which>,
    /// The column of the graphics card's busy times [default: found]
    #[arg(long, value_name = "COLUMN", value_parser = which)]
    graphics: Option<Which>,
    #[command(flatten)]
    cut: CutArgs,
    /// Who captured them
    #[arg(long, value_name = "NAME")]
    by: Option<String>,
    /// Say how each would be read, and take nothing in
    #[arg(long)]
    preview: bool,
    #[command(flatten)]
    output: OutputArgs,
}

/// What the numbers of a column are.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum AsArg {
    /// How long each frame took
    Durations,
    /// When each frame was shown
    Moments,
}

fn which(text: &str) -> Result<Which, String> {
    Ok(Which::parse(text))
}

fn unit(text: &str) -> Result<TimeUnit, String> {
    TimeUnit::from_word(text).ok_or_else(|| "a unit is s, ms, us or ns".to_owned())
}

pub fn run(args: &ImportArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = match (read_study(cli, ctx), args.preview) {
        (Ok(open), _) => Some(open),
        // How a log would be read can be asked anywhere.
        (Err(_), true) if cli.study.is_none() => None,
        (Err(err), _) => return Err(err),
    };
    let workload = open.as_ref().map(|open| workload(args, open)).transpose();
    let workload = if args.preview { workload.ok().flatten() } else { workload? };
    // Every file is read before any of them is imported.
    let mut read = Vec::new();
    for path in &args.files {
        read.push(Read::of(path, args, ctx)?);
    }
    let mut rows: Vec<sheet::Imported> = read.iter().map(Read::row).collect();
    if let (Some(open), Some(workload), false) = (&open, workload, args.preview) {
        let names = write(args, open, workload, read, ctx)?;
        for (row, name) in rows.iter_mut().zip(names) {
            row.lap = Some(name);
        }
    }
    ctx.ui.print(&sheet::imported(&rows), args.output.format)?;
    if !args.preview {
        ctx.ui.say(Role::Quiet, "next: lap frames; lap compare");
    }
    Ok(Exit::Done)
}

/// A log that was read, and what of it is left out.
struct Read {
    name: String,
    log: Log,
    cut: Cut,
    /// The log's checksum, where it is to be imported.
    sum: Option<String>,
}

impl Read {
    fn of(path: &Path, args: &ImportArgs, ctx: &Ctx) -> Result<Self, CmdError> {
        let (log, sum) = read_log(path, args, ctx)?;
        let name = plain_line(&path.display().to_string());
        let cut = args.cut.cut(&log.pass, &log.marks, &name)?;
        Ok(Self { name, log, cut, sum })
    }

    fn row(&self) -> sheet::Imported {
        let frames = &self.log.pass.shown;
        sheet::Imported {
            lap: None,
            log: self.name.clone(),
            read_as: self.log.read_as.clone(),
            frames: frames.len(),
            time: Nanos(frames.iter().sum()),
            faults: self.log.faults,
            marks: self.log.marks.clone(),
            kept: self.log.other.kept.clone(),
            not_kept: self.log.other.not_kept.clone(),
            cut: self.cut.clone(),
            proposals: match self.cut.is_empty() {
                true => proposals_of(&self.log.pass),
                false => Vec::new(),
            },
        }
    }

    /// Returns the pass that it becomes.
    fn recorded(self, workload: &Workload) -> Result<(RecordedPass, Traces), CmdError> {
        let Self { name, log, cut, sum } = self;
        let digest =
            Digest::of(&log.pass, &cut, workload.task.kind.against()).ok_or_else(|| {
                let problem = format!("{name}: nothing would be left of it; nothing was recorded");
                CmdError::request(problem, "leave out less")
            })?;
        let about = PassAbout {
            log: name,
            log_sha256: sum,
            read_as: log.read_as,
            faults: log.faults,
            marks: log.marks,
            also: Vec::new(),
            digest,
        };
        Ok((RecordedPass { about, pass: log.pass }, log.other.traces))
    }
}

/// Returns the workload that the passes are of.
fn workload<'a>(args: &ImportArgs, open: &'a OpenStudy) -> Result<&'a Workload, CmdError> {
    let framed = || open.study.workloads.iter().filter(|w| w.task.kind.name() == KindName::Frames);
    let names = || framed().map(|w| w.name.as_str()).collect::<Vec<_>>().join(", ");
    let no_kind = "a workload for passes has kind = \"frames\"; one that people run has \
                   by_hand = \"fly through the rings\" in place of a command";
    match &args.workload {
        Some(name) => match open.study.workload(name) {
            Some(workload) if workload.task.kind.name() == KindName::Frames => Ok(workload),
            Some(_) => Err(CmdError::request(format!("workload {name} is not of frames"), no_kind)),
            None => Err(CmdError::request(
                format!("the study has no workload `{name}`"),
                match names() {
                    names if names.is_empty() => no_kind.to_owned(),
                    names => format!("its workloads of frames are: {names}"),
                },
            )),
        },
        None => match (framed().next(), framed().nth(1)) {
            (Some(only), None) => Ok(only),
            (None, _) => Err(CmdError::request("the study has no workload of frames", no_kind)),
            _ => Err(CmdError::request(
                "the study has several workloads of frames",
                format!("say which: --workload NAME, of {}", names()),
            )),
        },
    }
}

/// Returns a log, and its checksum where it is to be imported.
fn read_log(path: &Path, args: &ImportArgs, ctx: &Ctx) -> Result<(Log, Option<String>), CmdError> {
    let whole = ctx.folder.join(path);
    let failed = |err: &std::io::Error| CmdError::io("read", path, err);
    let file = File::open(&whole).map_err(|err| failed(&err))?;
    let size = file.metadata().map_err(|err| failed(&err))?;
    if size.is_dir() {
        return Err(CmdError::request(
            format!("{} is a folder", path.display()),
            format!("name the logs in it: {}/*.csv", path.display()),
        ));
    }
    if size.len() > LARGE_BYTES {
        let line = format!("reading {} ({} MB)", path.display(), size.len() >> 20);
        ctx.ui.say(Role::Quiet, &line);
    }
    let wish = Wish {
        column: args.column.clone(),
        unit: args.unit,
        reading: args.reading.map(|reading| match reading {
            AsArg::Durations => As::Durations,
            AsArg::Moments => As::Moments,
        }),
        processor: args.processor.clone(),
        graphics: args.graphics.clone(),
    };
    let log = read(&file, &wish).map_err(|err| match &err {
        LogError::Io { source } => failed(source),
        _ => {
            let taken = if args.preview { "" } else { "; nothing was recorded" };
            let help = err.help().unwrap_or("is it the right file?").to_owned();
            CmdError::request(format!("{}: {err}{taken}", path.display()), help)
        }
    })?;
    let sum = match args.preview {
        true => None,
        false => Some(sha256_of(&whole).map_err(|err| failed(&err))?),
    };
    Ok((log, sum))
}

/// Writes a session of passes and returns their names.
fn write(
    args: &ImportArgs,
    open: &OpenStudy,
    workload: &Workload,
    read: Vec<Read>,
    ctx: &Ctx,
) -> Result<Vec<LapName>, CmdError> {
    let settings = variant(args, workload)?;
    let rig = args.rig.as_deref().unwrap_or_default();
    let existing = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    known_rig(rig, args.new_rig, &open.study, existing.as_ref())?;
    let known = existing.as_ref().map(Logbook::logs).transpose()?.unwrap_or_default();
    for (place, log) in read.iter().enumerate() {
        let here = known.iter().find(|(sum, _)| log.sum.as_ref() == Some(sum));
        let twice = read[..place].iter().find(|other| other.sum == log.sum);
        let taken = match (here, twice) {
            (Some((_, lap)), _) => format!("is in the logbook already, as {lap}"),
            (None, Some(other)) => format!("is the same log as {}", other.name),
            (None, None) => continue,
        };
        return Err(CmdError::request(
            format!("{} {taken}; nothing was recorded", log.name),
            "a pass counts once: leave it away",
        ));
    }
    drop(existing);
    let passes: Result<Vec<_>, _> = read.into_iter().map(|log| log.recorded(workload)).collect();
    let passes = passes?;
    let mut logbook = open.logbook_to_write(ctx)?;
    let about = SessionAbout {
        origin: Origin::Imported,
        reader: args.by.clone(),
        ..SessionAbout::default()
    };
    let laps: Vec<HandLap<'_>> =
        passes.into_iter().map(|pass| HandLap::captured(workload, &settings, pass, ctx)).collect();
    let session = HandSession::record(&mut logbook, rig, &about, &laps, ctx)?;
    Ok(session.laps().collect())
}

/// Returns the variant that was named, which must be one of the workload's.
fn variant(args: &ImportArgs, workload: &Workload) -> Result<Settings, CmdError> {
    let variants = workload.variants();
    let wanted = Settings::new(args.variant.clone());
    variants.iter().find(|&settings| *settings == wanted).cloned().ok_or_else(|| {
        let known: Vec<String> =
            variants.iter().map(|settings| format!("--with {settings}")).collect();
        CmdError::request(
            format!("that is no variant of {}; nothing was recorded", workload.name),
            format!("its variants are: {}", known.join("; ").replace(", ", " --with ")),
        )
    })
}
