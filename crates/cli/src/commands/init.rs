//! `lap init`: a commented study that runs as it stands, of the kind of work that is asked for.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::sheet_file::read_grid;
use crate::study_file::STUDY_FILE;
use crate::whole_file::{write_new, write_whole};
use honest_lap_core::entry::draft;
use honest_lap_study::{drafted_text, keys};
use std::io::ErrorKind;
use std::path::{Path, PathBuf};

/// Write a commented study.toml that runs as it stands
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap init                         in this folder\n  lap init my-study                in a folder of its own\n  \
                        lap init --for game rings        for frame times\n  \
                        lap init --for sheet results.xlsx    of a table: its columns are workloads, its rows rigs\n  \
                        lap init --schema                for a study that is there: what editors check it by"
)]
pub struct InitArgs {
    /// The folder to write it into; of a sheet, the table
    #[arg(default_value = ".", value_name = "DIR")]
    dir: PathBuf,
    /// The kind of work
    #[arg(long = "for", value_enum, default_value_t = Work::Task, value_name = "WORK")]
    work: Work,
    /// Write only the schema that editors check a study by, for one that is there
    #[arg(long, conflicts_with = "work")]
    schema: bool,
}

/// Where the schema lies, seen from the study's folder.
const SCHEMA: &str = ".lap/study.schema.json";

/// A kind of work that a study is written for.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum Work {
    /// Any task of a program
    Task,
    /// Renders of stills
    Render,
    /// Video exports
    Export,
    /// Builds, and gates in CI
    Compile,
    /// Frame times of games
    Game,
    /// Videos that must not drop frames
    Playback,
    /// Scores that a program prints, or that are typed in
    Scores,
    /// Heat and battery: the same work for an hour
    Battery,
    /// Work that only eyes can time
    ByHand,
    /// A table that is kept already
    Sheet,
}

impl Work {
    /// Returns the study, and what is done with it next.
    fn study(self) -> (&'static str, &'static str) {
        const RUN: &str = "  lap run --preview   what would be run, and in which order\n  \
                           lap run             run the laps\n  lap compare         compare rigs\n";
        const FRAMES: &str = "  lap run             run the passes\n  lap frames          rate, lows and hitches\n  \
                              lap compare         compare rigs\n";
        const HAND: &str = "  lap clock window-export --rig heron --with encoder=hardware    a stopwatch\n  \
                            lap enter window-export --rig heron --with encoder=hardware 5:41 5:39 5:44\n  \
                            lap compare\n";
        match self {
            Self::Task => (include_str!("../../templates/kinds/task.toml"), RUN),
            Self::Render => (include_str!("../../templates/kinds/render.toml"), RUN),
            Self::Export => (include_str!("../../templates/kinds/export.toml"), RUN),
            Self::Compile => (include_str!("../../templates/kinds/compile.toml"), RUN),
            Self::Game => (include_str!("../../templates/kinds/game.toml"), FRAMES),
            Self::Playback => (include_str!("../../templates/kinds/playback.toml"), FRAMES),
            Self::Scores => (include_str!("../../templates/kinds/scores.toml"), RUN),
            Self::Battery => (include_str!("../../templates/kinds/battery.toml"), RUN),
            Self::ByHand | Self::Sheet => {
                (include_str!("../../templates/kinds/by-hand.toml"), HAND)
            }
        }
    }
}

pub fn run(args: &InitArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.schema {
        return add_schema(&args.dir, ctx);
    }
    if args.work == Work::Sheet {
        return of_sheet(&args.dir, ctx);
    }
    let (text, next) = args.work.study();
    write(&args.dir, text, "; it runs as it stands", next, ctx)
}

/// Writes the schema for a study that is there, and says how it names it.
fn add_schema(dir: &Path, ctx: &Ctx) -> Result<Exit, CmdError> {
    let folder = ctx.folder.join(dir);
    let study = folder.join(STUDY_FILE);
    let text = std::fs::read_to_string(&study).map_err(|err| CmdError::io("read", &study, &err))?;
    write_schema(&folder)?;
    let (shown, wrote) = (below(dir, STUDY_FILE), below(dir, SCHEMA));
    let named = text.lines().next().is_some_and(|line| line.trim_end() == first_line());
    let next = match named {
        true => String::new(),
        false => format!("; let {shown} begin with this line:\n\n{}", first_line()),
    };
    ctx.ui.print_raw(format!("wrote {wrote}{next}\n").as_bytes())?;
    Ok(Exit::Done)
}

/// Returns how a file of a study is named to whoever named its folder.
fn below(dir: &Path, file: &str) -> String {
    let path = dir.join(file);
    path.strip_prefix(".").unwrap_or(&path).display().to_string()
}

fn write_schema(folder: &Path) -> Result<(), CmdError> {
    let path = folder.join(SCHEMA);
    let own = path.parent().unwrap_or(folder);
    std::fs::create_dir_all(own).map_err(|err| CmdError::io("create", own, &err))?;
    write_whole(folder, Path::new(SCHEMA), keys::SCHEMA.as_bytes())
}

/// Returns the line by which an editor finds the schema.
fn first_line() -> String {
    format!("#:schema {SCHEMA}")
}

/// Writes the study of a table, in the folder where one is.
fn of_sheet(table: &Path, ctx: &Ctx) -> Result<Exit, CmdError> {
    if ctx.folder.join(table).is_dir() {
        return Err(CmdError::request(
            "which table is the study of?",
            "name it: lap init --for sheet results.csv",
        ));
    }
    let shown = table.display();
    let draft = draft(&read_grid(table, None, ctx)?).ok_or_else(|| {
        CmdError::request(
            format!("{shown} has no headings with results below them"),
            "a study is made of a table with a rig a row and a workload a column; docs/tables.md has both layouts",
        )
    })?;
    let name = table.file_stem().unwrap_or_default().to_string_lossy();
    let text = drafted_text(&draft, &name);
    // Nothing is written that could not be read back.
    if honest_lap_study::read(&text).is_err() {
        let problem = format!("no study can be made of {shown}");
        return Err(CmdError::request(problem, "write one with lap init --for by-hand"));
    }
    let next = format!(
        "  lap enter --table '{shown}' --preview\n  lap enter --table '{shown}'\n  lap compare\n"
    );
    write(Path::new("."), &text, "", &next, ctx)
}

fn write(dir: &Path, text: &str, how: &str, next: &str, ctx: &Ctx) -> Result<Exit, CmdError> {
    let folder =
        std::path::absolute(ctx.folder.join(dir)).map_err(|err| CmdError::io("find", dir, &err))?;
    std::fs::create_dir_all(&folder).map_err(|err| CmdError::io("create", &folder, &err))?;
    let path = folder.join(STUDY_FILE);
    let text = format!("{}\n\n{text}", first_line());
    write_new(&path, text.as_bytes()).map_err(|err| match err.kind() {
        ErrorKind::AlreadyExists => CmdError::request(
            format!("{} is there already, and stays as it is", below(dir, STUDY_FILE)),
            "name another folder, `lap init DIR`, or move the file away first",
        ),
        _ => CmdError::io("write", &path, &err),
    })?;
    write_schema(&folder)?;
    let shown = below(dir, STUDY_FILE);
    let go = match dir.to_str() {
        Some(".") | None => String::new(),
        Some(dir) => format!("  cd {dir}\n"),
    };
    ctx.ui.print_raw(format!("wrote {shown}{how}\n\n{go}{next}").as_bytes())?;
    Ok(Exit::Done)
}
