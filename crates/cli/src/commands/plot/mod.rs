//! `lap plot`: figures as SVG or PNG.

mod args;
mod files;
mod of_laps;
mod of_passes;

pub use args::PlotArgs;
pub use files::{is_picture, write_figure};

use args::{Figure, Named};
use files::distinct;
use of_laps::of_laps;
use of_passes::{of_frames, of_single_laps};

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::stamp::Stamp;
use crate::study_file::read_study;
use honest_lap_core::analysis::Across;
use honest_lap_draw::Look;
use honest_lap_logbook::Logbook;
use std::path::PathBuf;

pub fn run(args: &PlotArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let picture = match &args.out {
        Some(path) => is_picture(path)?,
        None => false,
    };
    let figure = match (args.figure, args.change.is_asked()) {
        (Some(Figure::Change) | None, true) => Figure::Change,
        (Some(Figure::Change), false) => {
            return Err(CmdError::request(
                "a change is drawn from the sessions before and after it",
                "name them: lap plot --before heron-1 --after heron-2",
            ));
        }
        (Some(_), true) => {
            return Err(CmdError::request(
                "sessions before and after a change make one figure",
                "leave --figure out, or name it: --figure change",
            ));
        }
        (figure, false) => match (figure, &args.across) {
            (Some(Figure::Gain) | None, Some(Across::Setting(_))) => Figure::Gain,
            (Some(Figure::Sweep), Some(Across::Setting(_))) => Figure::Sweep,
            (Some(Figure::Sweep), _) => {
                return Err(CmdError::request(
                    "a sweep is over a setting, and none is named",
                    "name it: lap plot --figure sweep --across threads",
                ));
            }
            (Some(Figure::Gain), _) => {
                return Err(CmdError::request(
                    "a gain is of a setting, and none is named",
                    "name it: lap plot --across threads",
                ));
            }
            (Some(figure), Some(Across::Setting(setting))) => {
                return Err(CmdError::request(
                    format!("{} are not drawn across the setting `{setting}`", figure.word()),
                    "leave --figure out, or name it: --figure gain",
                ));
            }
            (figure, _) => figure.unwrap_or(Figure::Bars),
        },
    };
    args.honoured_by(figure)?;
    let open = read_study(cli, ctx)?;
    let logbook = Logbook::open(&open.logbook())?;
    let all: Vec<Named> = match figure {
        Figure::Passes | Figure::Tail => of_frames(figure, args, &open, &logbook)?,
        Figure::Conditions => of_single_laps(args, &open.study, &logbook)?,
        _ => of_laps(figure, args, &open, &logbook, ctx)?,
    };
    if let (Some(out), [first, _, ..]) = (&args.out, all.as_slice()) {
        let names: Vec<&str> = all.iter().map(|(name, _)| name.as_str()).collect();
        return Err(CmdError::request(
            format!("{} can hold one figure, and there are {}", out.display(), names.join(", ")),
            format!(
                "leave --out out, or ask for one: a workload, --with SETTING=VALUE, --measure, --across; \
                 the first is {}",
                first.0
            ),
        ));
    }
    let stamp = Stamp::of(&logbook, ctx)?.line_about(&args.choice.choice());
    let look = look(args.dark);
    let names = distinct(all.iter().map(|(name, _)| format!("{name}-{}", figure.word())));
    for (name, (_, drawing)) in names.into_iter().zip(all) {
        let path = args.out.clone().unwrap_or_else(|| PathBuf::from(format!("{name}.svg")));
        write_figure(&path, &drawing.stamped(&stamp), (picture, look), ctx)?;
    }
    Ok(Exit::Done)
}

/// Returns the look that is asked for.
pub fn look(dark: bool) -> Look {
    if dark { Look::Dark } else { Look::Light }
}
