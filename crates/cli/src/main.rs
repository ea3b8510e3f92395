//! `lap`: times real work on real machines, and says only what the laps support.

mod args;
mod commands;
mod ctx;
mod error;
mod lock;
mod progress;
mod rig_name;
mod sheets;
mod study_file;
mod ui;

use std::process::ExitCode;

fn main() -> ExitCode {
    // The starter must stay small: it does nothing of what follows.
    if std::env::args_os()
        .nth(1)
        .is_some_and(|a| a == honest_lap_measure::starter::STARTER_ARGUMENT)
    {
        return honest_lap_measure::starter::serve();
    }
    let ctx = ctx::Ctx::from_process();
    let result = args::parse().and_then(|cli| commands::dispatch(&cli, &ctx));
    ctx.ui.finish(result)
}
