//! What a page carries packed: a pass's frames, rounded, in planes of bytes; long tables.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use flate2::Compression;
use flate2::write::{DeflateEncoder, GzEncoder};
use std::io::Write;

/// Frames up to which a page carries each to this many nanoseconds; of more, each takes less room.
const STEPS: [(usize, u64); 2] = [(1_000_000, 1_000), (2_000_000, 10_000)];
const COARSEST: u64 = 100_000;

/// Returns the step to which frame times are rounded, in nanoseconds, where a page has so many.
pub(super) fn step_ns(frames: usize) -> u64 {
    STEPS.iter().find(|(most, _)| frames <= *most).map_or(COARSEST, |(_, step)| *step)
}

/// Returns `frames` packed for a page: base64 of deflated bytes, all low ones first.
///
/// Three planes of bytes hold 24 bits a frame: at a microsecond a frame of up to 16 seconds.
pub(super) fn packed(frames: &[u64], step_ns: u64) -> String {
    const MOST: u64 = (1 << 24) - 1;
    let steps: Vec<u64> =
        frames.iter().map(|frame| ((frame + step_ns / 2) / step_ns).min(MOST)).collect();
    let plane = |shift: u32| steps.iter().map(move |step| (step >> shift & 0xff) as u8);
    let bytes: Vec<u8> = plane(0).chain(plane(8)).chain(plane(16)).collect();
    let mut deflated = DeflateEncoder::new(Vec::new(), Compression::best());
    deflated.write_all(&bytes).expect("memory takes what is written");
    STANDARD.encode(deflated.finish().expect("memory takes what is written"))
}

/// Returns a file packed as a file of its own: base64 of gzip.
pub(super) fn gzip(bytes: &[u8]) -> String {
    let mut packed = GzEncoder::new(Vec::new(), Compression::best());
    packed.write_all(bytes).expect("memory takes what is written");
    STANDARD.encode(packed.finish().expect("memory takes what is written"))
}

#[cfg(test)]
mod tests {
    use super::*;
    use flate2::read::DeflateDecoder;
    use std::io::Read;

    #[test]
    fn frames_come_back_to_the_step() {
        let frames = [16_666_667, 33_333_333, 250_000_499, 99_000_000_000];
        let bytes = STANDARD.decode(packed(&frames, 1_000)).unwrap();
        let mut planes = Vec::new();
        DeflateDecoder::new(bytes.as_slice()).read_to_end(&mut planes).unwrap();
        let back = |at: usize| {
            let byte = |plane: usize| u64::from(planes[plane * 4 + at]);
            byte(0) | byte(1) << 8 | byte(2) << 16
        };
        assert_eq!([0, 1, 2, 3].map(back), [16_667, 33_333, 250_000, (1 << 24) - 1]);
        assert_eq!([10, 1_500_000, 3_600_000].map(step_ns), [1_000, 10_000, 100_000]);
    }
}
