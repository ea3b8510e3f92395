//! A library for 32-bit programs that does nothing, written byte by byte: no compiler for them need be there.
//!
//! Shapes are those of the System V application binary interface: a header, two segments (all of it; its dynamic
//! section), an empty table of symbols and one of texts.

/// What the file calls the 32-bit kind of a machine.
const INTEL_386: u16 = 3;
const ARM: u16 = 40;
const SHARED: u16 = 3;
const LOAD: u32 = 1;
const DYNAMIC: u32 = 2;
const READ: u32 = 4;
const READ_WRITE: u32 = 6;

const HEADER: u32 = 52;
const SEGMENT: u32 = 32;
const HASH_AT: u32 = HEADER + 3 * SEGMENT;
/// One bucket and one symbol, which is none.
const HASH: [u32; 4] = [1, 1, 0, 0];
const SYMBOLS_AT: u32 = HASH_AT + 16;
const SYMBOL: u32 = 16;
const TEXTS_AT: u32 = SYMBOLS_AT + SYMBOL;
const TEXTS: u32 = 4;
const DYNAMIC_AT: u32 = TEXTS_AT + TEXTS;
const ALIGN: u32 = 4096;

/// Returns the file, for the 32-bit programs of a machine.
pub fn library(of: &str) -> Vec<u8> {
    let machine = if of == "aarch64" { ARM } else { INTEL_386 };
    // Tags: hash 4, texts 5, symbols 6, length of texts 10, length of a symbol 11; the last is 0.
    let dynamic = [[4, HASH_AT], [5, TEXTS_AT], [6, SYMBOLS_AT], [10, TEXTS], [11, SYMBOL], [0, 0]];
    let length = DYNAMIC_AT + 8 * dynamic.len() as u32;
    let mut file = b"\x7fELF\x01\x01\x01\0\0\0\0\0\0\0\0\0".to_vec();
    let halves = |file: &mut Vec<u8>, all: &[u16]| {
        all.iter().for_each(|half| file.extend(half.to_le_bytes()));
    };
    let words = |file: &mut Vec<u8>, all: &[u32]| {
        all.iter().for_each(|word| file.extend(word.to_le_bytes()));
    };
    halves(&mut file, &[SHARED, machine]);
    // Version, no entry, where segments are described, no sections, no flags.
    words(&mut file, &[1, 0, HEADER, 0, 0]);
    halves(&mut file, &[HEADER as u16, SEGMENT as u16, 3, 40, 0, 0]);
    words(&mut file, &[LOAD, 0, 0, 0, length, length, READ_WRITE, ALIGN]);
    let dynamic_length = length - DYNAMIC_AT;
    let at = DYNAMIC_AT;
    words(&mut file, &[DYNAMIC, at, at, at, dynamic_length, dynamic_length, READ_WRITE, 4]);
    // No stack of its own kind: without this segment some loaders make the program's executable.
    words(&mut file, &[0x6474_e551, 0, 0, 0, 0, 0, READ | READ_WRITE, 16]);
    words(&mut file, &HASH);
    words(&mut file, &[0; 4]);
    file.extend([0; TEXTS as usize]);
    words(&mut file, dynamic.as_flattened());
    file
}
