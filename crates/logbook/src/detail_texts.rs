//! What stands beside a lap's head, as it is written down, and what that says.

use honest_lap_core::lab::LapFacts;
use honest_lap_core::record::Reading;
use honest_lap_core::unit::Nanos;
use serde::de::DeserializeOwned;

/// What figures read of a lap's detail, as it is written down.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DetailTexts<'t> {
    /// Why it was not done.
    pub reason: Option<&'t str>,
    /// Processor time that its processes used themselves, in nanoseconds.
    pub user_ns: Option<u64>,
    /// Processor time that the system used for them, likewise.
    pub system_ns: Option<u64>,
    /// The conditions that it was run under.
    pub conditions: &'t str,
    /// What it produced.
    pub produced: &'t str,
    /// What it left running.
    pub left_behind: &'t str,
    /// What was read from it.
    pub readings: &'t str,
}

impl Default for DetailTexts<'_> {
    /// Returns those of a lap of which nothing is known.
    fn default() -> Self {
        Self {
            reason: None,
            user_ns: None,
            system_ns: None,
            conditions: "{}",
            produced: NONE,
            left_behind: NONE,
            readings: NONE,
        }
    }
}

/// A list of nothing.
const NONE: &str = "[]";

impl DetailTexts<'_> {
    /// Returns what was read from the lap.
    ///
    /// * Errors: what says nothing, in words.
    pub fn readings(&self) -> Result<Vec<Reading>, &'static str> {
        parsed(self.readings, "the readings of a lap")
    }

    /// Returns what else is known of it, but for what it comes to by its frames and over time.
    ///
    /// * Errors: what says nothing, in words.
    pub fn facts(&self) -> Result<LapFacts, &'static str> {
        Ok(LapFacts {
            conditions: parsed(self.conditions, "the conditions of a lap")?,
            processor_time: self.processor_time(),
            reason: self.reason.map(str::to_owned),
            produced: parsed(self.produced, "the products of a lap")?,
            left_behind: parsed(self.left_behind, "what a lap left behind")?,
            frames: None,
            endured: None,
        })
    }

    /// Returns the processor time that the system accounts to it.
    pub(crate) fn processor_time(&self) -> Option<Nanos> {
        let both = self.user_ns.zip(self.system_ns);
        both.map(|(user, system)| Nanos(user.saturating_add(system)))
    }
}

fn parsed<T: DeserializeOwned + Default>(
    text: &str,
    what: &'static str,
) -> Result<T, &'static str> {
    // Most laps have none.
    if text == NONE { Ok(T::default()) } else { serde_json::from_str(text).map_err(|_| what) }
}
