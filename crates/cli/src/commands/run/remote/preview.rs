//! What would be run on other machines, and what would be sent there; nothing is reached.

use super::super::args::RunArgs;
use super::super::choice::{campaign, chosen, forecast};
use super::super::retest;
use super::parcel::{files_to_send, reach};
use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::OpenStudy;
use honest_lap_core::plan::{Part, Planner};
use honest_lap_core::record::CampaignPart;
use honest_lap_core::unit::display_size;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use std::path::Path;

pub fn print(
    args: &RunArgs,
    rigs: &[String],
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let logbook = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let workloads = chosen(args, open, ctx)?;
    let wanted = match args.retest {
        true => Some(retest::wanted(open, logbook.as_ref(), ctx)?),
        false => None,
    };
    let files = files_to_send(&workloads, &open.folder);
    let bytes: u64 = files.iter().map(|file| size_of(&open.folder.join(file))).sum();
    for rig in rigs {
        let seed = args.seed.map_or_else(|| ctx.random(), Ok)?;
        let only = wanted.as_ref().map(|of| retest::only(of, &workloads, rig, ctx));
        let workloads = only.as_ref().unwrap_or(&workloads);
        if workloads.is_empty() {
            continue;
        }
        let campaign = campaign(workloads, args.goal());
        let parts: Vec<Part> = campaign.parts.iter().map(CampaignPart::part).collect();
        let planner = Planner::new(parts, campaign.goal, seed);
        let forecast = forecast(workloads, rig, logbook.as_ref())?;
        let mut sheet = sheet::preview(workloads, &planner, &[], rig, seed, &forecast);
        if rigs.len() > 1 && wanted.is_none() && args.output.format == FormatArg::Text {
            // The laps are the same on every rig: a line each says how many, and how long they take.
            sheet.title = sheet.title.filter(|_| *rig == rigs[0]);
            sheet.groups.clear();
            sheet.notes.clear();
        }
        ctx.ui.print(&sheet, args.output.format)?;
        let line = format!(
            "{rig} is reached by `{}`; `lap` and {} ({}) would be sent",
            reach(open, rig).unwrap_or_default(),
            count(files.len(), "file"),
            display_size(bytes)
        );
        ctx.ui.say(Role::Quiet, &line);
    }
    if let ([first, _, ..], None) = (rigs, &wanted) {
        ctx.ui.say(Role::Quiet, &format!("every lap of one: lap run --rig {first} --preview"));
    }
    Ok(Exit::Done)
}

/// Returns the bytes of a file, or of all that is in a folder.
fn size_of(path: &Path) -> u64 {
    let Ok(meta) = path.symlink_metadata() else { return 0 };
    if !meta.is_dir() {
        return meta.len();
    }
    let entries = std::fs::read_dir(path).into_iter().flatten().flatten();
    entries.map(|entry| size_of(&entry.path())).sum()
}
