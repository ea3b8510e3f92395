//! A flight through the rings, drawn as fast as this machine can, with a log of every frame.

use std::fs::File;
use std::hint::black_box;
use std::io::{self, BufWriter, Write};
use std::path::PathBuf;
use std::time::Instant;

/// Settings of the flight.
#[derive(clap::Args, Debug)]
pub struct FlyThroughArgs {
    /// How many frames
    #[arg(long, default_value_t = 1_200)]
    frames: u32,
    /// Width in pixels
    #[arg(long, default_value_t = 240)]
    width: u32,
    /// Height in pixels
    #[arg(long, default_value_t = 135)]
    height: u32,
    /// The log to write: a row a frame; standard output if left out
    #[arg(long)]
    log: Option<PathBuf>,
}

/// Where the scenes of the flight begin, in shares of its frames.
const SCENES: [(&str, f64); 3] = [("approach", 0.0), ("rings", 0.3), ("moon", 0.8)];

pub(crate) fn run(args: &FlyThroughArgs) -> io::Result<()> {
    let mut picture = vec![0_u8; (args.width * args.height) as usize];
    let mut rows = Vec::with_capacity(args.frames as usize);
    let begun = Instant::now();
    let mut before = begun.elapsed();
    for frame in 0..args.frames {
        draw(&mut picture, args.width, f64::from(frame) / f64::from(args.frames.max(1)));
        black_box(&picture);
        let now = begun.elapsed();
        rows.push((now, now - before));
        before = now;
    }
    // Nothing is written while frames are drawn.
    let mut out: Box<dyn Write> = match &args.log {
        Some(path) => Box::new(BufWriter::new(File::create(path)?)),
        None => Box::new(BufWriter::new(io::stdout().lock())),
    };
    writeln!(out, "moment_us,frame_ms,scene")?;
    for (frame, (moment, time)) in rows.iter().enumerate() {
        let share = frame as f64 / rows.len() as f64;
        let scene =
            SCENES.iter().rev().find(|(_, from)| share >= *from).map_or("", |scene| scene.0);
        let (us, ms) = (moment.as_nanos() as f64 / 1e3, time.as_nanos() as f64 / 1e6);
        writeln!(out, "{us:.3},{ms:.6},{scene}")?;
    }
    out.flush()
}

/// Draws the rings as seen `share` of the way through them.
fn draw(picture: &mut [u8], width: u32, share: f64) {
    let height = picture.len() as u32 / width.max(1);
    for (place, pixel) in picture.iter_mut().enumerate() {
        let x = f64::from(place as u32 % width) / f64::from(width) - 0.5;
        let y = f64::from(place as u32 / width) / f64::from(height) - 0.5;
        // The plane of the rings, tilted, comes nearer; its grains are two waves that beat.
        let depth = 0.15 + (y + 0.6).abs() * (1.4 - share);
        let (u, v) = (x / depth + share * 3.0, 1.0 / depth + share * 9.0);
        let radius = u.hypot(v - 4.0);
        let grain = (radius * 31.0).sin() * (radius * 7.3 + u).cos();
        let gap = if (radius * 1.7).fract() < 0.12 { 0.1 } else { 1.0 };
        *pixel = (127.0 + 120.0 * grain * gap) as u8;
    }
}
