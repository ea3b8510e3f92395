//! Signatures: which key says that it recorded a session.
//!
//! The head of a session is the seal of its last record so far. What is signed (Ed25519, RFC 8032) is the record `head`
//! in core's one encoding: the session's mark, the number of the last lap, and the seal.

use super::place::{mark_of, next_place};
use crate::error::LogbookError;
use crate::hash::{hex, sha256};
use crate::new::OpenSession;
use crate::open::Logbook;
use crate::read::Sql;
use crate::stored::{SIGNATURE, SignatureRow};
use ed25519_dalek::{Signature, Signer, SigningKey, VerifyingKey};
use honest_lap_core::record::{Canonical, SessionName};
use rusqlite::{Connection, OptionalExtension, Transaction};
use std::collections::{BTreeMap, HashMap};

/// A signature of a session, checked.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Signed {
    /// The last lap that it covers.
    pub number: u32,
    /// The public key, in hexadecimal.
    pub key: String,
    /// Whether it is that key's signature of what was recorded.
    pub holds: bool,
}

/// Returns what is signed.
fn head(mark: &str, number: u32, seal: &str) -> Canonical {
    let mut head = Canonical::new("head");
    head.text("session", mark.as_bytes());
    head.number("number", number.into());
    head.text("seal", seal.as_bytes());
    head
}

impl Logbook {
    /// Signs what was recorded of sessions so far with the key whose secret is `secret`.
    pub fn sign(
        &mut self,
        sessions: &[&OpenSession],
        secret: &[u8; 32],
    ) -> Result<(), LogbookError> {
        self.still_there()?;
        let key = SigningKey::from_bytes(secret);
        self.transact("write to", |tx| sessions.iter().try_for_each(|one| sign(tx, one, &key)))
    }
}

fn sign(tx: &Transaction<'_>, session: &OpenSession, key: &SigningKey) -> Sql<()> {
    let public = hex(key.verifying_key().as_bytes());
    let query = "SELECT s.id, l.number, l.seal FROM session s JOIN seal l ON l.session = s.id
                 WHERE s.mark = ?1 ORDER BY l.number DESC LIMIT 1";
    let last: Option<(i64, u32, String)> = tx
        .prepare_cached(query)?
        .query_row([&session.mark], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?)))
        .optional()?;
    let Some((id, number, seal)) = last else { return Ok(()) };
    let signed = tx
        .prepare_cached(
            "SELECT EXISTS (SELECT 1 FROM signature WHERE session = ?1 AND number = ?2 AND key = ?3)",
        )?
        .query_row(rusqlite::params![id, number, public], |row| row.get::<_, bool>(0))?;
    if signed {
        return Ok(());
    }
    let signature = key.sign(head(&session.mark, number, &seal).bytes());
    let row = SignatureRow {
        place: next_place(tx)?,
        session: id,
        number,
        key: public,
        signature: hex(&signature.to_bytes()),
    };
    SIGNATURE.insert(tx, |write| write(&row)).map(|_| ())
}

impl Logbook {
    /// Returns every key that sessions are signed with, and the sessions.
    pub fn signers(&self) -> Result<BTreeMap<String, Vec<SessionName>>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let query = "SELECT DISTINCT key, session FROM signature ORDER BY session";
        let rows = self.rows(query, &[], |row| Ok((row.get(0)?, row.get::<_, i64>(1)?)))?;
        let mut all: BTreeMap<String, Vec<SessionName>> = BTreeMap::new();
        for (key, session) in rows {
            all.entry(key).or_default().extend(names.of(session).cloned());
        }
        Ok(all)
    }
}

/// Returns the public key of `secret`, in hexadecimal.
pub fn public_key(secret: &[u8; 32]) -> String {
    hex(SigningKey::from_bytes(secret).verifying_key().as_bytes())
}

/// Returns the signatures of a session, checked against the seals that its records come to.
pub(super) fn check(
    db: &Connection,
    session: i64,
    mark: &str,
    seals: &BTreeMap<u32, String>,
) -> rusqlite::Result<Vec<Signed>> {
    let rows: Vec<SignatureRow> =
        SIGNATURE.plain(db, ("WHERE session = ?1 ORDER BY place", &[&session]))?;
    let signed = rows.into_iter().map(|row| {
        let holds = seals.get(&row.number).is_some_and(|seal| holds(&row, mark, seal));
        Signed { number: row.number, key: row.key, holds }
    });
    Ok(signed.collect())
}

fn holds(row: &SignatureRow, mark: &str, seal: &str) -> bool {
    let checked = || {
        let key = VerifyingKey::from_bytes(&bytes(&row.key)?).ok()?;
        let signature = Signature::from_bytes(&bytes(&row.signature)?);
        // Strictly: one signature has one form, and a key of small order signs nothing.
        key.verify_strict(head(mark, row.number, seal).bytes(), &signature).ok()
    };
    checked().is_some()
}

fn bytes<const N: usize>(text: &str) -> Option<[u8; N]> {
    let mut bytes = [0; N];
    // In small letters, so that one key is one text.
    let digit = |at: usize| match text.as_bytes().get(at)? {
        digit @ b'0'..=b'9' => Some(digit - b'0'),
        digit @ b'a'..=b'f' => Some(digit - b'a' + 10),
        _ => None,
    };
    for (at, byte) in bytes.iter_mut().enumerate() {
        *byte = digit(2 * at)? << 4 | digit(2 * at + 1)?;
    }
    (text.len() == 2 * N).then_some(bytes)
}

/// Returns what stands for each signature in the logbook's own seal, by place.
pub(super) fn seals(db: &Connection) -> rusqlite::Result<HashMap<i64, String>> {
    let mut all = HashMap::new();
    let rows: Vec<SignatureRow> = SIGNATURE.plain(db, ("", &[]))?;
    for row in rows {
        let mark = mark_of(db, row.session).optional()?.unwrap_or_default();
        let mut record = Canonical::new("signature");
        record.text("session", mark.as_bytes());
        record.number("number", row.number.into());
        record.text("key", row.key.as_bytes());
        record.text("signature", row.signature.as_bytes());
        all.insert(row.place, sha256(record.bytes()));
    }
    Ok(all)
}
