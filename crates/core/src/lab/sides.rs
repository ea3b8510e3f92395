//! Which sessions stand before a change and which after it: named one by one, or by the day of the change.

use super::records::Lab;
use crate::record::SessionName;
use crate::unit::Date;
use std::collections::BTreeSet;

/// A session on one side of a change, or the day of the change: all that a rig measured on that side of it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum OnSide {
    /// One session.
    Session(SessionName),
    /// Those of the days before it, or of it and the days that follow.
    Day(Date),
}

/// The sessions of one rig on both sides.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Sides {
    /// Before the change.
    pub before: Vec<SessionName>,
    /// After it.
    pub after: Vec<SessionName>,
}

/// Why sessions are no two sides of a change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SidesError {
    /// No such session is on record.
    Unknown(SessionName),
    /// They are of several rigs.
    SeveralRigs,
    /// A day names no rig, and several have sessions.
    WhichRig(Vec<String>),
    /// One session stands on both sides.
    OnBoth(SessionName),
    /// Nothing was measured before a day, or from it on.
    Nothing {
        /// On which rig.
        rig: String,
        /// Which day.
        day: Date,
        /// Nothing before it; otherwise, nothing from it on.
        before: bool,
        /// The first and the last day that it has sessions of, where any is known.
        has: Option<(Date, Date)>,
    },
    /// All that is said to be before the change was measured later than all that is said to be after it.
    Exchanged,
}

impl Lab {
    /// Returns the sessions before and after a change of one rig: of `rigs` where one is named, of the only one there is.
    ///
    /// * Errors: as [`SidesError`] has them. Sessions are told apart by the day that they were measured on, which need not
    ///   be the order in which they came on record.
    pub fn sides(
        &self,
        rigs: &[String],
        before: &[OnSide],
        after: &[OnSide],
    ) -> Result<Sides, SidesError> {
        let rig = self.rig_of_change(rigs, before, after)?;
        let sides = Sides {
            before: self.on_side(&rig, before, true)?,
            after: self.on_side(&rig, after, false)?,
        };
        if let Some(both) = sides.before.iter().find(|name| sides.after.contains(name)) {
            return Err(SidesError::OnBoth(both.clone()));
        }
        let first = sides.before.iter().filter_map(|name| self.day_of(name)).min();
        let last = sides.after.iter().filter_map(|name| self.day_of(name)).max();
        match first.zip(last) {
            Some((first, last)) if first > last => Err(SidesError::Exchanged),
            _ => Ok(sides),
        }
    }

    fn rig_of_change(
        &self,
        rigs: &[String],
        before: &[OnSide],
        after: &[OnSide],
    ) -> Result<String, SidesError> {
        let mut named: BTreeSet<&str> = rigs.iter().map(String::as_str).collect();
        for side in before.iter().chain(after) {
            let OnSide::Session(name) = side else { continue };
            if !self.sessions().iter().any(|known| known.name == *name) {
                return Err(SidesError::Unknown(name.clone()));
            }
            named.insert(&name.rig);
        }
        if named.is_empty() {
            named = self.sessions().iter().map(|session| session.name.rig.as_str()).collect();
            if named.len() > 1 {
                return Err(SidesError::WhichRig(named.into_iter().map(str::to_owned).collect()));
            }
        }
        let mut named = named.into_iter();
        match (named.next(), named.next()) {
            (Some(rig), None) => Ok(rig.to_owned()),
            _ => Err(SidesError::SeveralRigs),
        }
    }

    fn on_side(
        &self,
        rig: &str,
        side: &[OnSide],
        before: bool,
    ) -> Result<Vec<SessionName>, SidesError> {
        let of_rig = || self.sessions().iter().filter(|session| session.name.rig == rig);
        let mut all = Vec::new();
        for named in side {
            let day = match named {
                OnSide::Session(name) => {
                    all.push(name.clone());
                    continue;
                }
                OnSide::Day(day) => *day,
            };
            let is_in = |of: Date| if before { of < day } else { of >= day };
            let found: Vec<SessionName> = of_rig()
                .filter(|session| session.day.is_some_and(is_in))
                .map(|session| session.name.clone())
                .collect();
            if found.is_empty() {
                let days = || of_rig().filter_map(|session| session.day);
                let (rig, has) = (rig.to_owned(), days().min().zip(days().max()));
                return Err(SidesError::Nothing { rig, day, before, has });
            }
            all.extend(found);
        }
        let mut seen = BTreeSet::new();
        all.retain(|name| seen.insert(name.clone()));
        Ok(all)
    }

    fn day_of(&self, session: &SessionName) -> Option<Date> {
        self.sessions().iter().find(|known| known.name == *session)?.day
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::Records;
    use crate::record::{Origin, RigFound, SessionAbout, SessionRecord, Study};

    fn name(text: &str) -> SessionName {
        SessionName::parse(text).unwrap()
    }

    fn session(text: &str) -> OnSide {
        OnSide::Session(name(text))
    }

    fn day(text: &str) -> OnSide {
        OnSide::Day(Date::parse(text).unwrap())
    }

    /// Typed in on one evening, and not in the order in which it was measured.
    fn lab(days: &[(&str, &str)]) -> Lab {
        let record = |(session, day): &(&str, &str)| SessionRecord {
            name: name(session),
            started: "2026-06-01T20:00:00Z".into(),
            seed: 0,
            tool: String::new(),
            found: RigFound::default(),
            versions: Vec::new(),
            about: SessionAbout {
                origin: Origin::Entered,
                on: Date::parse(day).ok(),
                ..SessionAbout::default()
            },
        };
        let sessions = days.iter().map(|day| (record(day), None)).collect();
        Lab::of(Study::default(), Records { sessions, ..Records::default() })
    }

    const DAYS: [(&str, &str); 4] = [
        ("heron-1", "2026-05-02"),
        ("heron-2", "2026-03-01"),
        ("heron-3", "2026-03-09"),
        ("heron-4", "2026-05-20"),
    ];

    #[test]
    fn a_day_stands_for_the_sessions_on_its_side_by_when_they_were_measured() {
        let lab = lab(&DAYS);
        let sides = lab.sides(&[], &[day("2026-05-02")], &[day("2026-05-02")]).unwrap();
        assert_eq!(sides.before, [name("heron-2"), name("heron-3")]);
        assert_eq!(sides.after, [name("heron-1"), name("heron-4")]);
        let sides = lab.sides(&[], &[day("2026-05-02"), session("heron-2")], &[session("heron-4")]);
        assert_eq!(sides.unwrap().before, [name("heron-2"), name("heron-3")], "each once");
        let there_and_back = lab.sides(
            &[],
            &[session("heron-2"), session("heron-4")],
            &[session("heron-1"), session("heron-3")],
        );
        assert!(there_and_back.is_ok(), "a change that was taken back in between");
    }

    #[test]
    fn what_is_no_two_sides_of_one_rig_is_refused() {
        let lab = lab(&[DAYS.as_slice(), &[("wren-1", "2026-05-03")]].concat());
        let sides = |before: OnSide, after: OnSide| lab.sides(&[], &[before], &[after]);
        let unknown = sides(session("heron-9"), session("heron-1"));
        assert_eq!(unknown, Err(SidesError::Unknown(name("heron-9"))));
        assert_eq!(sides(session("heron-1"), session("heron-2")), Err(SidesError::Exchanged));
        let several = sides(session("heron-2"), session("wren-1"));
        assert_eq!(several, Err(SidesError::SeveralRigs));
        let both = sides(session("heron-1"), day("2026-03-09"));
        assert_eq!(both, Err(SidesError::OnBoth(name("heron-1"))));
        let which = sides(day("2026-05-02"), day("2026-05-02"));
        assert_eq!(which, Err(SidesError::WhichRig(vec!["heron".into(), "wren".into()])));
        let on = Date::parse("2026-05-03").unwrap();
        let nothing = lab.sides(&["wren".into()], &[OnSide::Day(on)], &[OnSide::Day(on)]);
        let has = Some((on, on));
        let none_before = SidesError::Nothing { rig: "wren".into(), day: on, before: true, has };
        assert_eq!(nothing, Err(none_before));
    }
}
