//! Seals: every record of a session is chained by hash to the one before it.
//!
//! ```text
//! seal(record) = SHA-256(the record in its one encoding: record.rs, and core's `Canonical`)
//! ```
//!
//! A lap's record begins with the seal before it in its session. The chain runs within a session, because a session
//! is written on one rig in one session: sessions of several rigs can meet in one logbook and every chain stays
//! whole. Seals of forms 1 to 4, of older logbooks, are checked by their own rules (old_forms.rs); a session that was
//! begun under them goes on under this one. Source: FIPS 180-4.

mod chain;
mod old_forms;
mod place;
mod record;
mod signature;

pub(crate) use old_forms::remark as remark_1;
pub(crate) use place::next_place;
pub use signature::{Signed, public_key};

use crate::error::LogbookError;
use crate::hash::sha256;
use crate::open::Logbook;
use crate::stored::{SEAL, SealRow};
use honest_lap_core::both;
use honest_lap_core::record::{CANONICAL, LapName, SessionName};
use place::mark_of;
use record::{Beside, COVERED, Referred};
use rusqlite::{Connection, params};
use std::collections::BTreeMap;

/// The seals of a session, checked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SealedSession {
    /// The session.
    pub name: SessionName,
    /// How many laps it holds.
    pub laps: usize,
    /// The number of the last one; 0 if it holds none.
    pub last: u32,
    /// Its last seal: it stands for the session and every lap of it.
    pub seal: String,
    /// The first record that is not as it was written; `None` if all are.
    pub broken: Option<Broken>,
    /// Its signatures, in the order made.
    pub signed: Vec<Signed>,
}

/// A record that is not as it was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Broken {
    /// The session's own record has changed.
    Session,
    /// The lap has changed, or one before it was taken out.
    Lap(LapName),
    /// The lap is gone; its seal is still there.
    Missing(LapName),
    /// The lap was put in without a seal.
    Unsealed(LapName),
    /// A signature is not that of what was recorded.
    Signature,
}

impl std::fmt::Display for Broken {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Session => write!(f, "the session's own record has changed"),
            Self::Lap(lap) => write!(f, "lap {lap} has changed, or one before it was taken out"),
            Self::Missing(lap) => write!(f, "lap {lap} was taken out"),
            Self::Unsealed(lap) => write!(f, "lap {lap} was put in by something else"),
            Self::Signature => write!(f, "a signature is not of what was recorded"),
        }
    }
}

/// Seals the session `id`, just written.
pub(crate) fn seal_session(db: &Connection, id: i64) -> rusqlite::Result<()> {
    put(db, id, 0, sha256(record::session(db, id)?.bytes()))
}

/// Seals the lap `id`, just written as number `number` of `session`, to the record before it.
///
/// It is read back for that: what is sealed is what stands there.
pub(crate) fn seal_lap(
    db: &Connection,
    session: i64,
    number: u32,
    id: i64,
) -> rusqlite::Result<()> {
    let before: String = db
        .prepare_cached(
            "SELECT seal FROM seal WHERE session = ?1 AND number < ?2 ORDER BY number DESC LIMIT 1",
        )?
        .query_row(params![session, number], |row| row.get(0))?;
    let mark = mark_of(db, session)?;
    let mut lap = db
        .prepare_cached(&record::laps_query("WHERE x.id = ?1"))?
        .query_row([id], |row| record::lap(db, row, (&before, &mark), &mut Referred::default()))?;
    for covered in &COVERED.beside {
        let mut statement = db.prepare_cached(&covered.beside_query("WHERE l.id = ?1"))?;
        Beside::new(covered, statement.query([id])?)?.add(number, &mut lap)?;
    }
    put(db, session, number, sha256(lap.record.bytes()))
}

fn put(db: &Connection, session: i64, number: u32, seal: String) -> rusqlite::Result<()> {
    let row = SealRow { place: next_place(db)?, session, number, seal, form: CANONICAL };
    SEAL.insert(db, |write| write(&row)).map(|_| ())
}

impl Logbook {
    /// Returns every session with its seals and signatures checked, in the order written.
    ///
    /// What proves that nothing was taken off the end is a seal kept elsewhere: the logbook's
    /// own, [`Self::seal`], is printed for that.
    pub fn verify(&self) -> Result<Vec<SealedSession>, LogbookError> {
        let names = self.names()?;
        let query = "SELECT s.id, count(l.id) FROM session s LEFT JOIN lap l ON l.session = s.id
                     GROUP BY s.id ORDER BY s.id";
        let laps: Vec<(i64, usize)> =
            self.rows(query, &[], |row| Ok((row.get(0)?, row.get::<_, u32>(1)? as usize)))?;
        let checked = |db: &Connection, some: &[(i64, usize)]| -> rusqlite::Result<Vec<_>> {
            // One view of the file for all of it, and no lock taken anew for every lap.
            let _view = db.unchecked_transaction()?;
            let mut known = Referred::default();
            let named = some.iter().filter_map(|&(id, _)| Some((id, names.of(id)?.clone())));
            named.map(|(id, name)| check(db, id, name, &mut known)).collect()
        };
        let run = || match self.beside_this()? {
            // The second half on a connection of its own: what takes time is hashing.
            Some(other) if laps.iter().map(|(_, laps)| laps).sum::<usize>() > MANY => {
                let (first, second) = laps.split_at(middle(&laps));
                let (all, more) =
                    both(|| checked(&self.db, first), move || checked(&other, second));
                let mut all = all?;
                all.extend(more?);
                Ok(all)
            }
            _ => checked(&self.db, &laps),
        };
        run().map_err(|source| self.failed("verify", source))
    }
}

/// Laps from which on two hands are faster than one.
const MANY: usize = 2_000;

/// Returns where to split sessions, each with its number of laps, so that both parts have about as many.
fn middle(laps: &[(i64, usize)]) -> usize {
    let all: usize = laps.iter().map(|(_, laps)| laps).sum();
    let mut before = 0;
    laps.iter()
        .position(|(_, laps)| {
            before += laps;
            2 * before > all
        })
        .unwrap_or(0)
}

fn check(
    db: &Connection,
    id: i64,
    name: SessionName,
    known: &mut Referred,
) -> rusqlite::Result<SealedSession> {
    let mut kept = kept_seals(db, id)?;
    let own = kept.remove(&0);
    let mark = mark_of(db, id)?;
    let mut seal = match own.as_ref().map_or(CANONICAL, |seal| seal.form) {
        CANONICAL => sha256(record::session(db, id)?.bytes()),
        form => old_forms::session(db, id, form)?,
    };
    let holds = own.is_some_and(|own| is_known(own.form) && own.seal == seal);
    let mut broken = (!holds).then_some(Broken::Session);
    // One query for a session: preparing it anew for each lap would cost more than the hashes.
    let of_session = "WHERE l.session = ?1";
    let mut statements = COVERED
        .beside
        .iter()
        .map(|covered| db.prepare_cached(&covered.beside_query(of_session)))
        .collect::<rusqlite::Result<Vec<_>>>()?;
    let mut beside = statements
        .iter_mut()
        .zip(&COVERED.beside)
        .map(|(statement, covered)| Beside::new(covered, statement.query([id])?))
        .collect::<rusqlite::Result<Vec<_>>>()?;
    let mut statement =
        db.prepare_cached(&record::laps_query("WHERE x.session = ?1 ORDER BY x.number"))?;
    let mut rows = statement.query([id])?;
    let mut laps = 0;
    let named = |number| LapName { session: name.clone(), number };
    let mut seals = BTreeMap::from([(0, seal.clone())]);
    while let Some(row) = rows.next()? {
        laps += 1;
        let mut lap = record::lap(db, row, (&seal, &mark), known)?;
        let mut whole = true;
        for rows in &mut beside {
            whole &= rows.add(lap.number, &mut lap)?;
        }
        let number = lap.number;
        let form = kept.get(&number).map_or(CANONICAL, |seal| seal.form);
        whole &= is_known(form) && (form == CANONICAL || !lap.late);
        seal = match form {
            CANONICAL => sha256(lap.record.bytes()),
            form => old_forms::lap(db, lap.id, &seal, form)?,
        };
        seals.insert(number, seal.clone());
        let after = kept.split_off(&number);
        // A seal that is left over from below belongs to a lap that is gone.
        let gone = std::mem::replace(&mut kept, after).into_keys().next();
        let found = match (gone, kept.remove(&number)) {
            (Some(gone), _) => Some(Broken::Missing(named(gone))),
            (None, None) => Some(Broken::Unsealed(named(number))),
            (None, Some(kept)) => (kept.seal != seal || !whole).then(|| Broken::Lap(named(number))),
        };
        broken = broken.or(found);
    }
    let gone = kept.into_keys().next().map(|number| Broken::Missing(named(number)));
    let last = seals.last_key_value().map_or(0, |(number, _)| *number);
    let signed = signature::check(db, id, &mark, &seals)?;
    let forged = signed.iter().any(|signed| !signed.holds).then_some(Broken::Signature);
    Ok(SealedSession { laps, last, seal, broken: broken.or(gone).or(forged), signed, name })
}

/// Returns the records of a session and of its laps, as they are sealed.
#[cfg(test)]
pub(crate) fn records(
    db: &Connection,
    session: i64,
) -> rusqlite::Result<Vec<honest_lap_core::record::Canonical>> {
    let mut all = vec![record::session(db, session)?];
    let mark = mark_of(db, session)?;
    let mut before = sha256(all[0].bytes());
    let mut statement =
        db.prepare(&record::laps_query("WHERE x.session = ?1 ORDER BY x.number"))?;
    let mut rows = statement.query([session])?;
    while let Some(row) = rows.next()? {
        let lap = record::lap(db, row, (&before, &mark), &mut Referred::default())?;
        before = sha256(lap.record.bytes());
        all.push(lap.record);
    }
    Ok(all)
}

/// Returns whether seals of this form were ever made.
fn is_known(form: u32) -> bool {
    (1..=old_forms::LAST).contains(&form) || form == CANONICAL
}

/// Returns the seals of a session as they were written, by number.
fn kept_seals(db: &Connection, session: i64) -> rusqlite::Result<BTreeMap<u32, SealRow>> {
    let all: Vec<SealRow> = SEAL.plain(db, ("WHERE session = ?1", &[&session]))?;
    Ok(all.into_iter().map(|seal| (seal.number, seal)).collect())
}
