//! Laps by name: what verdicts are worked out without.

use crate::lab::Lap;
use crate::record::{LapName, SessionName};
use std::collections::{HashMap, HashSet};

/// Laps, by session and number.
#[derive(Debug)]
pub(super) struct LapSet<'n> {
    numbers: HashMap<&'n SessionName, HashSet<u32>>,
}

impl<'n> LapSet<'n> {
    /// Returns the laps called `names`.
    pub(super) fn of(names: &'n [LapName]) -> Self {
        let mut numbers: HashMap<&SessionName, HashSet<u32>> = HashMap::new();
        for name in names {
            numbers.entry(&name.session).or_default().insert(name.number);
        }
        Self { numbers }
    }

    /// Returns whether any of them is of `session`.
    pub(super) fn is_of(&self, session: &SessionName) -> bool {
        self.numbers.contains_key(session)
    }

    /// Returns whether `lap` is one of them.
    pub(super) fn has(&self, lap: &Lap<'_>) -> bool {
        self.numbers.get(lap.session()).is_some_and(|numbers| numbers.contains(&lap.number))
    }
}
