//! `lap`: times real work on real machines, and reports only what the data supports.

mod args;
mod background;
mod by_hand;
mod change;
mod choice;
mod command_line;
mod commands;
mod copied;
mod ctx;
mod cutting;
mod endurance_runs;
mod error;
mod hand_search;
mod joining;
mod lab;
mod lock;
mod mark_signal;
mod out_of_memory;
mod private_folder;
mod progress;
mod rig_key;
mod rig_name;
mod sheet_file;
mod source;
mod stamp;
mod stop_signals;
mod store_args;
mod study_file;
mod ui;
mod whole_file;
mod working;

use honest_lap_measure::starter::{is_starter_argument, serve};
use std::process::ExitCode;

#[global_allocator]
static MEMORY: out_of_memory::OrEnd = out_of_memory::OrEnd;

fn main() -> ExitCode {
    // The starter may touch nothing of what follows: it is to stay small and quick.
    if std::env::args_os().nth(1).is_some_and(|first| is_starter_argument(&first)) {
        return serve();
    }
    out_of_memory::look_for_room();
    let ctx = ctx::Ctx::from_process();
    honest_lap_logbook::when_waiting(ui::tell_of_waiting);
    let work = || {
        let (cli, command) = command_line::parse()?;
        commands::dispatch(&command, &cli, &ctx)
    };
    match std::panic::catch_unwind(std::panic::AssertUnwindSafe(work)) {
        Ok(result) => ctx.ui.finish(result),
        // The panic has said what and where; this adds what it means.
        Err(_) => ctx.ui.finish_after_fault(),
    }
}
