//! Hashes as text.

use sha2::{Digest, Sha256};

/// Returns the SHA-256 of `bytes` (FIPS 180-4) in hexadecimal.
pub(crate) fn sha256(bytes: &[u8]) -> String {
    hex(&Sha256::digest(bytes))
}

pub(crate) fn hex(bytes: &[u8]) -> String {
    const DIGITS: &[u8; 16] = b"0123456789abcdef";
    let digit = |value: u8| char::from(DIGITS[usize::from(value)]);
    bytes.iter().flat_map(|byte| [digit(byte >> 4), digit(byte & 15)]).collect()
}
