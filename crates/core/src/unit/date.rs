//! Days, as people write them beside their results.

use super::UnitError;
use serde::{Deserialize, Serialize};
use std::fmt::{self, Display};
use std::ops::RangeInclusive;

/// A day of the calendar (Gregorian).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(into = "String", try_from = "String")]
pub struct Date {
    year: u16,
    month: u8,
    day: u8,
}

/// Years in which something could have been measured.
const YEARS: RangeInclusive<u16> = 1970..=2999;
const REMEDY: &str = "write the day as year-month-day: 2026-03-14";

impl Date {
    /// Returns the day, where the calendar has it.
    pub fn new(year: u16, month: u8, day: u8) -> Option<Self> {
        let leap =
            year.is_multiple_of(4) && (!year.is_multiple_of(100) || year.is_multiple_of(400));
        let last = match month {
            4 | 6 | 9 | 11 => 30,
            2 if leap => 29,
            2 => 28,
            1..=12 => 31,
            _ => return None,
        };
        (YEARS.contains(&year) && (1..=last).contains(&day)).then_some(Self { year, month, day })
    }

    /// Returns the day that `text` states: `2026-03-14`, `2026/3/14`, `14.3.2026`, `31/12/2026`; a time behind it is
    /// passed over.
    ///
    /// * Errors: no day, or one that is another where months are written first: `3/4/2026`.
    pub fn parse(text: &str) -> Result<Self, UnitError> {
        let bad = |why: &str| UnitError::new(format!("`{text}` is not a day: {why}"), REMEDY);
        let day = text.trim().split(['T', ' ']).next().unwrap_or_default();
        let sign =
            day.chars().find(|c| !c.is_ascii_digit()).ok_or_else(|| bad("it has no year"))?;
        let parts: Vec<&str> = day.split(sign).collect();
        let [a, b, c] = parts.as_slice() else { return Err(bad("it needs year, month and day")) };
        let number = |part: &str| part.parse::<u16>().map_err(|_| bad("it holds something else"));
        let (first, middle, last) = (number(a)?, number(b)?, number(c)?);
        let (year, month, day) = match sign {
            '-' | '/' | '.' if a.len() == 4 => (first, middle, last),
            _ if c.len() != 4 => return Err(bad("its year has other than four digits")),
            '.' => (last, middle, first),
            '/' | '-' if first > 12 || first == middle => (last, middle, first),
            '/' | '-' if middle > 12 => (last, first, middle),
            '/' | '-' => {
                return Err(bad(
                    "it is one day where days come first, and another where months do",
                ));
            }
            _ => return Err(bad("it is not written as one")),
        };
        let (month, day) = (u8::try_from(month).unwrap_or(0), u8::try_from(day).unwrap_or(0));
        Self::new(year, month, day).ok_or_else(|| bad("no calendar has it"))
    }
}

impl Display for Date {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:04}-{:02}-{:02}", self.year, self.month, self.day)
    }
}

impl From<Date> for String {
    fn from(date: Date) -> Self {
        date.to_string()
    }
}

impl TryFrom<String> for Date {
    type Error = String;
    fn try_from(text: String) -> Result<Self, String> {
        Self::parse(&text).map_err(|err| err.problem)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn days_are_read_as_they_are_written() {
        for text in [
            "2026-03-14",
            "2026/3/14",
            "14.3.2026",
            "14/03/2026",
            "3/14/2026",
            "2026-03-14 09:30",
            "2026-03-14T09:30:00Z",
        ] {
            assert_eq!(Date::parse(text).unwrap().to_string(), "2026-03-14", "{text}");
        }
        assert_eq!(Date::parse("4/4/2026").unwrap().to_string(), "2026-04-04");
        assert_eq!(Date::parse("29.2.2024").unwrap().to_string(), "2024-02-29");
    }

    #[test]
    fn what_is_no_day_or_one_of_two_is_refused() {
        for (text, why) in [
            ("3/4/2026", "where months do"),
            ("29.2.2026", "no calendar"),
            ("2026-13-01", "no calendar"),
            ("14.3.26", "four digits"),
            ("2026-03", "needs year, month and day"),
            ("20260314", "no year"),
            ("March 2026", "needs year, month and day"),
            ("", "no year"),
            ("a.b.2026", "needs year, month and day"),
            ("14-x-2026", "something else"),
        ] {
            let err = Date::parse(text).unwrap_err();
            assert!(err.problem.contains(why), "{text}: {}", err.problem);
        }
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(text in "[0-9./T -]{0,16}") {
            if let Ok(date) = Date::parse(&text) {
                prop_assert_eq!(Date::parse(&date.to_string()), Ok(date));
            }
        }
    }
}
