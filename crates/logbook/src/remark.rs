//! Remarks: set-asides, notes, and what a machine is called from now on.
//!
//! ```text
//! seal(remark) = SHA-256("honest-lap remark 1" ‖ seal of the remark before it ‖ fields)
//! ```
//!
//! A remark names the session it is about by the session's mark, which no renaming and no merge
//! changes. Where logbooks meet, chains of remarks meet too: each remark still names the one that
//! was before it when it was made.

use crate::error::LogbookError;
use crate::hash::{hash_fields, hex};
use crate::json::json;
use crate::names::Names;
use crate::open::Logbook;
use honest_lap_core::record;
use honest_lap_core::record::{LapName, Remark, RemarkKind, Subject};
use rusqlite::{Connection, params};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::{HashMap, HashSet};

/// The word for what a machine is called from now on.
const CALL: &str = "call";

/// What a remark is about, as it is kept.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Kept {
    Lap { session: String, number: u32 },
    Session(String),
    Rig(String),
    Workload(String),
    Machine { rig: String, machine: String },
}

/// Everything a remark's seal covers.
pub(crate) const REMARK_FIELDS: &str = "SELECT mark, made, kind, subject, text FROM remark";

/// The remarks of a logbook, checked.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SealedRemarks {
    /// The seal of every remark.
    pub seals: Vec<String>,
    /// When the first remark was made that is not as it was written, or whose predecessor is gone.
    pub broken: Option<String>,
}

impl Logbook {
    /// Writes down a remark; `mark` tells it from every other anywhere.
    pub fn append_remark(&mut self, remark: &Remark, mark: &str) -> Result<(), LogbookError> {
        let subject = self.kept(&remark.subject)?;
        self.write_remark(mark, &remark.made, remark.kind.word(), &subject, &remark.text)
    }

    /// Writes down that the machine `machine`, recorded as `rig`, is called `name` from now on.
    pub fn call_machine(
        &mut self,
        (rig, machine): (&str, &str),
        name: &str,
        made: &str,
        mark: &str,
    ) -> Result<(), LogbookError> {
        let subject = Kept::Machine { rig: rig.to_owned(), machine: machine.to_owned() };
        self.write_remark(mark, made, CALL, &subject, name)
    }

    fn write_remark(
        &mut self,
        mark: &str,
        made: &str,
        kind: &str,
        subject: &Kept,
        text: &str,
    ) -> Result<(), LogbookError> {
        self.still_there()?;
        self.transact("write to", |tx| {
            let before: Option<String> = tx
                .query_row("SELECT seal FROM remark ORDER BY id DESC LIMIT 1", [], |row| row.get(0))
                .map(Some)
                .or_else(|err| match err {
                    rusqlite::Error::QueryReturnedNoRows => Ok(None),
                    other => Err(other),
                })?;
            let before = before.unwrap_or_default();
            tx.execute(
                "INSERT INTO remark (mark, made, kind, subject, text, before, seal)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                params![mark, made, kind, json(subject), text, before, {
                    let fields = [mark, made, kind, &json(subject), text];
                    remark_seal(&before, &fields)
                }],
            )?;
            Ok(())
        })
    }

    /// Returns every remark, in the order made; those about what is not here are left out.
    pub fn remarks(&self) -> Result<Vec<Remark>, LogbookError> {
        let names = self.names()?;
        let mut remarks = self.remarks_with(&names)?;
        for remark in remarks.iter_mut().filter(|remark| remark.kind == RemarkKind::Cut) {
            // Kept with what the frames come to under it; people read what is left out.
            let digest: record::Digest = self.parsed(&remark.text, "the cut of a pass")?;
            remark.text = match digest.cut.is_empty() {
                true => "nothing is left out".to_owned(),
                false => format!("without {}", digest.cut),
            };
        }
        Ok(remarks)
    }

    /// Writes down that the figures of a pass are those of `digest` from now on.
    pub fn append_cut(
        &mut self,
        lap: &LapName,
        digest: &record::Digest,
        made: &str,
        mark: &str,
    ) -> Result<(), LogbookError> {
        let subject = self.kept(&Subject::Lap(lap.clone()))?;
        self.write_remark(mark, made, RemarkKind::Cut.word(), &subject, &json(digest))
    }

    pub(crate) fn remarks_with(&self, names: &Names) -> Result<Vec<Remark>, LogbookError> {
        let ids: HashMap<String, i64> = self
            .rows("SELECT mark, id FROM session", &[], |row| Ok((row.get(0)?, row.get(1)?)))?
            .into_iter()
            .collect();
        let session = |mark: &str| names.of(*ids.get(mark)?).cloned();
        let mut remarks = Vec::new();
        for (made, kind, subject, text) in self.raw_remarks()? {
            let Some(kind) = RemarkKind::from_word(&kind) else { continue };
            let subject = match self.parsed(&subject, "what a remark is about")? {
                Kept::Lap { session: mark, number } => {
                    session(&mark).map(|session| Subject::Lap(LapName { session, number }))
                }
                Kept::Session(mark) => session(&mark).map(Subject::Session),
                Kept::Rig(name) => Some(Subject::Rig(name)),
                Kept::Workload(name) => Some(Subject::Workload(name)),
                Kept::Machine { .. } => None,
            };
            remarks.extend(subject.map(|subject| Remark { kind, subject, made, text }));
        }
        Ok(remarks)
    }

    /// Returns what machines are called that were recorded under another name: (rig, machine) → name.
    pub(crate) fn calls(&self) -> Result<HashMap<(String, String), String>, LogbookError> {
        let mut calls = HashMap::new();
        for (_, kind, subject, text) in self.raw_remarks()? {
            if kind == CALL
                && let Kept::Machine { rig, machine } =
                    self.parsed(&subject, "what a remark is about")?
            {
                calls.insert((rig, machine), text);
            }
        }
        Ok(calls)
    }

    /// Returns moment, kind, subject and text of every remark, in the order made.
    fn raw_remarks(&self) -> Result<Vec<(String, String, String, String)>, LogbookError> {
        let query = "SELECT made, kind, subject, text FROM remark ORDER BY made, id";
        self.rows(query, &[], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))
    }

    fn kept(&self, subject: &Subject) -> Result<Kept, LogbookError> {
        let names = self.names()?;
        let mark = |session| -> Result<String, LogbookError> {
            let missing = || LogbookError::NoSuch { what: format!("session {session}") };
            let id = names.id(session).ok_or_else(missing)?;
            self.one("SELECT mark FROM session WHERE id = ?1", &[&id], |row| row.get(0))?
                .ok_or_else(missing)
        };
        Ok(match subject {
            Subject::Lap(lap) => Kept::Lap { session: mark(&lap.session)?, number: lap.number },
            Subject::Session(session) => Kept::Session(mark(session)?),
            Subject::Rig(name) => Kept::Rig(name.clone()),
            Subject::Workload(name) => Kept::Workload(name.clone()),
        })
    }

    /// Returns the remarks with their seals checked.
    pub fn verify_remarks(&self) -> Result<SealedRemarks, LogbookError> {
        checked(&self.db).map_err(|source| self.failed("verify", source))
    }
}

fn checked(db: &Connection) -> rusqlite::Result<SealedRemarks> {
    let query = REMARK_FIELDS.replace(" FROM", ", before, seal FROM");
    let mut statement = db.prepare(&format!("{query} ORDER BY id"))?;
    let mut rows = statement.query([])?;
    let mut all: Vec<(String, String, String, bool)> = Vec::new();
    while let Some(row) = rows.next()? {
        let field = |at| -> rusqlite::Result<String> { row.get(at) };
        let fields = [field(0)?, field(1)?, field(2)?, field(3)?, field(4)?];
        let (before, seal) = (field(5)?, field(6)?);
        let fields: Vec<&str> = fields.iter().map(String::as_str).collect();
        let whole = remark_seal(&before, &fields) == seal;
        all.push((fields[1].to_owned(), before, seal, whole));
    }
    let known: HashSet<&str> = all.iter().map(|(_, _, seal, _)| seal.as_str()).collect();
    let broken = all
        .iter()
        .find(|(_, before, _, whole)| {
            !whole || (!before.is_empty() && !known.contains(before.as_str()))
        })
        .map(|(made, ..)| made.clone());
    Ok(SealedRemarks { broken, seals: all.into_iter().map(|(_, _, seal, _)| seal).collect() })
}

fn remark_seal(before: &str, fields: &[&str]) -> String {
    let mut hasher = Sha256::new_with_prefix("honest-lap remark 1");
    hasher.update(before);
    hash_fields(
        fields.iter().map(|text| rusqlite::types::ValueRef::Text(text.as_bytes())),
        &mut hasher,
    );
    hex(hasher)
}
