//! `lap plot`: figures as SVG or PNG.

use crate::args::Cli;
use crate::commands::frames::framed;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::figures;
use crate::study_file::read_study;
use honest_lap_draw::{Role, chart};
use honest_lap_logbook::Logbook;
use std::path::{Path, PathBuf};

/// Pixels of a PNG to each unit of the figure.
const PNG_SCALE: f32 = 1.0;

/// Draw passes: frame times over the pass, or their distribution
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap plot                                   every workload of frames, as SVG\n  \
                        lap plot fly-through --out rings.png       one of them, as PNG\n  \
                        lap plot heron kestrel --out two.svg       two rigs side by side\n  \
                        lap plot fly-through --figure tail         how slow the slowest frames are"
)]
pub struct PlotArgs {
    /// Workloads, rigs, sessions or passes; everything if left out
    #[arg(value_name = "NAME")]
    names: Vec<String>,
    /// What is drawn
    #[arg(long, value_enum, default_value_t = Figure::Passes, value_name = "FIGURE")]
    figure: Figure,
    /// The file to write, .svg or .png [default: WORKLOAD-FIGURE.svg]
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
}

/// A figure.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
enum Figure {
    /// Frame times over the pass, passes under one another, two rigs side by side
    Passes,
    /// Frame time over the share of frames that are slower
    Tail,
}

impl Figure {
    fn word(self) -> &'static str {
        match self {
            Self::Passes => "passes",
            Self::Tail => "tail",
        }
    }
}

pub fn run(args: &PlotArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let picture = match &args.out {
        Some(path) => is_picture(path)?,
        None => false,
    };
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let workloads = framed(&args.names, &open, &logbook)?;
    if workloads.is_empty() {
        return Err(CmdError::request(
            "there are no passes to draw",
            "lap import FILE… --rig NAME takes frame-time logs in",
        ));
    }
    if let (Some(out), [_, _, ..]) = (&args.out, workloads.as_slice()) {
        let names: Vec<&str> = workloads.iter().map(|workload| workload.name.as_str()).collect();
        return Err(CmdError::request(
            format!("{} can hold one workload, and there are {}", out.display(), names.join(", ")),
            format!("name one: lap plot {}", names[0]),
        ));
    }
    for workload in &workloads {
        let svg = match args.figure {
            Figure::Passes => chart::passes(&figures::passes(workload)),
            Figure::Tail => chart::tail(&figures::tail(workload)),
        };
        let default = || PathBuf::from(format!("{}-{}.svg", workload.name, args.figure.word()));
        let path = args.out.clone().unwrap_or_else(default);
        write_figure(&path, svg, picture, ctx)?;
    }
    Ok(Exit::Done)
}

/// Writes a figure to `path`, as a PNG if it is to be a `picture`.
pub fn write_figure(path: &Path, svg: String, picture: bool, ctx: &Ctx) -> Result<(), CmdError> {
    let bytes = match picture {
        true => chart::png(&svg, PNG_SCALE)
            .map_err(|err| CmdError::request(err.to_string(), "write it as .svg instead"))?,
        false => svg.into_bytes(),
    };
    std::fs::write(ctx.folder.join(path), bytes)
        .map_err(|err| CmdError::io("write", path, &err))?;
    ctx.ui.say(Role::Plain, &format!("{} drawn", path.display()));
    Ok(())
}

/// Returns whether the file is to be a PNG; nothing but figures is written over.
pub fn is_picture(path: &Path) -> Result<bool, CmdError> {
    match path.extension().and_then(|extension| extension.to_str()) {
        Some("svg") => Ok(false),
        Some("png") => Ok(true),
        _ => Err(CmdError::request(
            format!("{} is neither .svg nor .png", path.display()),
            "name the file by its form: --out rings.png",
        )),
    }
}
