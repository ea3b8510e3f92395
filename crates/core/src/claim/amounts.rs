//! What a rig takes, uses or has: `half the energy of B`, `20% less time than B`, `at most 40 s`.

use super::number::Number;
use super::reader::in_unit;
use super::sentence::{Bound, Saying, Side, Sort};
use super::words::{Read, Reader};
use crate::record::{Measure, SECONDS, TIME};
use crate::unit::seconds_in;

impl Reader<'_> {
    /// Reads what stands behind `takes`, `uses`, `needs`, `has`, `draws`.
    pub(super) fn amounts(&mut self, a: Side) -> Read<(Saying, Option<String>)> {
        if let Some(measure) = self.peek().and_then(|word| self.known_measure(word)) {
            self.at += 1;
            self.word("of");
            let bound = self.bound().unwrap_or(Bound::About);
            let (value, unit) = self.quantity(&measure.unit)?;
            return Ok((Saying::Value { a, bound, value, unit }, Some(measure.name)));
        }
        let said = self.bound();
        let begun = self.at;
        if let Some((low, high)) = self.range()
            && let Some(found) = self.between_of(&a, &low, &high)?
        {
            return Ok(found);
        }
        self.at = begun;
        if let Some(found) = self.more_or_less(&a, said)? {
            return Ok(found);
        }
        if let Some(number) = self.number().filter(|number| !number.percent || self.names_of()) {
            if let Some(found) = self.as_much(&a, &number, said)? {
                return Ok(found);
            }
            self.word("of");
            if self.names_of() {
                let measure = self.measure_until("of")?;
                let (b, bound) = (self.side()?, said.unwrap_or(Bound::About));
                let (sort, ratio, faster_by) = (Sort::Values, number.value, None);
                let saying = Saying::Ratio { a, b, sort, bound, ratio, faster_by };
                return Ok((saying, Some(measure)));
            }
        }
        self.at = begun;
        if let Some(found) = self.as_much(&a, &Number::one(), said)? {
            return Ok(found);
        }
        let bound = said.unwrap_or(Bound::About);
        // Watts and joules name their measure; a time is the time of the lap.
        let rest = self.words[self.at..].join(" ");
        let unit = rest.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.').trim();
        let other = |measure: &&Measure| seconds_in(unit).is_none() && in_unit(measure, unit);
        let measure = self.names.measures.iter().find(other).cloned().filter(|_| !unit.is_empty());
        let (kept_in, name) =
            measure.map_or((SECONDS.to_owned(), TIME.to_owned()), |m| (m.unit, m.name));
        let (value, unit) = self.quantity(&kept_in)?;
        Ok((Saying::Value { a, bound, value, unit }, Some(name)))
    }

    /// Returns whether the rest of the sentence says what something is of.
    fn names_of(&self) -> bool {
        self.words[self.at..].iter().any(|word| word.eq_ignore_ascii_case("of"))
    }

    /// Reads `20% less time than B`, `less energy than B`, `longer than B`, if it stands here.
    fn more_or_less(
        &mut self,
        a: &Side,
        said: Option<Bound>,
    ) -> Read<Option<(Saying, Option<String>)>> {
        let begun = self.at;
        let number = self.number();
        let less = match () {
            () if self.word("less") || self.word("fewer") => true,
            () if self.word("more") => false,
            () if self.word("longer") => {
                self.at -= 1;
                false
            }
            () => {
                self.at = begun;
                return Ok(None);
            }
        };
        let measure = match self.word("longer") {
            true if self.word("than") => TIME.to_owned(),
            true => return Err(self.stuck()),
            false => self.measure_until("than")?,
        };
        let b = self.side()?;
        let (ratio, bound) = match number {
            None if said.is_some() => return Err(self.stuck()),
            None => (1.0, if less { Bound::Below } else { Bound::Above }),
            Some(number) if !number.percent => return Err(self.stuck()),
            Some(number) if less => (1.0 - number.value, said.unwrap_or(Bound::About).turned()),
            Some(number) => (1.0 + number.value, said.unwrap_or(Bound::About)),
        };
        if ratio <= 0.0 {
            return Err(self.impossible());
        }
        let (a, sort, faster_by) = (a.clone(), Sort::Values, None);
        let saying = Saying::Ratio { a, b, sort, bound, ratio, faster_by };
        Ok(Some((saying, Some(measure))))
    }

    /// Reads `as long as B`, `as much energy as B` behind a number, if it stands here.
    fn as_much(
        &mut self,
        a: &Side,
        number: &Number,
        said: Option<Bound>,
    ) -> Read<Option<(Saying, Option<String>)>> {
        let begun = self.at;
        if number.percent || !self.word("as") {
            return Ok(None);
        }
        let measure = match () {
            () if self.word("long") && self.word("as") => TIME.to_owned(),
            () if self.word("much") || self.word("many") => self.measure_until("as")?,
            () => {
                self.at = begun;
                return Ok(None);
            }
        };
        let (b, bound) = (self.side()?, said.unwrap_or(Bound::About));
        let (a, sort, ratio, faster_by) = (a.clone(), Sort::Values, number.value, None);
        let saying = Saying::Ratio { a, b, sort, bound, ratio, faster_by };
        Ok(Some((saying, Some(measure))))
    }

    /// Reads `less time than B`, `the energy of B` behind `between 20 and 30%`, if it stands here.
    fn between_of(
        &mut self,
        a: &Side,
        low: &Number,
        high: &Number,
    ) -> Read<Option<(Saying, Option<String>)>> {
        let less = self.word("less");
        let more = !less && self.word("more");
        let (measure, ends) = match (less, more) {
            (true, _) => (self.measure_until("than")?, (1.0 - high.value, 1.0 - low.value)),
            (_, true) => (self.measure_until("than")?, (1.0 + low.value, 1.0 + high.value)),
            _ => {
                self.word("of");
                if !self.names_of() {
                    return Ok(None);
                }
                (self.measure_until("of")?, (low.value, high.value))
            }
        };
        let b = self.side()?;
        Ok(Some((self.between(a.clone(), b, Sort::Values, ends)?, Some(measure))))
    }
}
