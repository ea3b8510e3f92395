//! Examining somebody else's logbook before anything of it is imported: every record is read once, in bounded memory.

use crate::error::LogbookError;
use crate::frames::check_pass;
use crate::names::MOST_NUMBER;
use crate::open::Logbook;
use crate::series::PACKED;
use crate::stored::{DETAIL, DetailRow};
use honest_lap_core::record::{LapBody, Reading, Settings, Traces, is_name, is_rig_name};

/// Numbers that may be packed, whatever the file's size.
const MOST_PACKED: u64 = 1 << 26;
/// And for each of its bytes: what is recorded packs to a byte or two a number, and never to a sixteenth.
const MOST_A_BYTE: u64 = 16;
/// The longest name that anything has.
const LONGEST_NAME: usize = 80;
/// The longest text that a person writes.
const LONGEST_TEXT: u32 = 1 << 16;

impl Logbook {
    /// Returns an error if any record cannot be read or has a name that no study could have given; `bytes` is the
    /// size of the file.
    pub(crate) fn examine(&self, bytes: u64) -> Result<(), LogbookError> {
        self.check_packed(bytes)?;
        self.check_names()?;
        self.tasks()?;
        self.sessions()?;
        self.remarks()?;
        self.check_laps()
    }

    /// Session numbers that people could be shown, and that leave room for more.
    pub(crate) fn check_numbers(&self) -> Result<(), LogbookError> {
        let query = "SELECT rig || '-' || number FROM session WHERE number > ?1 LIMIT 1";
        match self.one(query, &[&MOST_NUMBER], |row| row.get::<_, String>(0))? {
            Some(name) => Err(self.damaged(format!("the number of session {name}"))),
            None => Ok(()),
        }
    }

    /// What packed numbers say they come to, before a single one is unpacked.
    fn check_packed(&self, bytes: u64) -> Result<(), LogbookError> {
        let query = "SELECT total(count) FROM chunk";
        let said: f64 = self.one(query, &[], |row| row.get(0))?.unwrap_or(0.0);
        let most = MOST_PACKED + bytes.saturating_mul(MOST_A_BYTE);
        match said > most as f64 {
            true => {
                Err(LogbookError::Bomb { path: self.path.clone(), numbers: said as u64, bytes })
            }
            false => Ok(()),
        }
    }

    /// Names are shown, typed and put into paths: they are such as a study may have.
    fn check_names(&self) -> Result<(), LogbookError> {
        let texts = |query: &str| self.rows(query, &[], |row| row.get::<_, String>(0));
        if let Some(name) =
            texts("SELECT DISTINCT workload FROM task")?.iter().find(|name| !is_rig_name(name))
        {
            return Err(self.damaged(format!("the name of a workload ({name:.40?})")));
        }
        for text in texts("SELECT settings FROM variant")? {
            let settings: Settings = self.parsed(&text, "the settings of a variant")?;
            if let Some((name, _)) =
                settings.iter().find(|(name, value)| !is_name(name) || !is_plain(value))
            {
                return Err(self.damaged(format!("a setting of a variant ({name:.40?})")));
            }
        }
        for text in texts("SELECT readings FROM lap_detail WHERE readings <> '[]'")? {
            let readings: Vec<Reading> = self.parsed(&text, "the readings of a lap")?;
            if let Some(reading) = readings
                .iter()
                .find(|reading| !is_plain(&reading.name) || reading.unit.len() > LONGEST_NAME)
            {
                return Err(self.damaged(format!("the name of a measure ({:.40?})", reading.name)));
            }
        }
        let query = "SELECT made FROM remark WHERE length(text) > ?1 LIMIT 1";
        match self.one(query, &[&LONGEST_TEXT], |row| row.get::<_, String>(0))? {
            Some(made) => {
                Err(self.damaged(format!("the remark made at {made:.40?}, which is too long")))
            }
            None => Ok(()),
        }
    }

    fn check_laps(&self) -> Result<(), LogbookError> {
        self.laps()?;
        let details = |detail: DetailRow<LapBody>| match detail.traces.starts_with(PACKED) {
            // Packed ones are unpacked below, lap by lap.
            true => Ok(()),
            false => self.parsed::<Traces>(&detail.traces, "the samples of a lap").map(|_| ()),
        };
        self.each(&DETAIL, ("", &[]), details)?;
        let packed = "SELECT lap FROM chunk
                      WHERE series NOT IN ('shown', 'processor', 'graphics', 'presenting')
                      UNION SELECT lap FROM lap_detail WHERE traces LIKE '{\"packed\"%'";
        for id in self.rows(packed, &[], |row| row.get::<_, i64>(0))? {
            self.body(id)?.ok_or_else(|| self.damaged(format!("lap {id}")))?;
        }
        let passes = "SELECT p.lap, s.rig || '-' || s.number || '.' || l.number
                      FROM pass p JOIN lap l ON l.id = p.lap JOIN session s ON s.id = l.session";
        let passes =
            self.rows(passes, &[], |row| Ok((row.get::<_, i64>(0)?, row.get::<_, String>(1)?)))?;
        passes.iter().try_for_each(|(id, name)| check_pass(self, *id, name))
    }
}

fn is_plain(text: &str) -> bool {
    (1..=LONGEST_NAME).contains(&text.chars().count()) && !text.chars().any(char::is_control)
}
