//! Small real workloads, and a made-up lab, for the demo and the tests.
//!
//! Users need none of it. Each workload does honest work that takes longer with more of it:
//! a path tracer, a catalogue index, raw video frames. They travel inside `lap` behind a hidden
//! command, so that the demo runs wherever the tool does.

mod catalogue_build;
mod dome_still;
mod fly_through;
mod hold_memory;
pub mod machine;
mod night_shift;
mod orbit_solve;
pub mod pale_harbour;
mod recorded_lap;
mod recorded_nights;
pub mod recorded_passes;
pub mod recorded_year;
mod reel_frames;
mod sky_layers;
mod star_catalogue;

use clap::Subcommand;
use std::io;

/// A stand-in and its settings.
#[derive(Subcommand, Debug)]
pub enum StandIn {
    /// Render one fisheye still of the winter sky as a PNG
    #[command(version = "1.4.2", display_name = "dome-still")]
    DomeStill(dome_still::DomeStillArgs),
    /// Write a made-up star catalogue as text
    StarCatalogue(star_catalogue::StarCatalogueArgs),
    /// Parse a star catalogue, sort it and index it into one file
    #[command(version = "3.0.1", display_name = "catalogue-build")]
    CatalogueBuild(catalogue_build::CatalogueBuildArgs),
    /// Write raw video frames (Y4M) of the show reel
    ReelFrames(reel_frames::ReelFramesArgs),
    /// Draw a flight through the rings and log how long each frame took
    #[command(version = "2.0.0", display_name = "fly-through")]
    FlyThrough(fly_through::FlyThroughArgs),
    /// Solve the orbits of a few bodies about a sun
    #[command(version = "1.1.0", display_name = "orbit-solve")]
    OrbitSolve(orbit_solve::OrbitSolveArgs),
    /// Play layers of sky, and say how many frames came late
    #[command(version = "0.9.0", display_name = "sky-layers")]
    SkyLayers(sky_layers::SkyLayersArgs),
    /// Do one still of a night's work
    #[command(version = "1.4.2", display_name = "night-shift")]
    NightShift(night_shift::NightShiftArgs),
    /// Be a machine: write the files in which one describes itself
    Machine(machine::MachineArgs),
    /// Touch an amount of memory and end
    HoldMemory(hold_memory::HoldMemoryArgs),
}

/// Does the work of `stand_in`.
pub fn run(stand_in: &StandIn) -> io::Result<()> {
    match stand_in {
        StandIn::DomeStill(args) => dome_still::run(args),
        StandIn::StarCatalogue(args) => star_catalogue::run(args),
        StandIn::CatalogueBuild(args) => catalogue_build::run(args),
        StandIn::ReelFrames(args) => reel_frames::run(args),
        StandIn::FlyThrough(args) => fly_through::run(args),
        StandIn::OrbitSolve(args) => orbit_solve::run(args),
        StandIn::SkyLayers(args) => sky_layers::run(args),
        StandIn::NightShift(args) => night_shift::run(args),
        StandIn::Machine(args) => machine::run(args),
        StandIn::HoldMemory(args) => hold_memory::run(args),
    }
}
