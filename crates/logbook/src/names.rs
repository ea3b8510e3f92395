//! Which session is called what.
//!
//! A session's rig and number are sealed as they were recorded. Logbooks that meet may still hold
//! two sessions of one name: a machine that a person calls otherwise from now on, or a study's
//! folder that was copied and run in both places. So names are worked out here, from the records
//! alone, and come out the same whatever was merged in which order.

use crate::error::LogbookError;
use crate::open::Logbook;
use honest_lap_core::record::{SessionName, is_rig_name};
use std::collections::{BTreeMap, HashMap, HashSet};

/// What is added to the number of a session whose name an earlier one has.
const SECOND: u32 = 1_000;

/// The highest number that a session is given, and that one may have that is imported.
pub(crate) const MOST_NUMBER: u32 = 999_999_999;

/// The sessions of a logbook, by number and by name.
#[derive(Debug, Default)]
pub(crate) struct Names {
    by_id: HashMap<i64, SessionName>,
    ids: HashMap<SessionName, i64>,
}

impl Names {
    pub(crate) fn of(&self, id: i64) -> Option<&SessionName> {
        self.by_id.get(&id)
    }

    pub(crate) fn id(&self, name: &SessionName) -> Option<i64> {
        self.ids.get(name).copied()
    }

    /// Returns the number of the next session of `rig`: one above the highest that it has.
    pub(crate) fn next(&self, rig: &str) -> Result<u32, LogbookError> {
        let last = self.ids.keys().filter(|n| n.rig == rig).map(|n| n.number).max().unwrap_or(0);
        let next = last.checked_add(1).filter(|next| *next <= MOST_NUMBER);
        next.ok_or_else(|| LogbookError::NoSuch {
            what: format!("free number for a session of {rig}"),
        })
    }
}

/// A session's row, as far as its name needs it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
struct Recorded {
    rig: String,
    number: u32,
    started: String,
    mark: String,
    id: i64,
}

/// Returns the name of every session of `all`: the first to have begun keeps a name that several
/// were recorded under, the others go on a thousand higher.
fn names(mut all: Vec<Recorded>) -> BTreeMap<i64, SessionName> {
    all.sort();
    let mut taken: HashSet<SessionName> = HashSet::new();
    // Where to look on for each name that several have: a thousand of one name are a thousand steps, not a million.
    let mut further: HashMap<SessionName, u32> = HashMap::new();
    let mut named = BTreeMap::new();
    for session in all {
        let recorded = SessionName { rig: session.rig, number: session.number };
        let mut name = recorded.clone();
        if taken.contains(&name) {
            let from = further.get(&recorded).copied().unwrap_or(recorded.number);
            name.number = free(&recorded.rig, from, &taken);
            further.insert(recorded, name.number);
        }
        taken.insert(name.clone());
        named.insert(session.id, name);
    }
    named
}

/// Returns the next free number behind `from`, a thousand higher each time; at the end of numbers whichever is free.
fn free(rig: &str, from: u32, taken: &HashSet<SessionName>) -> u32 {
    let is_free =
        |number: &u32| !taken.contains(&SessionName { rig: rig.to_owned(), number: *number });
    let steps = (1..).map_while(|step: u32| from.checked_add(step.checked_mul(SECOND)?));
    let found = steps.filter(|number| *number <= MOST_NUMBER).find(is_free);
    found.or_else(|| (1..=MOST_NUMBER).find(is_free)).unwrap_or(from)
}

impl Logbook {
    /// Returns what every session is called.
    pub(crate) fn names(&self) -> Result<Names, LogbookError> {
        let _moment = self.moment()?;
        let calls = self.calls()?;
        let query = "SELECT id, rig, number, started, mark, found ->> '$.machine' FROM session";
        let rows = self.rows(query, &[], |row| {
            let machine: Option<String> = row.get(5)?;
            let session = Recorded {
                id: row.get(0)?,
                rig: row.get(1)?,
                number: row.get(2)?,
                started: row.get(3)?,
                mark: row.get(4)?,
            };
            Ok((session, machine.unwrap_or_default()))
        })?;
        let called = rows.into_iter().map(|(session, machine)| {
            match calls.get(&(session.rig.clone(), machine)) {
                Some(rig) => Recorded { rig: rig.clone(), ..session },
                None => session,
            }
        });
        let by_id: HashMap<i64, SessionName> = names(called.collect()).into_iter().collect();
        if by_id.values().any(|name| !is_rig_name(&name.rig)) {
            return Err(self.damaged("the name of a rig"));
        }
        let ids = by_id.iter().map(|(&id, name)| (name.clone(), id)).collect();
        Ok(Names { by_id, ids })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_sessions_of_one_name_are_told_apart_whatever_came_first() {
        let recorded = |id, started: &str, mark: &str| Recorded {
            rig: "heron".into(),
            number: 3,
            started: started.into(),
            mark: mark.into(),
            id,
        };
        let (early, late) = (recorded(7, "2026-03-01", "b"), recorded(2, "2026-03-02", "a"));
        for all in [vec![early.clone(), late.clone()], vec![late, early]] {
            let found = names(all);
            assert_eq!(found[&7].to_string(), "heron-3");
            assert_eq!(found[&2].to_string(), "heron-1003");
        }
    }
}
