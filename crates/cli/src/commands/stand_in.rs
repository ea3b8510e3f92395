//! `lap stand-in`: the small workloads of the demo and the tests, behind a hidden command.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use honest_lap_stand_ins::StandIn;

/// Do the work of one of the demo's small workloads
#[derive(clap::Args, Debug)]
pub struct StandInArgs {
    #[command(subcommand)]
    stand_in: StandIn,
}

pub fn run(args: &StandInArgs, _ctx: &Ctx) -> Result<Exit, CmdError> {
    honest_lap_stand_ins::run(&args.stand_in)
        .map_err(|err| CmdError::request(err.to_string(), "check the files it was given"))?;
    Ok(Exit::Done)
}
