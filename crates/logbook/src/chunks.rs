//! Series of whole numbers: packed in parts of 65,536, each a row with its hash.
//!
//! Packing is lossless; numbers in coarser steps pack smaller by themselves.

use crate::error::LogbookError;
use crate::hash::sha256;
use crate::open::Logbook;
use crate::stored::{CHUNK, Chunk};
use honest_lap_packing::{PART, pack, unpack};
use rusqlite::Transaction;

/// Writes a series of the lap `lap`; one that is empty leaves nothing.
pub(crate) fn put(
    tx: &Transaction<'_>,
    lap: i64,
    series: &str,
    numbers: &[u64],
) -> rusqlite::Result<()> {
    for (part, some) in numbers.chunks(PART).enumerate() {
        let packed = pack(some);
        let (part, count) = (part as u32, some.len() as u32);
        let (series, sha256) = (series.to_owned(), sha256(&packed));
        let row = Chunk { lap, series, part, count, sha256, packed };
        CHUNK.insert(tx, |write| write(&row))?;
    }
    Ok(())
}

impl Logbook {
    /// Returns a series of the lap `id`; none where it has no such.
    pub(crate) fn numbers(&self, id: i64, series: &str) -> Result<Vec<u64>, LogbookError> {
        let query = "SELECT count, packed FROM chunk WHERE lap = ?1 AND series = ?2 ORDER BY part";
        let parts = self.rows(query, &[&id, &series], |row| {
            Ok((row.get::<_, u32>(0)?, row.get::<_, Vec<u8>>(1)?))
        })?;
        let mut all = Vec::new();
        for (count, packed) in parts {
            let damaged = || self.damaged(format!("the numbers of a lap ({series})"));
            all.extend(unpack(&packed, count as usize).ok_or_else(damaged)?);
        }
        Ok(all)
    }
}
