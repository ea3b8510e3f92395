//! Which machine recorded under which name.

use crate::error::LogbookError;
use crate::open::Logbook;

impl Logbook {
    /// Returns the fingerprint of the machine that last recorded as `rig`, if there is one.
    pub fn machine_of(&self, rig: &str) -> Result<Option<String>, LogbookError> {
        Ok(self.machines()?.into_iter().rev().find(|(name, _)| name == rig).map(|(_, m)| m))
    }

    /// Returns the rig name under which the machine `fingerprint` last recorded, if there is one.
    pub fn rig_of(&self, fingerprint: &str) -> Result<Option<String>, LogbookError> {
        let machines = self.machines()?;
        Ok(machines.into_iter().rev().find(|(_, m)| m == fingerprint).map(|(name, _)| name))
    }

    /// Returns rig and machine of every session whose machine is known, the latest last. Laps that
    /// were typed in say nothing of the machine that they were typed in on.
    pub(crate) fn machines(&self) -> Result<Vec<(String, String)>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let query = "SELECT id, found ->> '$.machine' FROM session
                     WHERE found ->> '$.machine' IS NOT NULL ORDER BY started, id";
        let rows =
            self.rows(query, &[], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?)))?;
        Ok(rows.into_iter().filter_map(|(id, m)| Some((names.of(id)?.rig.clone(), m))).collect())
    }

    /// Returns rig, machine and rig as recorded of every session whose machine is known.
    pub(crate) fn machines_as_recorded(
        &self,
    ) -> Result<Vec<(String, String, String)>, LogbookError> {
        let _moment = self.moment()?;
        let names = self.names()?;
        let query = "SELECT id, found ->> '$.machine', rig FROM session
                     WHERE found ->> '$.machine' IS NOT NULL";
        let rows = self.rows(query, &[], |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?, row.get::<_, String>(2)?))
        })?;
        let named = rows.into_iter();
        Ok(named.filter_map(|(id, m, rig)| Some((names.of(id)?.rig.clone(), m, rig))).collect())
    }
}
