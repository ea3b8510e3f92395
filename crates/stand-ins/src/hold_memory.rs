//! Touches an amount of memory, page by page, so that all of it is really held.

use std::io;

/// Settings.
#[derive(clap::Args, Debug)]
pub struct HoldMemoryArgs {
    /// How much, in MiB
    #[arg(long)]
    mib: usize,
}

pub(crate) fn run(args: &HoldMemoryArgs) -> io::Result<()> {
    const PAGE: usize = 4096;
    let mut memory = vec![0u8; args.mib << 20];
    for page in memory.chunks_mut(PAGE) {
        page[0] = 1;
    }
    std::hint::black_box(&memory);
    Ok(())
}
