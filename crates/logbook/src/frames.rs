//! The frames of passes: series of whole nanoseconds (chunks.rs).

use crate::chunks::put;
use crate::error::LogbookError;
use crate::names::Names;
use crate::open::Logbook;
use crate::stored::{PASS, PassRow};
use honest_lap_core::record::{
    Digest, LapName, Pass, PassAbout, RecordedPass, RemarkKind, Subject,
};
use honest_lap_packing::unpack;
use rusqlite::Transaction;
use std::collections::HashMap;

/// Writes the pass of the lap `lap`.
pub(crate) fn insert(
    tx: &Transaction<'_>,
    lap: i64,
    recorded: &RecordedPass,
) -> rusqlite::Result<()> {
    let row = PassRow { lap, about: &recorded.about };
    PASS.insert(tx, |write| write(&row))?;
    named(&recorded.pass).into_iter().try_for_each(|(name, numbers)| put(tx, lap, name, numbers))
}

fn named(pass: &Pass) -> [(&'static str, &Vec<u64>); 4] {
    [
        ("shown", &pass.shown),
        ("processor", &pass.processor),
        ("graphics", &pass.graphics),
        ("presenting", &pass.presenting),
    ]
}

impl Logbook {
    /// Returns the frames of the lap called `name`, if it is a pass.
    pub fn pass(&self, name: &LapName) -> Result<Option<RecordedPass>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let Some(session) = names.id(&name.session) else { return Ok(None) };
        let query = "SELECT p.lap, p.about FROM pass p JOIN lap l ON l.id = p.lap
                     WHERE l.session = ?1 AND l.number = ?2";
        let found = self.one(query, &[&session, &name.number], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?))
        })?;
        let Some((id, about)) = found else { return Ok(None) };
        let mut about: PassAbout = self.parsed(&about, "what is said of a pass")?;
        let pass = self.frames_of(id)?;
        let same = |series: &Vec<u64>| series.is_empty() || series.len() == pass.shown.len();
        if pass.shown.is_empty()
            || pass.shown.contains(&0)
            || !named(&pass).iter().all(|(_, s)| same(s))
        {
            return Err(self.damaged(format!("the frames of lap {name}")));
        }
        about.digest = up_to_date(about.digest, || Ok(pass.clone()))?;
        Ok(Some(RecordedPass { about, pass }))
    }

    /// Returns the frames of the lap `id`; none if it is no pass.
    pub(crate) fn shown(&self, id: i64) -> Result<Vec<u64>, LogbookError> {
        self.numbers(id, "shown")
    }

    fn frames_of(&self, id: i64) -> Result<Pass, LogbookError> {
        Ok(Pass {
            shown: self.numbers(id, "shown")?,
            processor: self.numbers(id, "processor")?,
            graphics: self.numbers(id, "graphics")?,
            presenting: self.numbers(id, "presenting")?,
        })
    }

    /// Returns every log that passes were imported from: its SHA-256, and the lap.
    pub fn logs(&self) -> Result<Vec<(String, LapName)>, LogbookError> {
        let _moment = self.moment()?;
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

    /// Returns what the frames of every pass come to: under its last cut, where one has been cut.
    pub fn all_digests(&self) -> Result<HashMap<LapName, Digest>, LogbookError> {
        let _moment = self.moment()?;
        self.digests(&self.names()?, ("", &[]))
    }

    /// Returns the same of the passes among the laps that `condition` selects.
    pub(crate) fn digests(
        &self,
        names: &Names,
        which: (&str, &[&dyn rusqlite::ToSql]),
    ) -> Result<HashMap<LapName, Digest>, LogbookError> {
        let all = self.cut_digests(names, which)?;
        Ok(all.into_iter().map(|(name, (_, digest))| (name, digest)).collect())
    }

    /// Returns the same by the number of the lap here.
    pub(crate) fn numbered_digests(
        &self,
        names: &Names,
        which: (&str, &[&dyn rusqlite::ToSql]),
    ) -> Result<HashMap<i64, Digest>, LogbookError> {
        Ok(self.cut_digests(names, which)?.into_values().collect())
    }

    fn cut_digests(
        &self,
        names: &Names,
        (condition, values): (&str, &[&dyn rusqlite::ToSql]),
    ) -> Result<HashMap<LapName, (i64, Digest)>, LogbookError> {
        let query = format!(
            "SELECT l.session, l.number, p.about, l.id
             FROM pass p JOIN (SELECT * FROM lap {condition}) l ON l.id = p.lap"
        );
        let rows = self.rows(&query, values, |row| {
            let lap = (row.get::<_, i64>(0)?, row.get::<_, u32>(1)?);
            Ok((lap, row.get::<_, String>(2)?, row.get::<_, i64>(3)?))
        })?;
        let mut all = HashMap::new();
        for ((session, number), about, id) in rows {
            let session = names.of(session).ok_or_else(|| self.damaged("a lap's session"))?;
            let about: PassAbout = self.parsed(&about, "what is said of a pass")?;
            all.insert(LapName { session: session.clone(), number }, (id, about.digest));
        }
        if all.is_empty() {
            return Ok(HashMap::new());
        }
        for remark in self.remarks_with(names, None)? {
            if let (RemarkKind::Cut, Subject::Lap(lap)) = (remark.kind, remark.subject)
                && let Some((_, digest)) = all.get_mut(&lap)
            {
                *digest = self.parsed(&remark.text, "the cut of a pass")?;
            }
        }
        let one =
            |(name, (id, digest))| Ok((name, (id, up_to_date(digest, || self.frames_of(id))?)));
        all.into_iter().map(one).collect()
    }
}

/// Returns an error unless the frames of the lap `id`, recorded as `name`, are those of a pass, part by part: they are
/// never all held.
pub(crate) fn check_pass(logbook: &Logbook, id: i64, name: &str) -> Result<(), LogbookError> {
    let damaged = || logbook.damaged(format!("the frames of lap {name}"));
    let query = "SELECT series, count, packed FROM chunk
                 WHERE lap = ?1 AND series IN ('shown', 'processor', 'graphics', 'presenting')
                 ORDER BY series, part";
    let mut statement =
        logbook.db.prepare_cached(query).map_err(|err| logbook.failed("read", err))?;
    let mut rows = statement.query([id]).map_err(|err| logbook.failed("read", err))?;
    let mut frames: HashMap<String, usize> = HashMap::new();
    while let Some(row) = rows.next().map_err(|err| logbook.failed("read", err))? {
        let part = || -> rusqlite::Result<(String, u32, Vec<u8>)> {
            Ok((row.get(0)?, row.get(1)?, row.get(2)?))
        };
        let (series, count, packed) = part().map_err(|err| logbook.failed("read", err))?;
        let part = unpack(&packed, count as usize).ok_or_else(damaged)?;
        if series == "shown" && part.contains(&0) {
            return Err(damaged());
        }
        *frames.entry(series).or_default() += part.len();
    }
    let shown = frames.get("shown").copied().unwrap_or(0);
    let alike = frames.values().all(|&count| count == shown);
    if shown == 0 || shown > MOST_FRAMES || !alike {
        return Err(damaged());
    }
    Ok(())
}

/// Frames that a pass may have: five hours at a thousand a second.
const MOST_FRAMES: usize = 1 << 24;

/// Returns `digest`, or where another version worked it out what `frames` come to now; one that they no longer
/// come to anything under stays as it was written.
fn up_to_date(
    digest: Digest,
    frames: impl FnOnce() -> Result<Pass, LogbookError>,
) -> Result<Digest, LogbookError> {
    if digest.is_current() {
        return Ok(digest);
    }
    Ok(Digest::of(&frames()?, &digest.cut, digest.against).unwrap_or(digest))
}
