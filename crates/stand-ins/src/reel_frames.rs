//! Raw video frames of the show reel, for an encoder to work on.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::PathBuf;

/// Settings of the reel.
#[derive(clap::Args, Debug)]
pub struct ReelFramesArgs {
    /// How many frames
    #[arg(long, default_value_t = 60)]
    frames: u32,
    /// Width in pixels, even
    #[arg(long, default_value_t = 320)]
    width: u32,
    /// Height in pixels, even
    #[arg(long, default_value_t = 180)]
    height: u32,
    /// The Y4M file to write
    #[arg(long)]
    out: PathBuf,
}

pub(crate) fn run(args: &ReelFramesArgs) -> io::Result<()> {
    let (width, height) = (args.width & !1, args.height & !1);
    let mut out = BufWriter::new(File::create(&args.out)?);
    writeln!(out, "YUV4MPEG2 W{width} H{height} F24:1 Ip A1:1 C420jpeg")?;
    for frame in 0..args.frames {
        writeln!(out, "FRAME")?;
        for (step, base) in [(1, 40), (2, 128), (2, 140)] {
            for y in (0..height).step_by(step) {
                // Rings that widen from frame to frame.
                let row: Vec<u8> = (0..width)
                    .step_by(step)
                    .map(|x| {
                        let (dx, dy) = (
                            i64::from(x) - i64::from(width) / 2,
                            i64::from(y) - i64::from(height) / 2,
                        );
                        let ring = (dx * dx + dy * dy) / 64 - i64::from(frame) * 3;
                        (base + ring.rem_euclid(48)) as u8
                    })
                    .collect();
                out.write_all(&row)?;
            }
        }
    }
    out.flush()
}
