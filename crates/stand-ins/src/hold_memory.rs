//! Touches an amount of memory, page by page, so that all of it is really held.

use std::io;

/// Settings.
#[derive(clap::Args, Debug)]
pub struct HoldMemoryArgs {
    /// How much, in MiB
    #[arg(long)]
    mib: usize,
    /// How long it is held
    #[arg(long, default_value_t = 0.0)]
    seconds: f64,
}

pub(crate) fn run(args: &HoldMemoryArgs) -> io::Result<()> {
    const PAGE: usize = 4096;
    let mut memory = vec![0u8; args.mib << 20];
    for page in memory.chunks_mut(PAGE) {
        page[0] = 1;
    }
    std::thread::sleep(std::time::Duration::from_secs_f64(args.seconds));
    std::hint::black_box(&memory);
    Ok(())
}
