//! A made-up star catalogue as text: one star a line, in no order.

use honest_lap_core::stat::SplitMix;
use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::PathBuf;

/// Settings of the catalogue.
#[derive(clap::Args, Debug)]
pub struct StarCatalogueArgs {
    /// How many stars
    #[arg(long, default_value_t = 200_000)]
    stars: u32,
    /// The text file to write
    #[arg(long)]
    out: PathBuf,
}

pub(crate) fn run(args: &StarCatalogueArgs) -> io::Result<()> {
    let mut out = BufWriter::new(File::create(&args.out)?);
    writeln!(out, "name,right_ascension_deg,declination_deg,magnitude")?;
    let mut noise = SplitMix::new(2026);
    for _ in 0..args.stars {
        let name = noise.bits() % 100_000_000;
        let (ra, sine) = (noise.unit() * 360.0, noise.unit() * 2.0 - 1.0);
        // There are about three times as many stars for every magnitude fainter.
        let magnitude = 12.0 + noise.unit().log(3.0);
        writeln!(out, "PH-{name:08},{ra:.6},{:.6},{magnitude:.3}", sine.asin().to_degrees())?;
    }
    out.flush()
}
