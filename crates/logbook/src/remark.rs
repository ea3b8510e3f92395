//! Remarks: set-asides, notes, and what a machine is called from now on.
//!
//! Each is sealed as a record in core's one encoding, the seal of the remark before it among its fields. A remark names the session it is about by the session's mark, which no renaming and no merge
//! changes. Where logbooks meet, chains of remarks meet too: each remark still names the one that
//! was before it when it was made.

use crate::error::LogbookError;
use crate::hash::sha256;
use crate::json::json;
use crate::names::Names;
use crate::open::Logbook;
use crate::seal::{next_place, remark_1};
use crate::stored::{REMARK, RemarkRow};
use honest_lap_core::record;
use honest_lap_core::record::{CANONICAL, LapName, Remark, RemarkKind, Subject};
use rusqlite::{Connection, OptionalExtension};
use serde::{Deserialize, Serialize};
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
            let query = "SELECT seal FROM remark ORDER BY place DESC LIMIT 1";
            let before: Option<String> = tx.query_row(query, [], |row| row.get(0)).optional()?;
            let mut row = RemarkRow {
                place: next_place(tx)?,
                mark: mark.to_owned(),
                made: made.to_owned(),
                kind: kind.to_owned(),
                subject: json(subject),
                text: text.to_owned(),
                before: before.unwrap_or_default(),
                seal: String::new(),
                form: CANONICAL,
            };
            row.seal = remark_seal(&row);
            REMARK.insert(tx, |write| write(&row)).map(|_| ())
        })
    }

    /// Returns every remark, in the order made; those about what is not here are left out.
    pub fn remarks(&self) -> Result<Vec<Remark>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let mut remarks = self.remarks_with(&names, None)?;
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

    /// Returns the remarks, all or those about `about`; those about what is not here are left out.
    pub(crate) fn remarks_with(
        &self,
        names: &Names,
        about: Option<&Subject>,
    ) -> Result<Vec<Remark>, LogbookError> {
        let ids: HashMap<String, i64> = self
            .rows("SELECT mark, id FROM session", &[], |row| Ok((row.get(0)?, row.get(1)?)))?
            .into_iter()
            .collect();
        let session = |mark: &str| names.of(*ids.get(mark)?).cloned();
        let mut remarks = Vec::new();
        let about = about.map(|subject| self.kept(subject)).transpose()?.map(|kept| json(&kept));
        for (made, kind, subject, text) in self.raw_remarks(about.as_deref())? {
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
        for (_, kind, subject, text) in self.raw_remarks(None)? {
            if kind == CALL
                && let Kept::Machine { rig, machine } =
                    self.parsed(&subject, "what a remark is about")?
            {
                calls.insert((rig, machine), text);
            }
        }
        Ok(calls)
    }

    /// Returns moment, kind, subject and text of every remark, or of those on one subject as it is kept, in the order
    /// made.
    fn raw_remarks(
        &self,
        about: Option<&str>,
    ) -> Result<Vec<(String, String, String, String)>, LogbookError> {
        let query = "SELECT made, kind, subject, text FROM remark
                     WHERE ?1 IS NULL OR subject = ?1 ORDER BY made, place";
        self.rows(query, &[&about], |row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?)))
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
    let all: Vec<RemarkRow> = REMARK.plain(db, ("ORDER BY place", &[]))?;
    let known: HashSet<&str> = all.iter().map(|remark| remark.seal.as_str()).collect();
    let holds = |remark: &&RemarkRow| {
        let before = remark.before.is_empty() || known.contains(remark.before.as_str());
        before && remark_seal(remark) == remark.seal
    };
    let broken = all.iter().find(|remark| !holds(remark)).map(|remark| remark.made.clone());
    Ok(SealedRemarks { broken, seals: all.into_iter().map(|remark| remark.seal).collect() })
}

/// Returns the seal that a remark should have; that of a form that never was is nobody's.
fn remark_seal(row: &RemarkRow) -> String {
    let fields = [&row.mark, &row.made, &row.kind, &row.subject, &row.text];
    match row.form {
        1 => remark_1(&row.before, &fields.map(String::as_str)),
        CANONICAL => sha256(REMARK.sealed(|write| write(row)).bytes()),
        _ => String::new(),
    }
}
