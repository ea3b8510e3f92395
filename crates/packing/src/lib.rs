//! Packing of whole numbers, lossless, in parts of 65,536: frames, repetitions, samples.
//!
//! A crate of its own because the packer is generic: its hot loops are made here, and only what is here needs
//! to be optimised fully.

use pco::ChunkConfig;
use pco::standalone::{simple_compress, simple_decompress_into};

/// Numbers in a part.
pub const PART: usize = 1 << 16;
/// How hard is packed for: beyond this it takes longer and comes to the same.
const LEVEL: usize = 8;

/// Returns `numbers`, a part of them, packed.
pub fn pack(numbers: &[u64]) -> Vec<u8> {
    let config = ChunkConfig::default().with_compression_level(LEVEL);
    simple_compress(numbers, &config).expect("a level that exists, and no more numbers than a part")
}

/// Returns the `count` numbers that `packed` holds; `None` if it does not hold just these. It may
/// come from anyone.
pub fn unpack(packed: &[u8], count: usize) -> Option<Vec<u64>> {
    if count > PART {
        return None;
    }
    let mut numbers = vec![0; count];
    let done = simple_decompress_into(packed, &mut numbers).ok()?;
    (done.finished && done.n_processed == count).then_some(numbers)
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::stat::SplitMix;

    #[test]
    fn frames_pack_small_and_come_back_to_the_nanosecond() {
        let mut random = SplitMix::new(3);
        // A pass whose pace wanders, as real ones do, with a hitch now and then.
        let mut pace = 0.0;
        let frames: Vec<u64> = (0..200_000)
            .map(|i| {
                pace = 0.98 * pace + 0.02 * random.normal();
                let hitch = if i % 997 == 0 { 30e6 } else { 0.0 };
                (14e6 * (0.3 * pace + 0.008 * random.normal()).exp() + hitch) as u64
            })
            .collect();
        let coarse: Vec<u64> = frames.iter().map(|ns| ns / 100 * 100).collect();
        for (frames, most) in [(&frames, 2.5), (&coarse, 1.7)] {
            let packed: Vec<Vec<u8>> = frames.chunks(PART).map(pack).collect();
            let bytes: usize = packed.iter().map(Vec::len).sum();
            assert!((bytes as f64) < most * frames.len() as f64, "{bytes}");
            assert_eq!(unpack(&packed[0], PART).as_deref(), Some(&frames[..PART]));
        }
    }

    #[test]
    fn what_strangers_packed_is_read_or_refused_and_never_a_panic() {
        let mut random = SplitMix::new(9);
        let frames: Vec<u64> = (0..3_000).map(|_| 10_000_000 + random.below(9_000_000)).collect();
        let packed = pack(&frames);
        assert_eq!(unpack(&packed, 3_000), Some(frames));
        assert_eq!((unpack(&packed, 2_999), unpack(&packed, 3_001)), (None, None));
        assert_eq!((unpack(&packed, PART + 1), unpack(&[], 5)), (None, None));
        for _ in 0..3_000 {
            let mut changed = packed.clone();
            for _ in 0..=random.below(3) {
                let at = random.below(changed.len() as u64) as usize;
                changed[at] ^= 1 << random.below(8);
            }
            changed.truncate(random.below(changed.len() as u64 * 2) as usize);
            let _ = unpack(&changed, 3_000);
        }
    }
}
