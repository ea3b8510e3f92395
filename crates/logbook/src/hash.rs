//! Fields of a record as a hash takes them, and hashes as text.

use rusqlite::types::ValueRef;
use sha2::{Digest, Sha256};

pub(crate) fn hash_fields<'a>(fields: impl Iterator<Item = ValueRef<'a>>, hasher: &mut Sha256) {
    for field in fields {
        let number;
        let (kind, bytes): (u8, &[u8]) = match field {
            ValueRef::Null => (0, &[]),
            ValueRef::Integer(value) => {
                number = value.to_le_bytes();
                (1, &number)
            }
            ValueRef::Real(value) => {
                number = value.to_le_bytes();
                (2, &number)
            }
            ValueRef::Text(text) => (3, text),
            ValueRef::Blob(blob) => (4, blob),
        };
        hasher.update([kind]);
        hasher.update((bytes.len() as u64).to_le_bytes());
        hasher.update(bytes);
    }
}

pub(crate) fn hex(hasher: Sha256) -> String {
    hasher.finalize().iter().map(|byte| format!("{byte:02x}")).collect()
}
