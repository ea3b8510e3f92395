//! Parts of a rig: what each is, and since when.

use crate::unit::Date;

/// A part of a rig, by name: a component, a driver, a setting of the machine.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RigPart {
    /// What the study calls it.
    pub name: String,
    /// What it is since when, the earliest first; what has no day was there from the beginning.
    pub history: Vec<(Option<Date>, String)>,
}

impl RigPart {
    /// Returns a part that was never another.
    pub fn always(name: &str, is: &str) -> Self {
        Self { name: name.to_owned(), history: vec![(None, is.to_owned())] }
    }

    /// Returns what it was on a day; what it is now where the day is not known, and nothing ahead of its first day.
    pub fn on(&self, day: Option<Date>) -> Option<&str> {
        let there = |since: &&(Option<Date>, String)| match (since.0, day) {
            (Some(from), Some(day)) => from <= day,
            _ => true,
        };
        self.history.iter().rfind(there).map(|(_, is)| is.as_str())
    }

    /// Returns what it is now.
    pub fn now(&self) -> Option<&str> {
        self.on(None)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_part_is_what_it_was_on_the_day() {
        let day = |text: &str| Date::parse(text).ok();
        let memory = RigPart {
            name: "memory".into(),
            history: vec![(None, "32 GB".into()), (day("2026-03-09"), "64 GB".into())],
        };
        assert_eq!(memory.on(day("2026-03-08")), Some("32 GB"));
        assert_eq!(memory.on(day("2026-03-09")), Some("64 GB"));
        assert_eq!((memory.on(None), memory.now()), (Some("64 GB"), Some("64 GB")));
        let card = RigPart { history: vec![(day("2026-03-09"), "L4".into())], ..memory };
        assert_eq!(card.on(day("2026-03-08")), None, "there was none, or nobody says which");
        assert_eq!(RigPart::always("card", "L4").on(day("2026-03-08")), Some("L4"));
    }
}
