//! Layers of sky laid over one another, frame by frame: how many still play without a dropped frame.

use clap::Args;
use std::io::{self, Write};
use std::time::{Duration, Instant};

/// How many layers are played, and how.
#[derive(Args, Debug)]
pub struct SkyLayersArgs {
    /// Layers of each frame
    #[arg(long)]
    layers: u32,
    /// Frames to play
    #[arg(long, default_value_t = 12)]
    frames: u32,
    /// Time for each frame, in milliseconds
    #[arg(long, default_value_t = 8)]
    frame_ms: u64,
}

/// Pixels of a layer.
const PIXELS: usize = 320 * 128;
/// A frame that takes this many times its time is no playing any more.
const GIVES_UP: u32 = 3;
/// The exit code with which the player gives up.
const GAVE_UP: i32 = 3;

/// Plays, and says how many frames came late; gives up with an exit code of its own.
pub fn run(args: &SkyLayersArgs) -> io::Result<()> {
    let time = Duration::from_millis(args.frame_ms);
    let mut frame = vec![0.0f32; PIXELS];
    let mut dropped = 0;
    for number in 0..args.frames {
        let begun = Instant::now();
        compose(&mut frame, args.layers, number);
        let took = begun.elapsed();
        if took > time * GIVES_UP {
            writeln!(io::stderr(), "frame {number} took {} ms: giving up", took.as_millis())?;
            std::process::exit(GAVE_UP);
        }
        dropped += u32::from(took > time);
        // What is left of a frame's time is waited for, as a player does.
        std::thread::sleep(time.saturating_sub(took));
    }
    let light: f32 = frame.iter().sum();
    writeln!(io::stdout().lock(), "layers: {}, light: {light:.0}, dropped: {dropped}", args.layers)
}

/// Lays `layers` over one another, each a little further along than in the frame before.
fn compose(frame: &mut [f32], layers: u32, number: u32) {
    frame.fill(0.0);
    for layer in 0..layers {
        let shift = (layer * 37 + number * 5) as usize % PIXELS;
        let bright = 1.0 / (1.0 + layer as f32);
        for (place, pixel) in frame.iter_mut().enumerate() {
            let star = (((place + shift) * 2_654_435_761) >> 7) & 0xff;
            *pixel = *pixel * 0.97 + bright * star as f32;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn more_layers_are_more_light_and_frames_differ() {
        let light = |layers, number| {
            let mut frame = vec![0.0; PIXELS];
            compose(&mut frame, layers, number);
            frame
        };
        let sum = |frame: &[f32]| frame.iter().sum::<f32>();
        assert!(sum(&light(2, 0)) > sum(&light(1, 0)));
        assert_ne!(light(3, 0), light(3, 1));
    }
}
