//! The logbook's own seal: every record that is here, chained in the order in which it came into this file.
//!
//! ```text
//! seal(0) = SHA-256("honest-lap logbook 2"),  seal(n) = SHA-256(seal(n-1) ‖ place ‖ " " ‖ seal of record n)
//! ```
//!
//! Seals are chained as their hexadecimal digits, places as their decimal ones. A seal that was noted when the logbook had fewer records is met on
//! the way, so that it says for good that nothing was taken out since.

use super::{SealedSession, old_forms, signature};
use crate::error::LogbookError;
use crate::hash::sha256;
use crate::open::Logbook;
use crate::remark::SealedRemarks;

/// Digits of a seal that tell it from every other.
const DIGITS: usize = 16;

impl Logbook {
    /// Returns the logbook's own seal: it stands for everything that is here, in the order in which it came.
    pub fn seal(&self) -> Result<String, LogbookError> {
        let mut last = String::new();
        self.each_seal(|_, whole| whole.clone_into(&mut last))?;
        Ok(last)
    }

    /// Returns whether `noted`, or what begins so from 16 digits on, is a seal of something that is here as it was when
    /// it was noted: of a session, a lap or a remark, or of this logbook then.
    pub fn has_seal(
        &self,
        noted: &str,
        (sessions, remarks): (&[SealedSession], &SealedRemarks),
    ) -> Result<bool, LogbookError> {
        if noted.len() < DIGITS {
            return Ok(false);
        }
        let mut found = false;
        self.each_seal(|record, whole| {
            found |= record.starts_with(noted) || whole.starts_with(noted);
        })?;
        // Noted with a version that sealed whole logbooks otherwise.
        let last = sessions.iter().map(|session| session.seal.as_str());
        let old =
            old_forms::logbook(last.chain(remarks.seals.iter().map(String::as_str)).collect());
        Ok(found || old.starts_with(noted))
    }

    /// Calls `with` for every record, in order: its seal, and the logbook's up to there.
    fn each_seal(&self, mut with: impl FnMut(&str, &str)) -> Result<(), LogbookError> {
        let _moment = self.moment()?;
        let failed = |source| self.failed("verify", source);
        let query = "SELECT place, seal FROM seal UNION ALL SELECT place, seal FROM remark
             UNION ALL SELECT place, NULL FROM signature ORDER BY place";
        let mut signatures = signature::seals(&self.db).map_err(failed)?;
        let mut whole = sha256(b"honest-lap logbook 2");
        with("", &whole);
        let mut statement = self.db.prepare(query).map_err(failed)?;
        let mut rows = statement.query([]).map_err(failed)?;
        while let Some(row) = rows.next().map_err(failed)? {
            let place: i64 = row.get(0).map_err(failed)?;
            let seal: Option<String> = row.get(1).map_err(failed)?;
            let seal = seal.or_else(|| signatures.remove(&place)).unwrap_or_default();
            whole = sha256(format!("{whole}{place} {seal}").as_bytes());
            with(&seal, &whole);
        }
        Ok(())
    }
}
