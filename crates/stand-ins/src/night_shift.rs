//! One still of a night's work, at the pace of a clock that falls in the heat.
//!
//! The work is done; what a slower clock would add to it is waited for. A machine that says nothing of its clock
//! adds nothing.

use crate::dome_still::render_row;
use clap::Args;
use std::hint::black_box;
use std::io;
use std::path::PathBuf;
use std::time::Instant;

/// How much is worked, and whose clock is followed.
#[derive(Args, Debug)]
pub struct NightShiftArgs {
    /// Rows of the still
    #[arg(long, default_value_t = 256)]
    rows: usize,
    /// The folder with the files of the machine whose clock is followed
    #[arg(long)]
    machine: Option<PathBuf>,
}

/// The clock at which the work takes as long as it does, in kHz.
const FULL_KHZ: f64 = 4_200_000.0;
const CLOCK: &str = "sys/devices/system/cpu/cpu0/cpufreq/scaling_cur_freq";

pub(crate) fn run(args: &NightShiftArgs) -> io::Result<()> {
    let begun = Instant::now();
    for row in 0..args.rows {
        black_box(render_row(row, 256, 6));
    }
    let clock = args.machine.as_ref().and_then(|root| {
        std::fs::read_to_string(root.join(CLOCK)).ok()?.trim().parse::<f64>().ok()
    });
    let slower = clock.map_or(0.0, |khz| (FULL_KHZ / khz - 1.0).max(0.0));
    std::thread::sleep(begun.elapsed().mul_f64(slower));
    Ok(())
}
