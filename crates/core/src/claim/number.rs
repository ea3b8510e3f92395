//! Numbers, bounds and quantities of a sentence.

use super::names::ClaimError;
use super::sentence::Bound;
use super::words::{Read, Reader};
use crate::record::SECONDS;
use crate::unit::{Unit, parse_span};

#[derive(Clone)]
pub(super) struct Number {
    pub(super) value: f64,
    pub(super) percent: bool,
    pub(super) said: String,
}

impl Number {
    /// Returns the number of what is said without one.
    pub(super) fn one() -> Self {
        Self { value: 1.0, percent: false, said: String::new() }
    }
}

impl Reader<'_> {
    pub(super) fn bound(&mut self) -> Option<Bound> {
        let begun = self.at;
        let first = self.peek()?.to_lowercase();
        self.at += 1;
        let found = match first.as_str() {
            "at" if self.word("least") => Some(Bound::AtLeast),
            "at" if self.word("most") => Some(Bound::AtMost),
            "more" | "less" if !self.word("than") => None,
            "more" | "above" | "over" => Some(Bound::AtLeast),
            "less" | "below" | "under" => Some(Bound::AtMost),
            "about" | "roughly" | "around" => Some(Bound::About),
            "upto" => Some(Bound::UpTo),
            _ => None,
        };
        if found.is_none() {
            self.at = begun;
        }
        found
    }

    /// Reads `20%`, `1.6×`, `3 times`, `half`, `twice`.
    pub(super) fn number(&mut self) -> Option<Number> {
        let said = self.peek()?.to_lowercase();
        let named = [
            ("half", 0.5),
            ("third", 1.0 / 3.0),
            ("quarter", 0.25),
            ("twice", 2.0),
            ("double", 2.0),
            ("thrice", 3.0),
        ];
        let plain = |value| Number { value, percent: false, said: said.clone() };
        if let Some((_, value)) = named.iter().find(|(name, _)| *name == said) {
            self.at += 1;
            return Some(plain(*value));
        }
        let begun = self.at;
        self.at += 1;
        let share = said.strip_suffix('%').map(str::to_owned).or_else(|| {
            let sign = ["%", "percent"].iter().any(|sign| self.word(sign));
            sign.then(|| said.clone())
        });
        let times = said.strip_suffix(['x', '×']).map(str::to_owned).or_else(|| {
            let sign = ["x", "×", "times"].iter().any(|sign| self.word(sign));
            sign.then(|| said.clone())
        });
        let value = |text: &str| text.parse::<f64>().ok().filter(|n| n.is_finite() && *n >= 0.0);
        let found = match (share, times) {
            (Some(text), _) => {
                let said = format!("{text} %");
                value(&text).map(|n| Number { value: n / 100.0, percent: true, said })
            }
            (None, Some(text)) => value(&text).filter(|n| *n > 0.0).map(plain),
            (None, None) => None,
        };
        if found.is_none() {
            self.at = begun;
        }
        found
    }

    /// Reads `between 20 and 30%`, `20 to 30%`, `1.5 to 2 times`, if that stands here.
    pub(super) fn range(&mut self) -> Option<(Number, Number)> {
        let begun = self.at;
        let between = self.word("between") || self.word("from");
        let found = (|| {
            let said = self.peek()?.trim_end_matches(['%', 'x', '×']).to_owned();
            let low: f64 = said.parse().ok().filter(|n: &f64| n.is_finite() && *n >= 0.0)?;
            self.at += 1;
            self.word("%");
            if !(self.word("to") || between && self.word("and")) {
                return None;
            }
            let high = self.number()?;
            let value = if high.percent { low / 100.0 } else { low };
            Some((Number { value, ..high.clone() }, high))
        })();
        if found.is_none() {
            self.at = begun;
        }
        found
    }

    /// Returns a number in `unit`, which may be left out unless it is a time.
    pub(super) fn quantity(&mut self, unit: &str) -> Read<(f64, String)> {
        let rest = self.words[self.at..].join(" ");
        if unit == SECONDS {
            let span = parse_span(&rest).map_err(|err| ClaimError {
                problem: err.problem,
                remedy: "write a time with its unit, such as 40 s or 5:41".to_owned(),
            })?;
            self.at = self.words.len();
            return Ok((span.seconds(), SECONDS.to_owned()));
        }
        let digits = rest.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(rest.len());
        let (number, said) = (rest[..digits].parse::<f64>(), rest[digits..].trim());
        let number = number.ok().filter(|n| n.is_finite()).ok_or_else(|| self.stuck())?;
        let times = match (Unit::of(said), Unit::of(unit)) {
            _ if said.is_empty() || said == unit => Some(1.0),
            (Some(said), Some(unit)) => said.in_units_of(unit),
            _ => None,
        };
        let times = times.ok_or_else(|| ClaimError {
            problem: format!("`{said}` is not the unit of this measure"),
            remedy: match unit.is_empty() {
                true => "it is a bare number".to_owned(),
                false => format!("it is kept in {unit}"),
            },
        })?;
        self.at = self.words.len();
        Ok((number * times, unit.to_owned()))
    }
}
