//! The frames of passes: packed in parts of 65,536, each a row.
//!
//! Packing is lossless on whole nanoseconds; a log in coarser steps packs smaller by itself.

use crate::error::LogbookError;
use crate::names::Names;
use crate::open::Logbook;
use crate::write::json;
use honest_lap_core::frame::{Digest, Pass, PassAbout};
use honest_lap_core::lap::{LapName, RecordedPass};
use honest_lap_core::remark::{RemarkKind, Subject};
use pco::ChunkConfig;
use pco::standalone::{simple_compress, simple_decompress_into};
use rusqlite::{Connection, Transaction, params};
use sha2::{Digest as _, Sha256};
use std::collections::HashMap;

/// Frames in a part.
const PART: usize = 1 << 16;
/// How hard is packed for: beyond this it takes longer and comes to the same.
const LEVEL: usize = 8;

/// Writes the pass of the lap `id`.
pub(crate) fn insert(tx: &Transaction<'_>, id: i64, pass: &RecordedPass) -> rusqlite::Result<()> {
    tx.execute("INSERT INTO pass (lap, about) VALUES (?1, ?2)", params![id, json(&pass.about)])?;
    for (name, series) in named(&pass.pass) {
        for (part, frames) in series.chunks(PART).enumerate() {
            let packed = pack(frames);
            tx.prepare_cached(
                "INSERT INTO frames (lap, series, part, count, packed) VALUES (?1, ?2, ?3, ?4, ?5)",
            )?
            .execute(params![id, name, part as u32, frames.len() as u32, packed])?;
        }
    }
    Ok(())
}

fn named(pass: &Pass) -> [(&'static str, &Vec<u64>); 4] {
    [
        ("shown", &pass.shown),
        ("processor", &pass.processor),
        ("graphics", &pass.graphics),
        ("presenting", &pass.presenting),
    ]
}

/// Returns `frames` packed.
fn pack(frames: &[u64]) -> Vec<u8> {
    let config = ChunkConfig::default().with_compression_level(LEVEL);
    simple_compress(frames, &config).expect("a level that exists, and no more numbers than a part")
}

/// Returns the `count` frames that `packed` holds; `None` if it does not hold just these. It may
/// come from anyone.
fn unpack(packed: &[u8], count: usize) -> Option<Vec<u64>> {
    if count > PART {
        return None;
    }
    let mut frames = vec![0; count];
    let done = simple_decompress_into(packed, &mut frames).ok()?;
    (done.finished && done.n_processed == count).then_some(frames)
}

/// Adds everything that is kept of the pass of the lap `id` to `hasher`.
pub(crate) fn hash(db: &Connection, id: i64, hasher: &mut Sha256) -> rusqlite::Result<()> {
    let about: String = db
        .prepare_cached("SELECT about FROM pass WHERE lap = ?1")?
        .query_row([id], |row| row.get(0))?;
    hasher.update((about.len() as u64).to_le_bytes());
    hasher.update(about);
    let mut statement = db.prepare_cached(
        "SELECT series, part, count, packed FROM frames WHERE lap = ?1 ORDER BY series, part",
    )?;
    let mut rows = statement.query([id])?;
    while let Some(row) = rows.next()? {
        crate::seal::hash_fields((0..4).map(|at| row.get_ref_unwrap(at)), hasher);
    }
    Ok(())
}

impl Logbook {
    /// Returns the frames of the lap called `name`, if it is a pass.
    pub fn pass(&self, name: &LapName) -> Result<Option<RecordedPass>, LogbookError> {
        let names = self.names()?;
        let Some(session) = names.id(&name.session) else { return Ok(None) };
        let query = "SELECT p.lap, p.about FROM pass p JOIN lap l ON l.id = p.lap
                     WHERE l.session = ?1 AND l.number = ?2";
        let found = self.one(query, &[&session, &name.number], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?))
        })?;
        let Some((id, about)) = found else { return Ok(None) };
        let about: PassAbout = self.parsed(&about, "what is said of a pass")?;
        let pass = Pass {
            shown: self.series(id, "shown")?,
            processor: self.series(id, "processor")?,
            graphics: self.series(id, "graphics")?,
            presenting: self.series(id, "presenting")?,
        };
        let same = |series: &Vec<u64>| series.is_empty() || series.len() == pass.shown.len();
        if pass.shown.is_empty()
            || pass.shown.contains(&0)
            || !named(&pass).iter().all(|(_, s)| same(s))
        {
            return Err(self.damaged(format!("the frames of lap {name}")));
        }
        Ok(Some(RecordedPass { about, pass }))
    }

    fn series(&self, id: i64, series: &str) -> Result<Vec<u64>, LogbookError> {
        let damaged = || self.damaged(format!("the frames of a lap ({series})"));
        let query = "SELECT count, packed FROM frames WHERE lap = ?1 AND series = ?2 ORDER BY part";
        let parts = self.rows(query, &[&id, &series], |row| {
            Ok((row.get::<_, u32>(0)?, row.get::<_, Vec<u8>>(1)?))
        })?;
        let mut all = Vec::new();
        for (count, packed) in parts {
            all.extend(unpack(&packed, count as usize).ok_or_else(damaged)?);
        }
        Ok(all)
    }

    /// Returns every log that passes were taken in from: its SHA-256, and the lap.
    pub fn logs(&self) -> Result<Vec<(String, LapName)>, LogbookError> {
        let names = self.names()?;
        let query = "SELECT l.session, l.number, p.about ->> 'log_sha256'
                     FROM pass p JOIN lap l ON l.id = p.lap WHERE p.about ->> 'log_sha256' NOTNULL";
        let rows = self.rows(query, &[], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, u32>(1)?, row.get::<_, String>(2)?))
        })?;
        let named = |(session, number, sum): (i64, u32, String)| {
            Some((sum, LapName { session: names.of(session)?.clone(), number }))
        };
        Ok(rows.into_iter().filter_map(named).collect())
    }

    /// Returns what the frames of every pass come to: under its last cut, where it has one.
    pub(crate) fn digests(&self, names: &Names) -> Result<HashMap<LapName, Digest>, LogbookError> {
        let query = "SELECT l.session, l.number, p.about FROM pass p JOIN lap l ON l.id = p.lap";
        let rows = self.rows(query, &[], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, u32>(1)?, row.get::<_, String>(2)?))
        })?;
        let mut all = HashMap::new();
        for (session, number, about) in rows {
            let session = names.of(session).ok_or_else(|| self.damaged("a lap's session"))?;
            let about: PassAbout = self.parsed(&about, "what is said of a pass")?;
            all.insert(LapName { session: session.clone(), number }, about.digest);
        }
        if all.is_empty() {
            return Ok(all);
        }
        for remark in self.remarks_with(names)? {
            if let (RemarkKind::Cut, Subject::Lap(lap)) = (remark.kind, remark.subject)
                && let Some(digest) = all.get_mut(&lap)
            {
                *digest = self.parsed(&remark.text, "the cut of a pass")?;
            }
        }
        Ok(all)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::random::SplitMix;

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
