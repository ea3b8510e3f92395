//! `lap rig`: what this machine is, and what could distort a measurement now.

use crate::args::{Cli, OutputArgs};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lock;
use crate::rig_key::RigKey;
use clap::Subcommand;
use honest_lap_core::plan::obstacles;
use honest_lap_core::unit::Nanos;
use honest_lap_measure::{Machine, read_rig, read_state, sensor_names};
use honest_lap_view::sheet;
use std::path::PathBuf;

/// Show what this machine is, what it can say of itself, and what could distort a measurement now
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap rig            the machine, the key its sessions are signed with, its sensors\n  lap rig check      what could distort a measurement now; exit status 1 if anything would"
)]
pub struct RigArgs {
    #[command(subcommand)]
    what: Option<What>,
    /// Read the machine's files below this folder instead of /, as of a simulated machine
    #[arg(long, global = true, value_name = "DIR")]
    machine_root: Option<PathBuf>,
    #[command(flatten)]
    output: OutputArgs,
}

#[derive(Subcommand, Debug)]
enum What {
    /// Say what could distort a measurement now, and what to do about it
    Check(CheckArgs),
}

/// Say what could distort a measurement now, and what to do about it
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap rig check                    watch the machine for two seconds\n  lap rig check --watch 10s        for ten\n  lap rig check --format json      for programs; exit status 1 if anything could distort a lap"
)]
pub struct CheckArgs {
    /// How long the machine is watched
    #[arg(long, value_name = "TIME", default_value = "2s", value_parser = span)]
    watch: Nanos,
    #[command(flatten)]
    output: OutputArgs,
}

fn span(text: &str) -> Result<Nanos, String> {
    let span = honest_lap_core::unit::parse_span(text);
    span.map_err(|err| format!("{err}; {}", err.remedy))
}

pub fn run(args: &RigArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let machine = match &args.machine_root {
        Some(root) => Machine::below(&ctx.folder.join(root)),
        None => Machine::here(),
    };
    let Some(What::Check(check)) = &args.what else {
        let key = ctx.config_folder().map(|folder| RigKey::kept(&folder)).transpose()?.flatten();
        let key = key.map(|key| key.public());
        let sheet = sheet::rig(&read_rig(&machine), key.as_deref(), &sensor_names(&machine));
        ctx.ui.print(&sheet, args.output.format)?;
        return Ok(Exit::Done);
    };
    // Where laps would be run: the study's folder, or this one where there is no study.
    let folder = cli.study.as_ref().map_or_else(|| ctx.folder.clone(), |dir| ctx.folder.join(dir));
    let holder = lock::holder();
    let state = read_state(&machine, &folder, check.watch);
    let found = obstacles(&state);
    let free = found.is_empty() && holder.is_none();
    let sheet = sheet::check(&found, holder.as_deref(), &state);
    ctx.ui.print(&sheet, check.output.format)?;
    Ok(if free { Exit::Done } else { Exit::No })
}
